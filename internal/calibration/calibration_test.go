package calibration

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"image"
	"maps"
	"math"
	"math/rand"
	"os"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/job"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

var (
	manyCodes  = flag.Int("codes", 4, "codes drawn at random")
	manyPlaced = flag.Int("placed", 1,
		"codes at places drawn at random: widths of 10 to 600 mm from 100 mm to 5 m, as far as they fit the picture")
	manyCoarse    = flag.Int("coarse", 1, "codes on stock that spreads ink, their modules small and mostly joined")
	manyOptimised = flag.Int("optimised", 1, "codes that the proof's own fixes brought to safe")
	workers       = flag.Int("workers", runtime.NumCPU(), "codes worked on at once")
	seed          = flag.Int64("seed", 42, "of the codes and of the pictures")
	dressedToo    = flag.Bool("dressed", false, "codes in discs and on backdrops")
	onlyLines     = flag.Int("lines", 0, "lines of every phone's video, as 720; 0 draws 1,080 or 2,160")
	record        = flag.String("record", "",
		"`file` that keeps what became of each code; what it holds already is not done again")
)

func TestMain(m *testing.M) {
	flag.Parse()
	readers.AtOnce(runtime.NumCPU())
	os.Exit(m.Run())
}

const looks = 20 // pictures of every code

// result is what became of one code.
type result struct {
	Verdict  proof.Verdict  `json:"verdict,omitempty"`
	Rule     bool           `json:"rule,omitempty"`     // a rule has something against it, not only readings
	Findings string         `json:"findings,omitempty"` // codes of those that lower the verdict
	Read     map[string]int `json:"read,omitempty"`     // of looks, by family
	Engines  map[string]int `json:"engines,omitempty"`  // of looks, by reader
	// what the proof went by: pictures read, by condition and family
	Shown map[string]map[string]int `json:"shown,omitempty"`
	Per   float64                   `json:"per,omitempty"`  // pixels a module from its distance
	Near  bool                      `json:"near,omitempty"` // drawn around the limit of size
	Phone phone                     `json:"phone,omitzero"` // that took all of its pictures
	Job   string                    `json:"job,omitempty"`
}

// lost says how the families fared: any picture lost by some family, half of them lost by some, half of them lost by every one.
func (r result) lost() (some, half, all bool) {
	all = true
	for _, family := range readers.Families {
		n := r.Read[family]
		some = some || n < looks
		half = half || n < looks/2
		all = all && n <= looks/2
	}
	return some, half, all
}

