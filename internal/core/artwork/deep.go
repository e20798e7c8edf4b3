package artwork

import (
	"bufio"
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"io"
)

// deep says that a PNG has sixteen bits a channel.
func deep(c image.Config) bool {
	switch c.ColorModel {
	case color.Gray16Model, color.RGBA64Model, color.NRGBA64Model:
		return true
	}
	return false
}

// errInterlaced is a PNG that would have to be in memory as a whole, sixteen bits a channel.
var errInterlaced = errors.New("has sixteen bits a channel and is interlaced; save it with eight, or without interlacing")

var errDeep = errors.New("artwork: a damaged PNG")

// Decode decodes a picture of any kind that is registered with package image, as it lies in the file, within the bounds of
// Measure.
func Decode(data []byte) (image.Image, error) {
	config, kind, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	if err := Measure(config.Width, config.Height); err != nil {
		return nil, err
	}
	if kind == "png" && deep(config) {
		to := &intake{w: config.Width, h: config.Height}
		if err := deepRows(data, to); err != nil {
			return nil, err
		}
		return to.picture(), nil
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	return img, err
}

// deepRows takes in a PNG of sixteen bits a channel (ISO/IEC 15948), of which the upper eight are kept, row by row. The
// standard library decodes such a picture as a whole, at eight bytes a pixel, which is more memory and time than an upload
// may cost.
func deepRows(data []byte, to *intake) error {
	head, body, transparent, err := deepChunks(data)
	if err != nil {
		return err
	}
	if head[12] != 0 {
		return errInterlaced
	}
	channels := map[byte]int{0: 1, 2: 3, 4: 2, 6: 4}[head[9]]
	if channels == 0 || head[8] != 16 {
		return errDeep
	}
	z, err := zlib.NewReader(body)
	if err != nil {
		return err
	}
	defer z.Close()
	r := bufio.NewReaderSize(z, 1<<16)
	size := 2 * channels
	now, before, row := make([]byte, 1+size*to.w), make([]byte, 1+size*to.w), make([]uint8, 4*to.w)
	for range to.h {
		if _, err := io.ReadFull(r, now); err != nil {
			return err
		}
		if err := unfilter(now[0], now[1:], before[1:], size); err != nil {
			return err
		}
		for x, at := 0, 1; x < to.w; x, at = x+1, at+size {
			p, q := now[at:at+size:at+size], row[4*x:4*x+4:4*x+4]
			switch channels {
			case 1:
				q[0], q[1], q[2], q[3] = p[0], p[0], p[0], 255
			case 2:
				q[0], q[1], q[2], q[3] = p[0], p[0], p[0], p[2]
			case 3:
				q[0], q[1], q[2], q[3] = p[0], p[2], p[4], 255
			default:
				q[0], q[1], q[2], q[3] = p[0], p[2], p[4], p[6]
			}
			if transparent != nil && bytes.Equal(p, transparent) { // the one colour that is transparent (clause 11.3.2.1)
				q[3] = 0
			}
		}
		to.push(row)
		now, before = before, now
	}
	return nil
}

// deepChunks gives the header of a PNG, its compressed rows, and the colour that is transparent in it, nil for none.
func deepChunks(data []byte) (head []byte, body io.Reader, transparent []byte, err error) {
	var parts []io.Reader
	for at := 8; at+12 <= len(data); {
		n, kind := int(binary.BigEndian.Uint32(data[at:])), string(data[at+4:at+8])
		if n < 0 || n > len(data)-at-12 {
			break
		}
		chunk := data[at+8 : at+8+n]
		if crc32.ChecksumIEEE(data[at+4:at+8+n]) != binary.BigEndian.Uint32(data[at+8+n:]) {
			return nil, nil, nil, errDeep
		}
		switch kind {
		case "IHDR":
			head = chunk
		case "tRNS":
			transparent = chunk
		case "IDAT":
			parts = append(parts, bytes.NewReader(chunk))
		}
		at += 12 + n
	}
	if len(head) != 13 || len(parts) == 0 {
		return nil, nil, nil, errDeep
	}
	return head, io.MultiReader(parts...), transparent, nil
}

// unfilter undoes the filter of a row (clause 9.2); before is the row above, size how many bytes a pixel has.
func unfilter(filter byte, now, before []byte, size int) error {
	switch filter {
	case 0:
	case 1:
		for i := size; i < len(now); i++ {
			now[i] += now[i-size]
		}
	case 2:
		for i, v := range before {
			now[i] += v
		}
	case 3:
		for i := range now {
			left := 0
			if i >= size {
				left = int(now[i-size])
			}
			now[i] += uint8((left + int(before[i])) / 2)
		}
	case 4:
		for i := range now {
			var a, c int
			if i >= size {
				a, c = int(now[i-size]), int(before[i-size])
			}
			now[i] += paeth(a, int(before[i]), c)
		}
	default:
		return fmt.Errorf("%w: filter %d", errDeep, filter)
	}
	return nil
}

// paeth is the predictor of clause 9.4: of left, above and above left, the one nearest to their sum.
func paeth(a, b, c int) uint8 {
	pa, pb, pc := b-c, a-c, a+b-2*c
	pa, pb, pc = max(pa, -pa), max(pb, -pb), max(pc, -pc)
	switch {
	case pa <= pb && pa <= pc:
		return uint8(a)
	case pb <= pc:
		return uint8(b)
	}
	return uint8(c)
}
