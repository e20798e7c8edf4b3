package pdfpage

import (
	"bytes"
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// acts are actions (ISO 32000-1, 12.6.4) that do something on the machine of whoever opens a file, with what they are to people.
var acts = map[string]string{
	"JavaScript": "a script", "Launch": "a command that starts a program", "SubmitForm": "a form that is sent off",
	"ImportData": "a command that reads in a file",
	"GoToE":      "a command that opens a file within it", "Rendition": "a film or a sound",
	"RichMediaExecute": "a film or a sound",
}

// maxDeep bounds how deep objects are looked into.
const maxDeep = 40

// Quiet refuses a file that does something when it is opened: artwork leaves byte for byte, and what is in it would leave
// with it. The error is a sentence without its subject.
func Quiet(file []byte) (err error) {
	defer func() {
		if recover() != nil {
			err = ErrDamaged
		}
	}()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := pdfcpu.Read(bytes.NewReader(file), conf)
	if err != nil {
		return ErrDamaged
	}
	for _, entry := range ctx.Table {
		if entry == nil || entry.Free {
			continue
		}
		if what := active(entry.Object, 0); what != "" {
			return fmt.Errorf("holds %s, which would go to the printer with it; save it as a PDF for print, without", what)
		}
	}
	return nil
}

// active says what an object does, "" for nothing. References are not followed: every object has its turn.
func active(o types.Object, depth int) string {
	if depth > maxDeep {
		return ""
	}
	switch o := o.(type) {
	case types.Dict:
		return activeDict(o, depth)
	case types.StreamDict:
		return activeDict(o.Dict, depth)
	case *types.StreamDict:
		if o != nil {
			return activeDict(o.Dict, depth)
		}
	case types.Array:
		for _, x := range o {
			if what := active(x, depth+1); what != "" {
				return what
			}
		}
	}
	return ""
}

func activeDict(d types.Dict, depth int) string {
	if s, ok := d["S"].(types.Name); ok {
		if what := acts[string(s)]; what != "" {
			return what
		}
	}
	if t, ok := d["Type"].(types.Name); ok && strings.EqualFold(string(t), "EmbeddedFile") {
		return "another file"
	}
	if _, ok := d["JavaScript"]; ok {
		return acts["JavaScript"]
	}
	if _, ok := d["JS"]; ok {
		return acts["JavaScript"]
	}
	if _, ok := d["XFA"]; ok {
		return "a form with a program of its own"
	}
	for _, x := range d {
		if what := active(x, depth+1); what != "" {
			return what
		}
	}
	return ""
}
