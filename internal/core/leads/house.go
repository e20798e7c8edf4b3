package leads

import (
	"encoding/json"
	"fmt"
)

// House is what quiet pages show of the house behind a link.
type House struct {
	Name  string `json:"n,omitempty"`
	Ink   string `json:"i,omitempty"` // of headings and the button, #rrggbb; "" for the usual
	Paper string `json:"p,omitempty"` // behind
	Key   []byte `json:"k,omitempty"` // with which its servers sign that something was reached
}

// Encode writes a house for a bucket.
func (h House) Encode() []byte {
	b, err := json.Marshal(h)
	if err != nil {
		panic("leads: " + err.Error()) // plain values alone
	}
	return b
}

// DecodeHouse reads what Encode wrote.
func DecodeHouse(text []byte) (h House, err error) {
	if err = json.Unmarshal(text, &h); err != nil {
		return h, fmt.Errorf("leads: a house cannot be read: %w", err)
	}
	return h, nil
}

// Standing is whether a host is one of ours.
type Standing struct {
	Ours bool `json:"o"`
}

// Encode writes a standing for a bucket.
func (s Standing) Encode() []byte {
	b, err := json.Marshal(s)
	if err != nil {
		panic("leads: " + err.Error()) // plain values alone
	}
	return b
}

// DecodeStanding reads what Encode wrote.
func DecodeStanding(text []byte) (s Standing, err error) {
	if err = json.Unmarshal(text, &s); err != nil {
		return s, fmt.Errorf("leads: a host cannot be read: %w", err)
	}
	return s, nil
}