// drawn makes a job at random: its place anywhere, or else, which is harder, from 0.6 to 10 pixels a module and denser around
// the limit; near says that it was drawn there. Now and then nothing comes of it.
func drawn(rng *rand.Rand, anywhere bool) (job string, near bool) {
	pick := func(list ...string) string { return list[rng.Intn(len(list))] }
	url := "https://marrowby.example/" + strings.Repeat("abcdefghijklmnopqrstuvwxyz-", 5)[:3+rng.Intn(100)]
	level := pick(`"auto"`, `"auto"`, `"auto"`, `"L"`, `"Q"`, `"H"`)
	var wears []string
	if rng.Float64() < 0.6 {
		wears = append(wears, `"ink":`+pick(`"#12352b"`, `"#5b1f33"`, `"#1f3a5a"`, `"#5a2d0c"`, `"#2c7a4b"`, `"#8a5a00"`,
			`"#b0641e"`, `"#9a9a9a"`,
			`{"kind":"linear","angle":30,"stops":[{"at":0,"colour":"#12352b"},{"at":1,"colour":"#a33f22"}]}`))
	}
	if rng.Float64() < 0.4 {
		wears = append(wears, `"paper":`+pick(`"#f6f0e2"`, `"#e4ead8"`, `"#d8c8a8"`))
	}
	if rng.Float64() < 0.5 {
		wears = append(wears, fmt.Sprintf(`"modules":{"join":%q,"corner":%.2f,"scale":%.2f,"motif":%q}`,
			pick("none", "none", "rows", "columns", "all"), rng.Float64(), 0.6+0.4*rng.Float64(),
			pick("square", "disc", "diamond", "leaf", "tab")))
	}
	if rng.Float64() < 0.5 {
		wears = append(wears, fmt.Sprintf(`"eyes":{"ring":{"corners":[%.1f,%.1f,%.1f,%.1f]},"core":{"motif":%q}}`,
			rng.Float64()*.8, rng.Float64()*.8, rng.Float64()*.8, rng.Float64()*.8,
			pick("square", "square", "square", "square", "disc", "disc", "bean", "tab", "tab", "plus")))
	}
	if rng.Float64() < 0.35 {
		wears = append(wears, fmt.Sprintf(`"mark":{"source":%q,"clear":%q,"width":%.2f}`,
			pick("icon:sprout", "icon:leaf", "icon:store"), pick("box", "disc", "outline", "none"), 0.12+0.14*rng.Float64()))
	}
	if *dressedToo { // what the other codes do not wear
		switch rng.Intn(3) {
		case 0:
			wears = append(wears, `"outline":"round"`)
		case 1:
			wears = append(wears, fmt.Sprintf(`"backdrop":{"source":%q,"mode":%q,"strength":%.2f}`,
				pick("icon:leaf", "icon:flower-2", "icon:store"), pick("under", "halftone"), 0.2+0.6*rng.Float64()))
		default:
			wears = append(wears, fmt.Sprintf(`"outline":"round","backdrop":{"source":%q,"mode":"under","strength":%.2f}`,
				pick("icon:leaf", "icon:flower-2"), 0.2+0.4*rng.Float64()))
		}
	}
	quiet := pick(append(slices.Repeat([]string{"4"}, 37), "3", "2", "1")...)
	distance := math.Exp(math.Log(120) + rng.Float64()*math.Log(30)) // 120 mm to 3.6 m
	// pixels a module from one and a half times as far: 0.6 to 10
	per := math.Exp(math.Log(0.6) + rng.Float64()*math.Log(16))
	if near = rng.Float64() < 0.2; near {
		per = 1.7 * math.Exp(rng.NormFloat64()*0.25)
	}
	text := func(width float64) string {
		return fmt.Sprintf(
			`{"content":{"kind":"url","url":%q},"symbol":{"level":%s,"quiet_zone":%s},"look":{%s},"placements":[{"name":"a","width_mm":%.1f,"distance_mm":%.0f,"substrate":%q,"light":%q}]}`,
			url, level, quiet, strings.Join(wears, ","), width, distance,
			pick("coated", "coated", "uncoated", "newsprint", "film", "kraft"), pick("indoor", "indoor", "outdoor", "dim"))
	}
	m, problems := compose.Parse([]byte(text(100)), nil)
	if len(problems) > 0 {
		return "", near
	}
	width := per * 1.5 * distance * float64(m.Modules()) / 1170
	if anywhere {
		width, distance = math.Exp(math.Log(10)+rng.Float64()*math.Log(60)), math.Exp(math.Log(100)+rng.Float64()*math.Log(50))
	}
	if width < 6 || width > 900 || anywhere && width > distance*0.9*1080/1170 {
		return "", near
	}
	return text(width), near
}

