// Package webhook is what is posted to others when something happens: of which kinds, in which messages, how they are signed,
// and when a call that failed is made again. It follows the Standard Webhooks specification 1.0.0.
package webhook

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/scan"
)

// Kind is what a webhook can be told of.
type Kind struct {
	Name  string // type of the message
	Words string // of the choice
	Data  any    // of the message, empty
}

// Names of kinds.
const (
	Versions = "versions.issued"
	Batches  = "batches.done"
	Scans    = "scans.kept"
	Test     = "test" // sent when somebody asks for it; not chosen
)

// Kinds are all there are, those that can be chosen first.
var Kinds = []Kind{
	{Versions, "A version is handed over", IssuedVersions{}},
	{Batches, "Files of a batch are made", DoneBatches{}},
	{Scans, "Somebody scanned", KeptScans{}},
	{Test, "A test", Nothing{}},
}

// Chosen says whether a kind can be chosen.
func Chosen(name string) bool { return name != Test && Named(name).Name != "" }

// Named is a kind by its name, empty where there is none.
func Named(name string) Kind {
	for _, k := range Kinds {
		if k.Name == name {
			return k
		}
	}
	return Kind{}
}

// Most is how many things one message tells of; what is more goes into another.
const Most = 100

// Message is the body of a call.
type Message struct {
	Type      string    `json:"type"`
	Timestamp time.Time `json:"timestamp" doc:"When it was written; the same however often it is sent."`
	Data      any       `json:"data"`
}

// Encode writes a message.
func (m Message) Encode() ([]byte, error) { return json.Marshal(m) }

// IssuedVersions are versions that were handed over.
type IssuedVersions struct {
	Versions []IssuedVersion `json:"versions"`
}

// IssuedVersion is one of them.
type IssuedVersion struct {
	Code    string    `json:"code"          doc:"Its id: GET /api/v1/codes/{id}/versions/{n} has the rest."`
	Name    string    `json:"name"`
	Version int       `json:"version"`
	At      time.Time `json:"at"`
	Who     string    `json:"who,omitempty"`
}

// DoneBatches are files of batches that are made, or could not be.
type DoneBatches struct {
	Batches []DoneBatch `json:"batches"`
}

// DoneBatch is one of them.
type DoneBatch struct {
	Batch string    `json:"batch"          doc:"Its id: GET /api/v1/batches/{id}/files/{run} has the rest."`
	Run   string    `json:"run"`
	Name  string    `json:"name"`
	State string    `json:"state"          doc:"done; unread, where labels do not read back from the file; failed"`
	Codes int       `json:"codes"`
	Note  string    `json:"note,omitempty" doc:"What was read back, or why it failed."`
	At    time.Time `json:"at"`
}

// KeptScans are scans, robots too, in the order of their times.
type KeptScans struct {
	Scans []scan.Record `json:"scans"`
}

// Nothing is what a test tells.
type Nothing struct{}

// Names of headers.
const (
	IDHeader        = "webhook-id"
	TimestampHeader = "webhook-timestamp"
	SignatureHeader = "webhook-signature"
)

const secretMark = "whsec_"

// KeySize is the length of a key in bytes: the specification asks for 24 to 64.
const KeySize = 32

// Secret is a key as whoever checks signatures is given it.
func Secret(key []byte) string { return secretMark + base64.StdEncoding.EncodeToString(key) }

// Sign gives the headers of a call, signed with each of some keys: HMAC-SHA-256 of id, time in Unix seconds and body, with dots
// between.
func Sign(keys [][]byte, id string, at time.Time, body []byte) map[string]string {
	seconds := strconv.FormatInt(at.Unix(), 10)
	var signed []string
	for _, k := range keys {
		mac := hmac.New(sha256.New, k)
		mac.Write([]byte(id + "." + seconds + "."))
		mac.Write(body)
		signed = append(signed, "v1,"+base64.StdEncoding.EncodeToString(mac.Sum(nil)))
	}
	return map[string]string{"Content-Type": "application/json", IDHeader: id, TimestampHeader: seconds,
		SignatureHeader: strings.Join(signed, " ")}
}
