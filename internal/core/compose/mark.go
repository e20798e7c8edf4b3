package compose

import (
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"math"
	"strings"

	"sodrik/internal/core/artwork"
	"sodrik/internal/core/job"
	"sodrik/internal/core/layout"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/symbol"
)

// Assets finds uploads by their source, "asset:sha256-…"; ok is false for what is not there. nil has none.
type Assets func(source string) (u artwork.Upload, ok bool)

// artOf finds what a source names. Icons come with Sodrik, data: addresses carry what they mean.
// Art gives a drawing by its source, "icon:…", "asset:…" or "data:…".
func (find Assets) Art(source string) (*artwork.Art, error) {
	a, p := find.artOf(source)
	if p != nil {
		return nil, *p
	}
	return a, nil
}

func (find Assets) artOf(source string) (*artwork.Art, *problem.Problem) {
	wrong := func(code, format string, args ...any) (*artwork.Art, *problem.Problem) {
		return nil, &problem.Problem{Field: "/look/mark/source", Code: code, Message: fmt.Sprintf(format, args...)}
	}
	scheme, rest, _ := strings.Cut(source, ":")
	switch scheme {
	case "icon":
		if a, ok := artwork.Icon(rest); ok {
			return a, nil
		}
		if like := artwork.Icons(rest, 3); len(like) > 0 {
			return wrong("mark.icon", "there is no icon called %q; there is %s", rest, strings.Join(like, ", "))
		}
		return wrong("mark.icon", "there is no icon called %q; sprout is one", rest)
	case "data":
		a, err := inline(source)
		if err != nil {
			return wrong("mark.data", "%v", err)
		}
		return a, nil
	}
	if find != nil {
		if a, ok := find(source); ok {
			switch a := a.(type) {
			case *artwork.Art:
				return a, nil
			case *artwork.Sheet:
				return wrong("mark.artwork", "is artwork that a code lies on; choose a drawing or a picture")
			case *artwork.Type:
				return wrong("mark.typeface", "is a typeface, no drawing; choose a drawing or a picture")
			}
		}
	}
	return wrong("mark.missing", "%.60q is not among the uploads here; upload the file again, or take it from its data: address",
		source)
}

// inlined keeps what was read from data: addresses last.
var inlined artwork.Shelf

func inline(source string) (*artwork.Art, error) {
	sum := sha256.Sum256([]byte(source))
	key := string(sum[:])
	if a, ok := inlined.Get(key).(*artwork.Art); ok {
		return a, nil
	}
	data, err := dataOf(source)
	if err != nil {
		return nil, err
	}
	a, err := artwork.Read(data)
	if err != nil {
		return nil, err
	}
	inlined.Put(key, a)
	return a, nil
}

// dataOf is what a data: address carries.
func dataOf(source string) ([]byte, error) {
	head, body, ok := strings.Cut(source, ",")
	if !ok || !strings.HasSuffix(head, ";base64") {
		return nil, fmt.Errorf("is no data: address in base64; it begins like data:image/png;base64,")
	}
	data, err := base64.StdEncoding.DecodeString(strings.TrimSpace(body))
	if err != nil {
		return nil, fmt.Errorf("is not whole base64: %v", err)
	}
	return data, nil
}

// fitting is one way to give a mark its room.
type fitting struct {
	symbol *symbol.Symbol
	mark   *layout.Marked
}

func (f fitting) ok() bool {
	return f.mark != nil && !f.mark.Damage.Protected && f.mark.Damage.Reserve >= f.mark.Look.Reserve-1e-9
}

// enlarge is by how many versions a symbol grows at most to make room for a mark, before the mark is made smaller.
const enlarge = 4

// shrinkStep is by how much of the symbol's side a mark is narrowed at a time.
const shrinkStep = 0.005

// fitMark lays the mark onto the symbol so that the reserve asked for is kept and no protected pattern is touched: as it is;
// else in a larger symbol, which brings a higher level with it; else narrower, in the symbol that allows it to be widest. did
// says what was done, "" for nothing.
func fitMark(j *job.Job, s *symbol.Symbol, o symbol.Options, again func(symbol.Options) (*symbol.Symbol, error),
	find Assets) (f fitting, did string, problems problem.List) {
	if crossed(j) {
		problems.Add("/look/mark", "mark.cross",
			"cannot be laid over the Swiss cross, which a QR-bill carries in its middle; take the mark out")
		return f, "", problems
	}
	m := j.Look.Mark
	art, bad := find.artOf(m.Source)
	if bad != nil {
		return f, "", problem.List{*bad}
	}
	if m.Ground == "cut" {
		art = art.CutOut()
	}
	keep := fmt.Sprintf("to keep %s %% of its error correction", measure.Number(m.Reserve*100, 0))
	f = fitting{s, layout.Place(s, m, art)}
	if f.ok() {
		return f, "", nil
	}
	touched := f.mark.Damage.Protected
	tries := []*symbol.Symbol{s}
	most := o.MaxVersion
	if most == 0 {
		most = symbol.MaxVersion
	}
	for v := s.Version + 1; v <= min(s.Version+enlarge, most); v++ {
		larger := o
		larger.MinVersion = v
		t, err := again(larger)
		if err != nil || t.Version != v {
			continue
		}
		tries = append(tries, t)
		if g := (fitting{t, layout.Place(t, m, art)}); g.ok() {
			why := keep
			if touched {
				why = "so the mark covers nothing that phones need"
			}
			return g, fmt.Sprintf("Grew from %d × %d to %d × %d %s.", s.Size, s.Size, t.Size, t.Size, why), nil
		}
	}
	best := fitting{}
	for _, t := range tries {
		narrow := m
		for narrow.Width = floorTo(m.Width,
			shrinkStep); narrow.Width >= 0.04-1e-9; narrow.Width = floorTo(narrow.Width-shrinkStep, shrinkStep) {
			if best.mark != nil && narrow.Width <= best.mark.Look.Width+1e-9 {
				break
			}
			if g := (fitting{t, layout.Place(t, narrow, art)}); g.ok() {
				best = g
				break
			}
		}
	}
	if best.mark == nil {
		what := "leaves less than " + measure.Number(m.Reserve*100, 0) + " % of its error correction at any width"
		if f.mark.Damage.Protected {
			what = "lies on an eye, or on the format or version information, which readers cannot do without"
		}
		problems.Add("/look/mark", "mark.room", "%s; move it to the middle, choose a narrower clearing, or a lower reserve", what)
		return f, "", problems
	}
	did = fmt.Sprintf("Mark shrunk from %s to %s of the side, %s.", percent(m.Width), percent(best.mark.Look.Width), keep)
	if best.symbol != s {
		did = strings.TrimSuffix(did, ".") + fmt.Sprintf(", in a symbol enlarged to %d × %d %v.", best.symbol.Size,
			best.symbol.Size, best.symbol.Level)
	}
	return best, did, nil
}

func percent(f float64) string { return measure.Number(f*100, 1) + " %" }

func floorTo(f, step float64) float64 { return math.Round(math.Floor(f/step+1e-6)*step*1e4) / 1e4 }