// coarse makes a job at random where ink spreads far against a module: on kraft board and newsprint, seldom elsewhere, with
// modules that mostly run into one another, from 0.85 of the width that the substrate asks for to half as much again, at 2.2 to
// 3.8 pixels each from its distance. Nothing else is wrong with it.
func coarse(rng *rand.Rand) string {
	pick := func(list ...string) string { return list[rng.Intn(len(list))] }
	url := "https://marrowby.example/" + strings.Repeat("abcdefghijklmnopqrstuvwxyz-", 5)[:3+rng.Intn(80)]
	mark := ""
	if rng.Float64() < 0.5 {
		mark = fmt.Sprintf(`,"mark":{"source":%q,"clear":%q,"width":%.2f}`, pick("icon:sprout", "icon:leaf", "icon:store"),
			pick("box", "disc", "outline"), 0.12+0.06*rng.Float64())
	}
	substrate := pick("kraft", "kraft", "kraft", "newsprint", "newsprint", "uncoated")
	text := func(width, distance float64) string {
		return fmt.Sprintf(
			`{"content":{"kind":"url","url":%q},"symbol":{"level":%s},"look":{"ink":%s,"paper":%s,`+
				`"modules":{"join":%q,"corner":%.2f}%s},"placements":[{"name":"a","width_mm":%.1f,"distance_mm":%.0f,`+
				`"substrate":%q,"light":%q}]}`,
			url, pick(`"auto"`, `"auto"`, `"L"`, `"M"`, `"Q"`), pick(`"#5a2d0c"`, `"#12352b"`, `"#000000"`, `"#1f3a5a"`),
			pick(`"#ffffff"`, `"#ffffff"`, `"#f6f0e2"`), pick("all", "all", "rows", "columns", "none"), rng.Float64(), mark,
			width, distance, substrate, pick("indoor", "indoor", "outdoor"))
	}
	m, problems := compose.Parse([]byte(text(100, 1000)), nil)
	if len(problems) > 0 {
		return ""
	}
	s, _ := place.SubstrateOf(substrate)
	width := s.MinXDimension * (0.85 + 0.65*rng.Float64()) * float64(m.Modules())
	return text(width, 1170*width/float64(m.Modules())/(2.2+1.6*rng.Float64()))
}

// judged proves a code, and shows every reader the independent pictures of it.
func judged(t testing.TB, text string, rng *rand.Rand) (r result) {
	m, problems := compose.Parse([]byte(text), nil)
	if len(problems) > 0 {
		t.Fatalf("%s: %v", text, problems)
	}
	in, err := m.Proof(0)
	if err != nil {
		t.Fatal(err)
	}
	panel := readers.Panel()
	p, err := proof.Prove(t.Context(), in, panel, proof.Ordinary)
	if err != nil {
		t.Fatal(err)
	}
	at := m.Place(0)
	r = result{Verdict: p.Verdict, Read: map[string]int{}, Engines: map[string]int{}, Shown: map[string]map[string]int{},
		Job: text, Per: 1170 * float64(at.Width) / float64(m.Modules()) / float64(at.Distance)}
	for _, f := range p.Findings {
		if f.Severity == p.Findings[0].Severity && f.Severity != proof.SeverityNote {
			r.Findings += f.Code + " "
			r.Rule = r.Rule || !strings.HasPrefix(f.Code, "unread") && f.Code != "misread"
		}
	}
	for _, o := range p.Outcomes {
		r.Shown[o.Condition] = maps.Clone(o.Hits)
	}
	for _, e := range p.Readings {
		if h := r.Shown[e.Condition]; e.Reader != e.Family {
			h[e.Reader] = e.Hits
		}
	}
	m = m.For(at)
	r.Phone = phoneOf(rng)
	page := printed(t, m, at, r.Phone.Gain)
	module := float64(at.Width) / float64(m.Modules())
	pictures := make([]*image.Gray, looks)
	for i := range pictures {
		pictures[i] = page.shoot(float64(at.Width), m.Modules(), lookOf(at, module, r.Phone, rng), r.Phone, rng)
	}
	did := map[string][looks]bool{}
	for _, reader := range panel.Readers {
		for i, a := range reader.Read(t.Context(), pictures) {
			if a.Err == nil && slices.Equal(a.Payloads, []string{m.Payload}) {
				d := did[reader.Family()]
				d[i] = true
				did[reader.Family()] = d
				r.Engines[reader.Name()]++
			}
		}
	}
	if *outsideToo {
		maps.Copy(did, outside(t, pictures, m.Payload))
	}
	for family, d := range did {
		for _, read := range d {
			if read {
				r.Read[family]++
			}
		}
	}
	return r
}

