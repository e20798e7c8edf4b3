// Package readers puts engines that find and read symbols behind proof.Reader: gozxing and our own detector in this process,
// zbar and zxing-cpp as bounded processes. A reader can never hang or crash its caller, and at most cores − 1 work at once.
package readers

import (
	"context"
	"fmt"
	"image"
	"os/exec"
	"runtime"
	"strings"
	"time"

	"sodrik/internal/core/proof"
	"sodrik/internal/core/symbol/detect"
)

// Limits of one batch of readings.
const (
	perPicture = 500 * time.Millisecond
	maxOutput  = 64 << 10 // bytes a picture
)

// deadline is for one picture, or for a process to start; tests shorten it.
var deadline = 5 * time.Second

// slots bounds how many readers work at once in this process.
var slots = make(chan struct{}, max(1, runtime.NumCPU()-1))

// AtOnce lets so many readers work at once from now on. It is for programs that do nothing else, at their start: a server
// keeps a core for its pages.
func AtOnce(n int) { slots = make(chan struct{}, max(1, n)) }

func slot(ctx context.Context) (release func(), err error) {
	select {
	case slots <- struct{}{}:
		return func() { <-slots }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Families that a full panel holds. gozxing and zxing-cpp are one lineage, so that they count once.
var Families = []string{"zbar", "zxing", proof.Own}

// Panel is the readers that work on this machine. Missing engines are simply not in it; proof names their family.
func Panel() proof.Panel {
	p := proof.Panel{Families: Families, Readers: []proof.Reader{Ours(), Gozxing()}}
	if path, err := exec.LookPath("zbarimg"); err == nil {
		p.Readers = append(p.Readers, process{"zbar", "zbar", path, zbarArgs, zbarTexts})
	}
	if path, err := exec.LookPath("ZXingReader"); err == nil {
		p.Readers = append(p.Readers, process{"zxing-cpp", "zxing", path, zxingArgs, zxingTexts})
	}
	return p
}

// Version names the panel and the model of the proof, for caching proofs made with them.
func Version(p proof.Panel) string {
	names := []string{proof.Model}
	for _, r := range p.Readers {
		names = append(names, r.Name())
	}
	return strings.Join(names, " ")
}

// Ours is the detector of package detect, which also tells how many codewords it corrected.
func Ours() proof.Reader {
	return inside{proof.Own, proof.Own, func(img *image.Gray) ([]string, []int, error) {
		found := detect.Find(img, 1)
		if len(found) == 0 {
			return nil, nil, nil
		}
		return []string{found[0].Payload}, found[0].ByBlock, nil
	}}
}

// inside is an engine in this process.
type inside struct {
	name, family string
	look         func(*image.Gray) (payloads []string, spent []int, err error)
}

func (r inside) Name() string   { return r.name }
func (r inside) Family() string { return r.family }

func (r inside) Read(ctx context.Context, pictures []*image.Gray) []proof.Answer {
	out := make([]proof.Answer, len(pictures))
	for i, img := range pictures {
		out[i] = r.one(ctx, img)
	}
	return out
}

// one looks at one picture; an engine that runs on is left behind with its slot given back.
func (r inside) one(ctx context.Context, img *image.Gray) proof.Answer {
	release, err := slot(ctx)
	if err != nil {
		return proof.Answer{Err: err}
	}
	defer release()
	start := time.Now()
	done := make(chan proof.Answer, 1)
	go func() {
		var a proof.Answer
		defer func() {
			if p := recover(); p != nil { // indices run wild on some noise
				a = proof.Answer{Err: fmt.Errorf("%s failed: %v", r.name, p)}
			}
			done <- a
		}()
		a.Payloads, a.Spent, a.Err = r.look(img)
	}()
	late := time.NewTimer(deadline)
	defer late.Stop()
	var a proof.Answer
	select {
	case a = <-done:
	case <-ctx.Done():
		a.Err = ctx.Err()
	case <-late.C:
		a.Err = fmt.Errorf("%s gave no answer within %v", r.name, deadline)
	}
	a.MS = float64(time.Since(start).Microseconds()) / 1000
	return a
}
