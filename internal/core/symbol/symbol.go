package symbol

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"sync"
	"unicode/utf8"
)

// Charset says how a payload beyond ASCII is announced.
type Charset uint8

const (
	// CharsetAuto announces valid UTF-8 beyond ASCII with ECI 26; anything else goes out as plain bytes.
	CharsetAuto Charset = iota
	// CharsetRaw writes bytes as they are with no ECI, as payment formats want.
	CharsetRaw
)

// MaskChoice is a data mask pattern, or AutoMask for the one with the lowest penalty.
type MaskChoice uint8

// AutoMask scores all eight patterns (clause 7.8.3) and takes the lowest.
const AutoMask MaskChoice = 0

// Pattern forces data mask pattern k, 0 to 7.
func Pattern(k int) MaskChoice { return MaskChoice(k + 1) }

// Options of Encode. The zero value is level M raised for free, versions 1 to 40, the best mask, ECI 26 beyond ASCII.
type Options struct {
	Level      Level // least level; LevelAuto is M
	NoBoost    bool  // keep Level even where a higher one costs nothing
	MinVersion int   // 1 to 40; 0 is 1
	MaxVersion int   // 1 to 40; 0 is 40
	Mask       MaskChoice
	Charset    Charset
	Kanji      bool // allow kanji segments, instead of ECI 26, where that is shorter
	FNC1       bool // FNC1 in first position: the payload is GS1 element strings, 0x1D between them
}

func (o *Options) fill() error {
	if o.MinVersion == 0 {
		o.MinVersion = MinVersion
	}
	if o.MaxVersion == 0 {
		o.MaxVersion = MaxVersion
	}
	if o.Level == LevelAuto {
		o.Level = M
	}
	switch {
	case o.Level > H:
		return fmt.Errorf("symbol: no level %d", o.Level)
	case o.MinVersion < MinVersion, o.MaxVersion > MaxVersion, o.MinVersion > o.MaxVersion:
		return fmt.Errorf("symbol: versions %d to %d are not a range within 1 to 40", o.MinVersion, o.MaxVersion)
	case o.Mask > 8:
		return fmt.Errorf("symbol: data mask patterns go from 0 to 7")
	}
	return nil
}

// TooLongError says that a payload does not fit.
type TooLongError struct {
	Need  int // data codewords needed, in the widths of the largest version allowed
	Have  int // data codewords there
	Level Level
	Max   int // largest version allowed
}

func (e *TooLongError) Error() string {
	return fmt.Sprintf("symbol: needs %d codewords, version %d at level %v holds %d", e.Need, e.Max, e.Level, e.Have)
}

// Symbol is an encoded payload. It is immutable and safe for concurrent use.
type Symbol struct {
	Version  int
	Level    Level
	Mask     int // 0 to 7
	Size     int // modules along one side, without quiet zone
	Segments []Segment
	rows     []uint64
	stride   int
}

// Dark says whether the module in column x, row y is dark; outside the symbol it is not.
func (s *Symbol) Dark(x, y int) bool {
	if uint(x) >= uint(s.Size) || uint(y) >= uint(s.Size) {
		return false
	}
	return s.rows[y*s.stride+x>>6]>>(x&63)&1 == 1
}

var pool = sync.Pool{New: func() any { return new(scratch) }}