// optimised takes a job that is not safe and does what the proof offers until it is; "" where that does not succeed. To the
// limit, it then goes down to the smallest safe width, as the desk does, from jobs that were safe too.
func optimised(t testing.TB, text string, limit bool) string {
	changed := false
	for range 10 {
		m, problems := compose.Parse([]byte(text), nil)
		if len(problems) > 0 {
			return ""
		}
		in, err := m.Proof(0)
		if err != nil { // grown beyond the pixels of a PNG
			return ""
		}
		p, err := proof.Prove(t.Context(), in, readers.Panel(), proof.Ordinary)
		if err != nil {
			t.Fatal(err)
		}
		if p.Verdict == proof.Safe {
			switch {
			case limit:
				return smallest(t, text)
			case changed:
				return text
			}
			return ""
		}
		i := slices.IndexFunc(p.Findings, func(f proof.Finding) bool { return f.Fix != nil && f.Severity != proof.SeverityNote })
		if i < 0 {
			return ""
		}
		draft, err := fields.Decode([]byte(text))
		if err != nil {
			t.Fatal(err)
		}
		after, _, err := job.Complete(draft, p.Findings[i].Fix.Patch).Apply(draft)
		if err != nil {
			t.Fatalf("%s: %q: %v", text, p.Findings[i].Fix.Label, err)
		}
		b, err := json.Marshal(after)
		if err != nil {
			t.Fatal(err)
		}
		text, changed = string(b), true
	}
	return ""
}

