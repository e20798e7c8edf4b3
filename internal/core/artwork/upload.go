package artwork

import (
	"sodrik/internal/core/scene"
	"sodrik/internal/core/typeface"
)

// Upload is what a file that came in turned out to be: an *Art, which is drawn; a *Sheet, which a code lies on; or a *Type,
// which words are set in.
type Upload interface {
	Aspect() float64   // width by height, 0 of a typeface
	Leftout() []string // what of the file was left out, and what was changed, in words
	held() int         // bytes of memory: pixels, and the file where it is kept
}

// Rebuilt is an upload of which a file of ours is kept in place of the one that came in: the same upload gives the same
// bytes, which read back as the same.
type Rebuilt interface {
	Upload
	Normal() []byte
}

// Type is a typeface that came in as a file.
type Type struct{ *typeface.Face }

func (a *Art) Aspect() float64   { return a.Width / a.Height }
func (s *Sheet) Aspect() float64 { return s.Width / s.Height }
func (t *Type) Aspect() float64  { return 0 }

func (a *Art) Leftout() []string   { return a.Left }
func (s *Sheet) Leftout() []string { return s.Left }
func (t *Type) Leftout() []string  { return nil }

func (a *Art) held() int   { return pixelsOf(a.Items) }
func (s *Sheet) held() int { return pixelsOf(s.Items) + len(s.PDF) }
func (t *Type) held() int  { return len(t.Data()) }

func pixelsOf(items []scene.Item) (n int) {
	for _, it := range items {
		if it.Picture != nil && it.Picture.Pixels != nil {
			n += len(it.Picture.Pixels.Pix)
		}
	}
	return n
}