// Encode makes the smallest symbol for payload within the options, with segments of optimal length. It returns a
// *TooLongError where the payload does not fit.
func Encode(payload string, o Options) (*Symbol, error) {
	if err := o.fill(); err != nil {
		return nil, err
	}
	w := pool.Get().(*scratch)
	defer pool.Put(w)

	var ascii, low = true, 0 // low is a bound on the length in bits from below
	for i := range len(payload) {
		switch c := payload[i]; {
		case alphaValue[c] < 10:
			low += 20
		case alphaValue[c] != 255:
			low += 33
		default:
			low += 39 // a kanji character of 13 bits may take two bytes of UTF-8
			ascii = ascii && c < 0x80
		}
	}
	low /= 6
	eci := !ascii && o.Charset == CharsetAuto && utf8.ValidString(payload)
	var segs []Segment
	var need, room int
	for g := range 3 {
		lo, hi := max(o.MinVersion, groupFirst[g]), min(o.MaxVersion, groupLast[g])
		if lo > hi {
			continue
		}
		room = capacity[o.Level][hi]
		if need = (low + 7) / 8; need > room && hi != o.MaxVersion {
			continue
		}
		bits := 0
		segs = w.segs[:0]
		if o.FNC1 {
			segs, bits = append(segs, Segment{Mode: ModeFNC1}), 4
		}
		plain, more := segs, 0
		if eci {
			plain, bits = append(plain, Segment{Mode: ModeECI, ECI: ECIUTF8}), bits+12
		}
		plain, more = w.segmentBytes(payload, g, o.FNC1, plain)
		if bits += more; o.Kanji && eci && !o.FNC1 {
			if alt, short, ok := w.segmentKanji(payload, g, nil); ok && short < bits {
				plain, bits = alt, short
			}
		}
		segs, w.segs = plain, plain[:0]
		need = (bits + 7) / 8
		for v := lo; v <= hi; v++ {
			if need <= capacity[o.Level][v] {
				kept := make([]Segment, len(segs))
				copy(kept, segs)
				return w.build(kept, bits, v, o), nil
			}
		}
	}
	return nil, &TooLongError{Need: need, Have: room, Level: o.Level, Max: o.MaxVersion}
}

// EncodeSegments makes a symbol from segments as they are given. Charset, Kanji and FNC1 of the options are not used.
func EncodeSegments(segs []Segment, o Options) (*Symbol, error) {
	if err := o.fill(); err != nil {
		return nil, err
	}
	w := pool.Get().(*scratch)
	defer pool.Put(w)
	var need int
	for v := o.MinVersion; v <= o.MaxVersion; v++ {
		bits, fits := 0, true
		for _, s := range segs {
			n, err := s.bits(group(v))
			if err == errCount {
				fits = false
			} else if err != nil {
				return nil, err
			}
			bits += n
		}
		if need = (bits + 7) / 8; fits && need <= capacity[o.Level][v] {
			return w.build(append([]Segment(nil), segs...), bits, v, o), nil
		}
	}
	return nil, &TooLongError{Need: need, Have: capacity[o.Level][o.MaxVersion], Level: o.Level, Max: o.MaxVersion}
}

// build lays out segments of the given length in version v, which holds them.
func (w *scratch) build(segs []Segment, bits, v int, o Options) *Symbol {
	level := o.Level
	if !o.NoBoost {
		for level < H && (bits+7)/8 <= capacity[level+1][v] {
			level++
		}
	}
	p := planOf(v)
	bw := bitWriter{out: w.stream[:0]}
	for i := range segs {
		bw.segment(&segs[i], group(v))
	}
	bw.close(capacity[level][v])
	w.stream = bw.out
	w.interleave(v, level)

	words := p.size * p.stride
	data, dataT := w.data[:words], w.dataT[:words]
	copy(data, p.base)
	at := p.at
	for _, b := range w.mixed {
		q := at[:8]
		at = at[8:]
		data[q[0]>>6] |= uint64(b>>7) << (q[0] & 63)
		data[q[1]>>6] |= uint64(b>>6&1) << (q[1] & 63)
		data[q[2]>>6] |= uint64(b>>5&1) << (q[2] & 63)
		data[q[3]>>6] |= uint64(b>>4&1) << (q[3] & 63)
		data[q[4]>>6] |= uint64(b>>3&1) << (q[4] & 63)
		data[q[5]>>6] |= uint64(b>>2&1) << (q[5] & 63)
		data[q[6]>>6] |= uint64(b>>1&1) << (q[6] & 63)
		data[q[7]>>6] |= uint64(b&1) << (q[7] & 63)
	}
	s := &Symbol{Version: v, Level: level, Size: p.size, Segments: segs, rows: make([]uint64, words), stride: p.stride}
	over := p.overlay(level)
	if o.Mask != AutoMask {
		s.Mask = int(o.Mask) - 1
	} else {
		transpose(dataT, data, p.size, p.stride)
		best := 1 << 30
		for k := range 8 {
			if score := p.penalty(data, over.rows[k], dataT, over.columns[k], best); score < best {
				best, s.Mask = score, k
			}
		}
	}
	for i, m := range over.rows[s.Mask] {
		s.rows[i] = data[i] ^ m
	}
	return s
}

