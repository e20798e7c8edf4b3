// Package scan is what is kept of somebody who asked for a short link: the schema of events in the log, which is fixed, since
// what it leaves out cannot be had later. No address, no name of a browser and no cookie is in it.
package scan

import (
	"bytes"
	"encoding/json"
	"fmt"
)

// Event is a scan as the stream keeps it. It holds no address and no name of a browser. Fields that are not known are left out.
type Event struct {
	Version   int      `json:"v"`           // of this schema: 1
	ID        string   `json:"id"`          // UUIDv7 (RFC 9562), by which a double is told
	At        int64    `json:"at"`          // Unix milliseconds
	Kind      Kind     `json:"k"`           // who asked
	Link      string   `json:"l"`           // host and path
	Workspace string   `json:"w,omitempty"` // whose link it is; "" of a path that is none
	Code      string   `json:"c,omitempty"`
	Place     string   `json:"p,omitempty"`  // name of the placement
	Does      string   `json:"d,omitempty"`  // what was answered: go, ask, show, quiet
	Bare      bool     `json:"b,omitempty"`  // whoever asked wants to be counted only: nothing below is kept
	Device    string   `json:"dv,omitempty"` // phone, tablet, desktop, tv
	System    string   `json:"sy,omitempty"` // iOS, Android, …
	Languages []string `json:"la,omitempty"` // that the phone prefers, first first, as BCP 47
	Country   string   `json:"co,omitempty"` // ISO 3166-1; of the address, which is not kept
	Part      string   `json:"pa,omitempty"` // of the country
	Town      string   `json:"to,omitempty"`
	Accuracy  int      `json:"ac,omitempty"` // kilometres within which that is right
	Phone     string   `json:"ph,omitempty"` // tells phones of a day apart, by a key that is thrown away with the day
	Route     string   `json:"ro,omitempty"` // which route fired
	Words     string   `json:"wd,omitempty"` // of a report, MaxWords characters at most
	Goal      string   `json:"gl,omitempty"` // that was reached
	Signed    bool     `json:"sg,omitempty"` // by a server that has the key
	Draw      float64  `json:"dr,omitempty"` // of a route by share, from 0 to 1
}

// Kind is who asked.
type Kind string

// Kinds. Only Scan is counted as a person.
const (
	Scan    Kind = "scan"
	Robot   Kind = "robot"   // robots, monitors, and readers of previews
	Head    Kind = "head"    // who asked for the head alone
	Where   Kind = "where"   // who wanted to see where it leads
	Unknown Kind = "unknown" // a path that is no link
	Reached Kind = "reached" // a site reports that somebody reached what the code is for
	Report  Kind = "report"  // somebody says that something is wrong with a link
)

// MaxWords is how long a report may be, in characters.
const MaxWords = 500

// Encode writes an event in one line.
func (e Event) Encode() []byte {
	b, err := json.Marshal(e)
	if err != nil {
		panic("scan: " + err.Error()) // plain values alone
	}
	return b
}

// Decode reads the events of a message, one a line.
func Decode(message []byte) (out []Event, err error) {
	for line := range bytes.SplitSeq(message, []byte("\n")) {
		var e Event
		if err := json.Unmarshal(line, &e); err != nil {
			return out, fmt.Errorf("scan: an event cannot be read: %w", err)
		}
		if e.Version != 1 || e.ID == "" {
			return out, fmt.Errorf("scan: an event of version %d, with the id %q", e.Version, e.ID)
		}
		out = append(out, e)
	}
	return out, nil
}
