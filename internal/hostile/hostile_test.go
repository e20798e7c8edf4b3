package hostile

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"image"
	"image/draw"
	"image/gif"
	"image/jpeg"
	"image/png"
	"maps"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"runtime"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/HugoSmits86/nativewebp"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/content"
	"sodrik/internal/core/export"
	"sodrik/internal/core/proof"
	"sodrik/internal/core/recognise"
	"sodrik/internal/costtest"
	"sodrik/internal/db/dbtest"
	"sodrik/internal/ground"
	"sodrik/internal/people"
	"sodrik/internal/readers"
	"sodrik/internal/seal/sealtest"
	"sodrik/internal/standin"
	"sodrik/internal/web"
	"sodrik/internal/web/person"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var (
	uploads  = flag.Int("uploads", 150, "how many mutated files are uploaded")
	payloads = flag.Int("payloads", 20_000, "how many mutated payloads and jobs are read")
	seed     = flag.Uint64("seed", 1, "where mutations come from")
)

// Bounds of one upload: what the product promises, and a margin for a machine that does other things.
const (
	maxCPU    = 4 * time.Second
	maxHeap   = 512 << 20
	maxMemory = 1 << 30
)

// corpus is a valid file of every kind that some upload accepts.
func corpus(t *testing.T) map[string][]byte {
	t.Helper()
	m,
		problems := compose.Parse(
		[]byte(
			`{"content":{"kind":"url","url":"https://marrowby.example/sample"},"look":{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#5a2d0c"},{"at":1,"colour":"#a33f22"}]},"modules":{"corner":0.8}},
		"placements":[{"name":"x","width_mm":40,"distance_mm":400}]}`), nil)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	out := map[string][]byte{
		"drawn.svg": []byte(
			`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><style>.a{fill:#12352b;fill-rule:evenodd}</style><defs><linearGradient id="g"><stop offset="0" stop-color="red"/><stop offset="1" stop-color="blue"/></linearGradient><clipPath id="c"><circle cx="50" cy="50" r="40"/></clipPath><g id="u"><path class="a" d="M10 10h80v80h-80zM30 30h40v40h-40z"/></g></defs><use href="#u" transform="rotate(10 50 50)"/><rect x="5" y="5" width="90" height="20" rx="4" fill="url(#g)" clip-path="url(#c)"/><path d="M5 50q40-60 90 0" fill="none" stroke="#123" stroke-width="3" stroke-linejoin="round"/></svg>`),
		"card.vcf": []byte(
			"BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Wren Okafor\r\nN:Okafor;Wren;;;\r\nTEL;TYPE=WORK:+441632960001\r\nEND:VCARD\r\n"),
		"fair.ics": []byte(
			"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Marrowby//EN\r\nBEGIN:VEVENT\r\nUID:1@marrowby.example\r\nDTSTAMP:20270101T000000Z\r\nDTSTART:20270320T100000Z\r\nDTEND:20270320T160000Z\r\nSUMMARY:Bulb fair\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"),
	}
	for _, format := range []string{"svg", "pdf", "png"} {
		data, problems := m.File(compose.MustFormat(format), m.Place(0), export.Meta{Title: "Sample"})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		out["code."+format] = data
	}
	decoded, err := png.Decode(bytes.NewReader(out["code.png"]))
	if err != nil {
		t.Fatal(err)
	}
	img := image.NewNRGBA(image.Rect(0, 0, 220, 220))
	draw.Draw(img, img.Rect, decoded, decoded.Bounds().Min, draw.Src)
	deep := image.NewNRGBA64(image.Rect(0, 0, 60, 60))
	draw.Draw(deep, deep.Rect, img, image.Point{}, draw.Src)
	for name, encode := range map[string]func(*bytes.Buffer) error{
		"code.jpg": func(b *bytes.Buffer) error { return jpeg.Encode(b, img, nil) }, "code.webp": func(b *bytes.Buffer) error {
			return nativewebp.Encode(b, img, nil)
		},
		"code.gif": func(b *bytes.Buffer) error { return gif.Encode(b, img, nil) }, "deep.png": func(b *bytes.Buffer) error {
			return png.Encode(b, deep)
		},
	} {
		var b bytes.Buffer
		if err := encode(&b); err != nil {
			t.Fatal(err)
		}
		out[name] = b.Bytes()
	}
	if out["face.ttf"], err = os.ReadFile("../core/typeface/fonts/archivo-narrow.ttf"); err != nil {
		t.Fatal(err)
	}
	var kit bytes.Buffer
	z := zip.NewWriter(&kit)
	for name, data := range map[string]string{"house-style.json": `{"version":1,"colours":[{"key":"pine","name":"Pine","value":"#12352b"}],"marks":[{"key":"m","name":"M","source":"marks/m.svg","clear":1}]}`, "marks/m.svg": string(out["drawn.svg"])} {
		f, err := z.Create(name)
		if err == nil {
			_, err = f.Write([]byte(data))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	z.Close()
	out["kit.zip"] = kit.Bytes()
	return out
}

// interesting are numbers and texts on which readers of formats stumble.
var interesting = [][]byte{{0}, {0xff}, {0x7f}, {0x80}, {0, 0, 0, 0}, {0xff, 0xff, 0xff, 0xff}, {0x7f, 0xff, 0xff, 0xff},
	{0x80, 0, 0, 0}, {0, 0, 0x80, 0}, []byte("99999999999"), []byte("-1"), []byte("1e309"), []byte("NaN"),
	[]byte("<use href='#u'/>"),
	[]byte("obj"), []byte("endstream"), []byte("/Kids[3 0 R]"), []byte("]]>"), []byte("&lt;"), []byte("\r\n"), []byte("\u202e"),
	[]byte("%s%n")}

// mutate changes a file in one to eight places: bits, bytes, runs that are cut out, doubled, moved or taken from another file.
func mutate(r *rand.Rand, data, other []byte) []byte {
	out := bytes.Clone(data)
	for range 1 + r.IntN(8) {
		if len(out) == 0 {
			return append(out, interesting[r.IntN(len(interesting))]...)
		}
		at := r.IntN(len(out))
		if r.IntN(2) == 0 { // most of what decides stands in front
			at = r.IntN(min(len(out), 512))
		}
		n := 1 + r.IntN(min(len(out)-at, 64))
		switch r.IntN(8) {
		case 0:
			out[at] ^= 1 << r.IntN(8)
		case 1:
			out[at] = byte(r.IntN(256))
		case 2:
			out = slices.Delete(out, at, at+n)
		case 3:
			out = slices.Insert(out, at, bytes.Clone(out[at:at+n])...)
		case 4:
			out = slices.Insert(out, at, interesting[r.IntN(len(interesting))]...)
		case 5:
			copy(out[at:], interesting[r.IntN(len(interesting))])
		case 6:
			from := r.IntN(len(other))
			out = slices.Insert(out, at, bytes.Clone(other[from:min(len(other), from+n)])...)
		default:
			for range r.IntN(200) { // much of the same
				out = slices.Insert(out, at, out[at:min(len(out), at+n)]...)
				if len(out) > 1<<20 {
					return out
				}
			}
		}
	}
	return out
}

// values are put in the place of any value of a job.
var values = []any{nil, true, "", "#5a2d0c", "none", "icon:sprout", "\u202e", strings.Repeat("seed ", 60), 0.0, 1.0, -1.0, 0.5,
	7.0, 1e9, -0.0001, 1e-9, map[string]any{}, []any{}, "NaN", "2027-02-30"}

// mutateJob keeps the JSON whole, and changes one to three values of it, so that much of what comes of it can be made.
func mutateJob(r *rand.Rand, data []byte) []byte {
	var job any
	if err := json.Unmarshal(data, &job); err != nil {
		panic(err)
	}
	for range 1 + r.IntN(3) {
		at := job
		for {
			var set func(any)
			var child any
			switch in := at.(type) {
			case map[string]any:
				keys := slices.Sorted(maps.Keys(in))
				if len(keys) > 0 {
					key := keys[r.IntN(len(keys))]
					child, set = in[key], func(v any) { in[key] = v }
				}
			case []any:
				if len(in) > 0 {
					i := r.IntN(len(in))
					child, set = in[i], func(v any) { in[i] = v }
				}
			}
			if set == nil {
				break
			}
			if number, ok := child.(float64); ok && r.IntN(2) == 0 {
				set(number * (0.25 + 2*r.Float64()))
				break
			}
			if m, ok := child.(map[string]any); (!ok || len(m) == 0) || r.IntN(8) == 0 {
				if list, ok := child.([]any); !ok || len(list) == 0 || r.IntN(8) == 0 {
					set(values[r.IntN(len(values))])
					break
				}
			}
			at = child
		}
	}
	out, err := json.Marshal(job)
	if err != nil {
		panic(err)
	}
	return out
}

// TestUploads gives every upload mutated files, on pages and by the API: nothing fails, nothing panics, nothing takes longer
// or more memory than it may.
func TestUploads(t *testing.T) {
	d := dbtest.Open(t)
	s := code.New(ground.Ground{DB: d, Pages: readers.PDFPage, Now: time.Now, Seal: sealtest.Box(t)}, proof.Panel{}, "none")
	s.UploadRoom = 1 << 40
	who := &people.Store{DB: d, Now: time.Now, Mail: &standin.Mailbox{DB: d, Now: time.Now}, Seal: s.Seal}
	const ws = "marrowby"
	if _, err := s.EnsureWorkspace(t.Context(), ws, "Marrowby"); err != nil {
		t.Fatal(err)
	}
	p, err := who.Register(t.Context(), "tamsin@marrowby.example", "Tamsin", "")
	if err == nil {
		err = who.Join(t.Context(), ws, p.ID, people.Owner)
	}
	if err != nil {
		t.Fatal(err)
	}
	m,
		_ := compose.Parse([]byte(
		`{"content":{"kind":"url","url":"marrowby.example"},"placements":[{"name":"x","width_mm":40,"distance_mm":400}]}`), nil)
	id, err := s.Create(t.Context(), access.OfProgram(ws, ""), m, "")
	if err != nil {
		t.Fatal(err)
	}
	handler := web.New(web.Options{Codes: s, People: who,
		Guests: []person.Guest{{Email: "tamsin@marrowby.example", Words: "owner"}}})
	enter := httptest.NewRequest("POST", "/enter", strings.NewReader(url.Values{"as": {"tamsin@marrowby.example"}}.Encode()))
	enter.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	rec := httptest.NewRecorder()
	handler.ServeHTTP(rec, enter)
	cookie := rec.Result().Cookies()[0]
	files := corpus(t)
	names := make([]string, 0, len(files))
	for name := range files {
		names = append(names, name)
	}
	slices.Sort(names)
	pages := []string{"/find", "/codes/" + id + "/mark", "/codes/" + id + "/artwork", "/style/marks", "/style/typefaces/add",
		"/style/kit"}
	r := rand.New(rand.NewPCG(*seed, 1))
	var worst time.Duration
	var worstOf string
	var peak uint64
	taken, refused := 0, 0
	for i := range *uploads {
		name := names[r.IntN(len(names))]
		data := mutate(r, files[name], files[names[r.IntN(len(names))]])
		path := pages[r.IntN(len(pages))]
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		form.WriteField("name", fmt.Sprint("Upload ", i))
		form.WriteField("place", "0")
		part, err := form.CreateFormFile("file", name)
		if err != nil {
			t.Fatal(err)
		}
		part.Write(data)
		form.Close()
		req := httptest.NewRequest("POST", path, &body)
		req.Header.Set("Content-Type", form.FormDataContentType())
		req.AddCookie(cookie)
		w := httptest.NewRecorder()
		before := costtest.CPU()
		handler.ServeHTTP(w, req)
		took := costtest.CPU() - before
		var stats runtime.MemStats
		runtime.ReadMemStats(&stats)
		peak = max(peak, stats.HeapInuse)
		if took > worst {
			worst, worstOf = took, name+" to "+path
		}
		if w.Code < 400 {
			taken++
		} else {
			refused++
		}
		if w.Code >= 500 || took > maxCPU {
			keep := fmt.Sprintf("%s/hostile-%d-%s", os.TempDir(), i, name)
			os.WriteFile(keep, data, 0o600)
			t.Errorf("upload %d, %s to %s: %d in %v %.200s; it is kept in %s", i, name, path, w.Code, took, w.Body, keep)
		}
		if i%50 == 49 { // and the desk still opens
			look := httptest.NewRequest("GET", "/codes/"+id, nil)
			look.AddCookie(cookie)
			w := httptest.NewRecorder()
			if handler.ServeHTTP(w, look); w.Code != http.StatusOK {
				t.Fatalf("after upload %d the desk answers %d %.300s", i, w.Code, w.Body)
			}
		}
	}
	var children syscall.Rusage
	syscall.Getrusage(syscall.RUSAGE_CHILDREN, &children)
	t.Logf(
		"%d uploads: %d taken, %d refused; the longest took %v of a processor (%s); heap in use at most %d MB, a helper at "+
			"most %d MB", *uploads, taken, refused, worst.Round(time.Millisecond), worstOf, peak>>20, children.Maxrss>>10)
	if peak > maxHeap {
		t.Errorf("the heap in use grew to %d MB", peak>>20)
	}
	if children.Maxrss<<10 > maxMemory { // which begins with what its parent has
		t.Errorf("a helper took %d MB", children.Maxrss>>10)
	}
}

// TestPayloads reads mutated payloads as pasted text and as what a code holds, and mutated jobs as the API does; those that
// can be made are drawn.
func TestPayloads(t *testing.T) {
	texts := []string{"https://marrowby.example/fair?a=1#b", "WIFI:T:WPA;S:Potting Shed;P:sow\\;thin;;",
		"BEGIN:VCARD\nVERSION:3.0\nFN:Wren Okafor\nN:Okafor;Wren;;;\nTEL:+441632960001\nEND:VCARD",
		"MECARD:N:Okafor,Wren;TEL:+441632960001;;",
		"tel:+441632960001", "SMSTO:+441632960001:Sow now", "mailto:orders@marrowby.example?subject=Seeds", "geo:52.0871,-1.9432",
		"BCD\n002\n1\nSCT\n\nMarrowby Seed House\nDE89370400440532013000\nEUR12.5\n\n\nInvoice 7",
		"upi://pay?pa=seeds@bank&pn=Marrowby",
		"payto://iban/DE89370400440532013000?amount=EUR:12.5", "bitcoin:bc1qw508d6qejxtdg4y5r3zarvary0c5xw7kv8f3t4?amount=0.1",
		"(01)09521234500018(10)A1209", "00020101021126370019com.examplebank.pay0110MARROWBY27",
		"BEGIN:VCALENDAR\nBEGIN:VEVENT\nSUMMARY:Fair\nDTSTART:20270320T100000Z\nEND:VEVENT\nEND:VCALENDAR",
		"52.0871, -1.9432", "DE89 3704 0044 0532 0130 00", "SPC\n0200\n1\nCH9300762011623852957"}
	jobs := []string{
		`{"name":"Gate","content":{"kind":"url","url":"https://marrowby.example/fair","tags":{"source":"gate"}},"look":{"ink":"#12352b","paper":"none","modules":{"join":"rows","corner":0.4,"scale":0.8},"eyes":{"ring":{"corners":[0.5,0,1,0]},"core":{"motif":"disc"}},"mark":{"source":"icon:sprout","width":0.2},"frame":{"shape":"label","text":"See the fair"}},"placements":[{"name":"gate","medium":"poster-a2","width_mm":160,"distance_mm":1500,"artwork":{"width_mm":420,"height_mm":594,"x_mm":20}}],"output":{"colour":"rgb","dpi":300}}`,
		`{"content":{"kind":"wifi","ssid":"Shed","security":"wpa","password":"sow in March"},"look":{"ink":{"kind":"radial","stops":[{"at":0,"colour":"#000"},{"at":1,"colour":"#5a2d0c"}]}}}`, `{"content":{"kind":"event","title":"Fair","start":"2027-03-20T10:00","end":"2027-03-20T16:00","timezone":"Europe/London","repeat":{"every":"week","count":3}}}`,
		`{"content":{"kind":"gs1link","domain":"id.marrowby.example","gtin":"9521234500018","lot":"A1","attributes":{"17":"270331"}},"symbol":{"level":"H","mask":3,"quiet_zone":2}}`, `{"content":{"kind":"contact","given":"Wren","family":"Okafor","phones":[{"number":"+441632960001"}],"emails":[{"address":"wren@marrowby.example"}]}}`}
	r := rand.New(rand.NewPCG(*seed, 2))
	var worst time.Duration
	var worstOf []byte
	made, sound := 0, 0
	for i := range *payloads {
		isJob := i%4 == 0
		list := texts
		if isJob {
			list = jobs
		}
		data := []byte(list[r.IntN(len(list))])
		if isJob && i%8 == 0 {
			data = mutateJob(r, data)
		} else {
			data = mutate(r, data, []byte(list[r.IntN(len(list))]))
		}
		start := time.Now()
		if isJob {
			if m, problems := compose.Parse(data, nil); len(problems) == 0 {
				made++
				if made%20 == 0 { // drawing is what takes longest
					first, _ := m.Pick("")
					for _, format := range []string{"svg", "pdf"} {
						t.Run(format, func(t *testing.T) {
							_, problems := m.File(compose.MustFormat(format), m.Place(first), export.Meta{})
							if len(problems) > 0 {
								t.Logf("not drawn: %v", problems)
							}
						})
					}
				}
				if again, problems := compose.Parse(canonical(t, m), nil); len(problems) > 0 ||
					again.Job.Digest() != m.Job.Digest() {
					t.Fatalf("%q is written as something else: %v", data, problems)
				}
			}
		} else {
			text := string(data)
			for _, reading := range recognise.Text(text, "GB") {
				if reading.Content != nil && len(reading.Problems) == 0 {
					sound++
				}
			}
			content.Of(text)
		}
		if took := time.Since(start); took > worst {
			worst, worstOf = took, data
		}
	}
	t.Logf("%d payloads and jobs: %d jobs made, %d readings sound; the longest took %v (%.80q)", *payloads, made, sound,
		worst.Round(time.Microsecond), worstOf)
	if worst > 4*time.Second {
		t.Errorf("%v for %.2000q", worst, worstOf)
	}
}

func canonical(t *testing.T, m *compose.Rendition) []byte {
	t.Helper()
	b, err := json.Marshal(m.Job)
	if err != nil {
		t.Fatal(err)
	}
	return b
}