// interleave divides w.stream into blocks, adds error correction, and writes the final sequence to w.mixed (clause 7.6).
func (w *scratch) interleave(v int, l Level) {
	b := BlocksOf(v, l)
	total := totalCodewords(v)
	if cap(w.mixed) < total {
		w.mixed = make([]byte, total)
	}
	w.mixed = w.mixed[:total]
	var ec [32]byte
	data, dataEnd := w.stream, len(w.stream)
	short := b.Count - b.Long
	at := 0
	for k := range b.Count {
		n := b.Short
		if k >= short {
			n++
		}
		block := data[at : at+n]
		at += n
		for i := range b.Short {
			w.mixed[i*b.Count+k] = block[i]
		}
		if n > b.Short {
			w.mixed[b.Short*b.Count+k-short] = block[b.Short]
		}
		rsEncode(block, ec[:b.EC])
		for i := range b.EC {
			w.mixed[dataEnd+i*b.Count+k] = ec[i]
		}
	}
}

// Role says what the module in column x, row y is for. Both must lie within the symbol.
func (s *Symbol) Role(x, y int) Role {
	r := planOf(s.Version).roles[y*s.Size+x]
	if r != RoleData {
		return r
	}
	return s.layout().roles[y*s.Size+x]
}

// Codewords gives every codeword in the order of placement, with its block and its modules. The slice is shared: it must
// not be changed.
func (s *Symbol) Codewords() []Codeword { return s.layout().words }

// blockLayout depends on version and level only.
type blockLayout struct {
	words []Codeword
	roles []Role
}

var layouts sync.Map // [2]int{version, level} → *blockLayout

func (s *Symbol) layout() *blockLayout {
	key := [2]int{s.Version, int(s.Level)}
	if l, ok := layouts.Load(key); ok {
		return l.(*blockLayout)
	}
	p, b := planOf(s.Version), BlocksOf(s.Version, s.Level)
	l := &blockLayout{words: make([]Codeword, totalCodewords(s.Version)), roles: append([]Role(nil), p.roles...)}
	data := capacity[s.Level][s.Version]
	short := b.Count - b.Long
	for i := range l.words {
		w := &l.words[i]
		switch {
		case i < b.Short*b.Count:
			w.Block, w.Index = i%b.Count, i/b.Count
		case i < data:
			w.Block, w.Index = short+i-b.Short*b.Count, b.Short
		default:
			w.EC = true
			w.Block = (i - data) % b.Count
			w.Index = b.Short + (i-data)/b.Count
			if w.Block >= short {
				w.Index++
			}
		}
		for j := range 8 {
			a := int(p.at[i*8+j])
			x, y := a&63|(a>>6%p.stride)<<6, a>>6/p.stride
			w.Modules[j] = y*s.Size + x
			if w.EC {
				l.roles[y*s.Size+x] = RoleEC
			}
		}
	}
	layouts.Store(key, l)
	return l
}

// Used is the number of data codewords that the segments take, the last one counted whole.
func (s *Symbol) Used() int {
	bits := 0
	for _, g := range s.Segments {
		n, _ := g.bits(group(s.Version)) // they were written already
		bits += n
	}
	return (bits + 7) / 8
}

// Digest names the modules of a symbol, so that two can be compared.
func (s *Symbol) Digest() string {
	h := sha256.New()
	row := make([]byte, s.Size)
	for y := range s.Size {
		for x := range row {
			row[x] = '0'
			if s.Dark(x, y) {
				row[x] = '1'
			}
		}
		h.Write(row)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