// smallest gives a job the smallest width at which it is safe.
func smallest(t testing.TB, text string) string {
	doc, err := fields.Decode([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	at := func(mm float64) (*compose.Rendition, string, bool) {
		with, _, err := patch.Set("/placements/0/width_mm", mm).Apply(doc)
		if err != nil {
			t.Fatal(err)
		}
		b, err := json.Marshal(with)
		if err != nil {
			t.Fatal(err)
		}
		m, problems := compose.Parse(b, nil)
		return m, string(b), len(problems) == 0
	}
	if m, problems := compose.Parse([]byte(text), nil); len(problems) == 0 {
		mm, ok, err := proof.Smallest(float64(m.Place(0).Width), func(mm float64) (bool, error) {
			m, _, ok := at(mm)
			if !ok {
				return false, nil
			}
			in, err := m.Proof(0)
			if err != nil {
				return false, err
			}
			p, err := proof.Prove(t.Context(), in, readers.Panel(), proof.Ordinary)
			return err == nil && p.Verdict == proof.Safe, err
		})
		if err != nil {
			t.Fatal(err)
		}
		if ok {
			_, text, _ := at(mm)
			return text
		}
	}
	return ""
}

// kept is a line of the record.
type kept struct {
	Kind string `json:"kind"`
	I    int    `json:"i"`
	OK   bool   `json:"ok"`
	result
}

// recorded is each for codes of a kind that may be in the record, and puts those into it that are not.
func recorded(t *testing.T, kind string, n int, f func(i int) (result, bool)) []result {
	if *record == "" {
		return each(n, f)
	}
	old := map[int]kept{}
	if b, err := os.ReadFile(*record); err == nil {
		for line := range bytes.Lines(b) {
			var k kept
			if err := json.Unmarshal(line, &k); err == nil && k.Kind == kind { // the last line may be cut short
				old[k.I] = k
			}
		}
	}
	file, err := os.OpenFile(*record, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	var mu sync.Mutex
	return each(n, func(i int) (result, bool) {
		if k, ok := old[i]; ok {
			return k.result, k.OK
		}
		r, ok := f(i)
		line, err := json.Marshal(kept{kind, i, ok, r})
		mu.Lock()
		defer mu.Unlock()
		if err == nil {
			_, err = file.Write(append(line, '\n'))
		}
		if err != nil {
			t.Error(err)
		}
		return r, ok
	})
}

// each works through n codes, several at a time, and gives what became of them in their order.
func each(n int, f func(i int) (result, bool)) (out []result) {
	results := make([]result, n)
	done := make([]bool, n)
	next := make(chan int)
	var wg sync.WaitGroup
	for range max(1, *workers) {
		wg.Go(func() {
			for i := range next {
				var one sync.WaitGroup // of its own, so that a code that ends in Fatal ends alone
				one.Go(func() { results[i], done[i] = f(i) })
				one.Wait()
			}
		})
	}
	for i := range n {
		next <- i
	}
	close(next)
	wg.Wait()
	for i, ok := range done {
		if ok {
			out = append(out, results[i])
		}
	}
	return out
}

// TestCalibration prints how verdicts and readings go together, and holds the proof to what it promises.
func TestCalibration(t *testing.T) {
	if len(readers.Panel().Readers) < 4 {
		t.Fatal("this needs every reader: zbar-tools, zxing-cpp-tools")
	}
	if *outsideToo { // what is missing ends the test here, not in the midst of others
		outside(t, []*image.Gray{image.NewGray(image.Rect(0, 0, 60, 60))}, "")
	}
	job := func(i int, anywhere bool) (string, bool, *rand.Rand) {
		rng := rand.New(rand.NewSource(*seed*1_000_003 + int64(i)))
		for {
			if text, near := drawn(rng, anywhere); text != "" {
				return text, near, rng
			}
		}
	}
	random := recorded(t, "random", *manyCodes, func(i int) (result, bool) {
		text, near, rng := job(i, false)
		r := judged(t, text, rng)
		r.Near = near
		return r, true
	})
	table(t, "drawn around the limits", random)
	placed := recorded(t, "placed", *manyPlaced, func(i int) (result, bool) {
		text, _, rng := job(2_000_000+i, true)
		return judged(t, text, rng), true
	})
	table(t, "at places drawn at random", placed)
	spread := recorded(t, "coarse", *manyCoarse, func(i int) (result, bool) {
		rng := rand.New(rand.NewSource(*seed*1_000_003 + 3_000_000 + int64(i)))
		for {
			text := coarse(rng)
			if text != "" && i%2 == 1 { // down to where it is only just safe
				text = optimised(t, text, true)
			}
			if text != "" {
				return judged(t, text, rng), true
			}
		}
	})
	table(t, "on stock that spreads ink, every other one down to its smallest safe width", spread)
	mended := recorded(t, "optimised", *manyOptimised*3/2, func(i int) (result, bool) {
		text, _, rng := job(1_000_000+i, false)
		if text = optimised(t, text, i%2 == 1); text == "" {
			return result{}, false
		}
		return judged(t, text, rng), true
	})
	mended = mended[:min(len(mended), *manyOptimised)]
	table(t, "brought to safe by the fixes on offer, every other one down to its smallest safe width", mended)

	all := slices.Concat(random, placed, spread, mended)
	usual, softer := 0, 0
	for _, r := range all {
		if _, half, _ := r.lost(); r.Verdict == proof.Safe && half {
			if r.Phone.Lens <= usualLens {
				usual++
			} else {
				softer++
			}
			t.Logf("called safe, and lost: %v with %+v: %s", r.Read, r.Phone, r.Job)
		}
	}
	safe := 0
	for _, r := range all {
		if r.Verdict == proof.Safe {
			safe++
		}
	}
	fmt.Printf("\n%d safe codes in all; lost to a family with lenses up to %g: %d, with softer ones: %d\n", safe, usualLens,
		usual, softer)
	if usual > 0 || softer > lostToSoft {
		t.Errorf("%d codes called safe are lost to a whole family with lenses up to %g, %d with softer ones", usual,
			usualLens, softer)
	}
}

// What the verdict promises: no code called safe is lost with a lens that blurs by up to usualLens pixels, and no more than
// lostToSoft with softer ones.
const (
	usualLens  = 0.7
	lostToSoft = 2
)

func table(t *testing.T, what string, list []result) {
	count := func(f func(result) bool) (n int) {
		for _, r := range list {
			if f(r) {
				n++
			}
		}
		return n
	}
	share := func(a, b int) string {
		if b == 0 {
			return "–"
		}
		return fmt.Sprintf("%.1f %%", 100*float64(a)/float64(b))
	}
	fmt.Printf(
		"\n%d codes %s\n\n| verdict | codes | every family reads all %d | a family loses some | a family loses more than half "+
			"| every family loses half |\n| --- | --- | --- | --- | --- | --- |\n", len(list), what, looks)
	for _, v := range []proof.Verdict{proof.Safe, proof.Care, proof.Stop} {
		of := func(r result) bool { return r.Verdict == v }
		n := count(of)
		some := count(func(r result) bool { a, _, _ := r.lost(); return of(r) && a })
		half := count(func(r result) bool { _, h, _ := r.lost(); return of(r) && h })
		all := count(func(r result) bool { _, _, a := r.lost(); return of(r) && a })
		fmt.Printf("| %s | %d | %d | %d | %d | %d |\n", v, n, n-some, some, half, all)
	}
	every := func(r result) bool { a, _, _ := r.lost(); return !a }
	byReadings := func(r result) bool { return r.Verdict == proof.Stop && !r.Rule }
	fmt.Printf("\nof those that every family reads in every picture, safe: %s\n",
		share(count(func(r result) bool { return every(r) && r.Verdict == proof.Safe }), count(every)))
	fmt.Printf("of those stopped by readings, half lost by every family: %s of %d\n",
		share(count(func(r result) bool { _, _, a := r.lost(); return byReadings(r) && a }), count(byReadings)),
		count(byReadings))
	care := func(of func(result) bool) string {
		return share(count(func(r result) bool { return of(r) && r.Verdict == proof.Care }), count(of))
	}
	fmt.Printf("care: %s; of %d drawn around the limit of size %s, of the others %s\n", care(func(result) bool { return true }),
		count(func(r result) bool { return r.Near }), care(func(r result) bool { return r.Near }), care(func(r result) bool {
			return !r.Near
		}))
	if *outsideToo {
		safe := func(r result) bool { return r.Verdict == proof.Safe }
		for _, o := range outsiders {
			fmt.Printf("of %d called safe, %s, which has no say, reads every picture of %d and loses more than half of %d\n",
				count(safe), o.family,
				count(func(r result) bool { return safe(r) && r.Read[o.family] == looks }), count(func(r result) bool {
					return safe(r) && r.Read[o.family] < looks/2
				}))
		}
	}
	for i, from := range []float64{0, 1.5, 3, 6} {
		to := append([]float64{1.5, 3, 6}, math.Inf(1))[i]
		of := func(r result) bool { return r.Per >= from && r.Per < to }
		fmt.Printf("  with %g to %g pixels a module: %d codes, care %s, of them every family reads all %s\n", from, to,
			count(of), care(of),
			share(count(func(r result) bool { return of(r) && r.Verdict == proof.Care && every(r) }), count(func(r result) bool {
				return of(r) && r.Verdict == proof.Care
			})))
	}
	ruled := count(func(r result) bool {
		return every(r) && r.Verdict != proof.Safe && !strings.Contains(r.Findings, "read")
	})
	fmt.Printf("read by all, and not safe for a rule alone: %d; without these, safe: %s\n", ruled,
		share(count(func(r result) bool { return every(r) && r.Verdict == proof.Safe }), count(every)-ruled))
	cares := map[string]int{}
	for _, r := range list {
		if r.Verdict == proof.Care {
			cares[r.Findings]++
		}
	}
	if testing.Verbose() {
		fmt.Printf("care for: %v\n", cares)
	}
	why := map[string]int{}
	for _, r := range list {
		if every(r) && r.Verdict != proof.Safe {
			why[string(r.Verdict)+" "+r.Findings]++
		}
	}
	var keys []string
	for k := range why {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b string) int { return why[b] - why[a] })
	for _, k := range keys[:min(8, len(keys))] {
		fmt.Printf("  read by all, yet %s: %d\n", k, why[k])
	}
	if testing.Verbose() {
		for _, r := range list {
			if a, _, _ := r.lost(); r.Verdict == proof.Safe && a {
				t.Logf("safe, and some lost: %v %s", r.Read, r.Job)
			}
		}
	}
}
