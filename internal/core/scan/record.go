package scan

import "time"

// Record is what was kept of one who asked for a link, without what tells phones apart: as others are given it, by the API, in
// tables and in messages of webhooks.
type Record struct {
	ID        string    `json:"id"`
	At        time.Time `json:"at"`
	Kind      string    `json:"kind"                  doc:"scan; or robot, head, where: nobody who is counted; or reached, which a site reports"`
	Link      string    `json:"link"`
	Code      string    `json:"code"`
	Place     string    `json:"place,omitempty"`
	Does      string    `json:"does,omitempty"        doc:"go, ask, show or quiet: what was answered"`
	Device    string    `json:"device,omitempty"`
	System    string    `json:"system,omitempty"`
	Languages []string  `json:"languages,omitempty"`
	Country   string    `json:"country,omitempty"`
	Part      string    `json:"part,omitempty"`
	Town      string    `json:"town,omitempty"`
	Accuracy  int       `json:"accuracy_km,omitempty"`
	Route     string    `json:"route,omitempty"`
	Goal      string    `json:"goal,omitempty"        doc:"What a site reports as reached; its kind is reached."`
	Signed    bool      `json:"signed,omitempty"      doc:"By a server that has the key; others can be forged."`
}

// Columns are the names of what Row gives.
var Columns = []string{"id", "at", "kind", "link", "code", "place", "does", "device", "system", "languages", "country", "part",
	"town", "accuracy_km", "route", "goal", "signed"}

// Row gives a record as a row of a table.
func (r Record) Row() []any {
	return []any{r.ID, r.At.UTC().Format(time.RFC3339), r.Kind, r.Link, r.Code, r.Place, r.Does, r.Device, r.System, r.Languages,
		r.Country, r.Part, r.Town, r.Accuracy, r.Route, r.Goal, r.Signed}
}
