package bench

import (
	"encoding/json"
	"net/http"
	"strconv"

	"sodrik/internal/core/content"
	"sodrik/internal/core/job"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/patch"
	"sodrik/internal/core/place"
	"sodrik/internal/web/forms"
	"sodrik/internal/web/paste"
	"sodrik/internal/web/ui"
)

// The fields beside the text, which one draft holds together with what steps have changed.
const (
	mediumPath = "/placements/0/medium"
	widthPath  = "/placements/0/width_mm"
	inkPath    = "/look/ink"
	paperPath  = "/look/paper"
)

// carried are the parts of a draft that travel through the page. What it says is read from the text, each time anew.
var carried = []string{"placements", "look", "symbol", "output"}

// maxText bounds what is read of a text, in bytes: more than twice what the largest code holds.
const maxText = 8 << 10

// work is what a stranger has made so far. All of it is in the request.
type work struct {
	text    string
	reading int // which reading of the text is wanted, −1 for the likeliest
	taken   *paste.Taken
	plain   *forms.Plain
	tried   bool // problems of what is empty are told too
	long    bool // the text is longer than any code can hold
}

// place is the index of the placement, −1 for none.
func (k *work) place() int {
	if len(k.plain.Made.Job.Placements) == 0 {
		return -1
	}
	return 0
}

// width is that of the placement, 0 for none.
func (k *work) width() measure.Length {
	if p := k.plain.Made.Place(k.place()); p != nil {
		return p.Width
	}
	return 0
}

// workOf reads the form of a request.
func workOf(r *http.Request) *work {
	k := &work{text: r.PostFormValue("text"), reading: -1}
	if n, err := strconv.Atoi(r.PostFormValue("reading")); err == nil && r.PostFormValue("was") == k.text {
		k.reading = n
	}
	if n, err := strconv.Atoi(r.PostFormValue("as")); err == nil {
		k.reading = n
	}
	draft := map[string]any{}
	var before map[string]any
	if json.Unmarshal([]byte(r.PostFormValue("draft")), &before) == nil {
		for _, key := range carried {
			if v, ok := before[key]; ok {
				draft[key] = v
			}
		}
	}
	k.read(r, draft)
	unparsed := map[string]string{}
	var whole any = draft
	k.typed(r, &whole, unparsed)
	k.plain = forms.Filled(whole, unparsed)
	if fix := r.PostFormValue("fix"); fix != "" && k.plain.Step(fix) != nil {
		k.followed()
	}
	return k
}

// read takes the text for what it most likely is, or for what was chosen.
func (k *work) read(r *http.Request, draft map[string]any) {
	if k.long = len(k.text) > maxText; k.long {
		return
	}
	p := paste.Text(k.text, k.reading, ui.RegionOf(r.Header.Get("Accept-Language")))
	reading, ok := p.Chosen()
	if !ok {
		k.long = len(k.text) > content.MaxBytes
		return
	}
	k.taken = paste.Take(p, reading)
	draft["content"] = reading.Values
}

// typed puts what stands in the fields into the draft. A medium that has just been chosen brings its own width, whatever stood
// there.
func (k *work) typed(r *http.Request, draft *any, unparsed map[string]string) {
	put := func(path, text string) {
		ops, bad := job.Edit(*draft, path, text)
		if bad != nil {
			unparsed[path] = text
			return
		}
		if next, _, err := ops.Apply(*draft); err == nil {
			*draft = next
		}
	}
	medium, known := place.MediumOf(r.PostFormValue(mediumPath))
	chosen := r.PostFormValue(mediumPath) != job.Text(*draft, mediumPath)
	switch {
	case !known:
		*draft = patched(*draft, patch.Without(*draft, "/placements"))
	case chosen:
		*draft = patched(*draft, patch.Without(*draft, "/placements"))
		put(mediumPath, medium.Key)
		put("/placements/0/name", "the "+medium.Name)
	default:
		put(widthPath, r.PostFormValue(widthPath))
	}
	for _, path := range []string{inkPath, paperPath} {
		if _, there := r.PostForm[path]; there {
			put(path, r.PostFormValue(path))
		}
	}
}

func patched(draft any, p patch.Patch) any {
	if next, _, err := p.Apply(draft); err == nil {
		return next
	}
	return draft
}

// followed brings the text after a step that changed what the code says.
func (k *work) followed() {
	if k.plain.Made == nil {
		return
	}
	if made := k.plain.Made; k.taken == nil || k.taken.Rendition == nil || k.taken.Rendition.Payload != made.Payload {
		k.text, k.reading = made.Payload, -1
		p := paste.Text(k.text, k.reading, "GB")
		if reading, ok := p.Chosen(); ok {
			k.taken = paste.Take(p, reading)
		}
	}
}
