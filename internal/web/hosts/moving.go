package hosts

import (
	"fmt"
	"net/http"
	"slices"

	"sodrik/internal/code"
	"sodrik/internal/core/movein"
	"sodrik/internal/core/problem"
	"sodrik/internal/link"
	"sodrik/internal/web/ui"
)

// MovingView is the page on which a domain in print moves in.
type MovingView struct {
	ui.Frame
	Hosts       []string
	Host, Rules string
	Error       string
	Looked      bool
	Rows        []MovingRow
	Ready       int // how many would move
	Differ      int // of those that were asked, how many lead elsewhere today
	Asked       bool
	Done        string
}

// MovingRow is a path.
type MovingRow struct {
	link.Moving
	Says string // what will be of it
	Bad  bool
}

// maxRules is how long a list of rules may be, in bytes.
const maxRules = 512 << 10

func (h *Handler) moving(w http.ResponseWriter, r *http.Request) {
	v, err := h.movingView(r)
	if err == nil && r.Method == http.MethodPost {
		err = h.move(r, &v)
	}
	if problems, is := code.IsProblem(err); is {
		v.Error, err = "The rules "+problems[0].Message+".", nil
		if problems[0].Field == "/host" {
			v.Error = "The host " + problems[0].Message + "."
		}
	}
	if err != nil {
		ui.Fail(w, r, err)
		return
	}
	ui.Render(w, http.StatusOK, pages, "moving", v)
}

func (h *Handler) movingView(r *http.Request) (MovingView, error) {
	v := MovingView{Frame: ui.FrameOf(r, "Moving in", "person"), Host: r.PostFormValue("host"), Rules: r.PostFormValue("rules")}
	list, _, err := h.Links.Hosts(r.Context(), ui.Actor(r))
	for _, one := range slices.Backward(list) { // one of the house's own first
		if one.Usable() {
			v.Hosts = append(v.Hosts, one.Name)
		}
	}
	return v, err
}

// move shows what would move, or moves it.
func (h *Handler) move(r *http.Request, v *MovingView) error {
	if len(v.Rules) > maxRules {
		return problem.List{{Field: "/rules", Code: "long", Message: fmt.Sprintf("are longer than %d KB; move a part of them first",
			maxRules>>10)}}
	}
	rows := movein.Read(v.Rules)
	if len(rows) == 0 {
		return problem.List{{Field: "/rules", Code: "empty",
			Message: "hold no path; write one a line, a comma, and where it leads, or paste redirect rules"}}
	}
	if r.PostFormValue("act") == "move" {
		n, err := h.Links.MoveIn(r.Context(), ui.Actor(r), v.Host, rows)
		if err != nil {
			return err
		}
		v.Done = fmt.Sprintf("%d paths lead from here now. Point the name %s at this server.", n, v.Host)
		if n == 1 {
			v.Done = fmt.Sprintf("1 path leads from here now. Point the name %s at this server.", v.Host)
		}
	}
	list, err := h.Links.Moves(r.Context(), ui.Actor(r), v.Host, rows)
	if err != nil {
		return err
	}
	v.Looked = true
	for _, m := range list {
		row := MovingRow{Moving: m}
		switch {
		case m.Bad != "":
			row.Says, row.Bad = m.Bad, true
		case m.Here:
			row.Says = "Leads from here."
		default:
			v.Ready++
			row.Says = "Moves in."
		}
		switch {
		case m.Asked && m.Same():
			row.Says += " As today."
		case m.Asked && m.Today == "":
			row.Says, row.Bad = row.Says+" Today it leads nowhere.", true
		case m.Asked:
			row.Says, row.Bad = row.Says+" Today it leads to "+m.Today+".", true
		case m.Fault != "":
			row.Says += " " + m.Fault
		}
		if v.Asked = v.Asked || m.Asked; m.Asked && !m.Same() {
			v.Differ++
		}
		v.Rows = append(v.Rows, row)
	}
	return nil
}
