package shortlink

import (
	"fmt"
	"testing"
)

func TestRecord(t *testing.T) {
	if got := Record("go.marrowby.example:8443"); got != "_sodrik.go.marrowby.example" {
		t.Errorf("the name of the record is %q", got)
	}
}

func TestProved(t *testing.T) {
	for _, c := range []struct {
		records []string
		want    bool
	}{
		{nil, false}, {[]string{""}, false}, {[]string{"v=spf1 -all", "sodrik-workspace=K7"}, true},
		{[]string{`"sodrik-workspace=K7" `}, true}, {[]string{"sodrik-workspace=K77"}, false},
		{[]string{"sodrik-workspace="}, false}, {[]string{"SODRIK-WORKSPACE=K7"}, false},
	} {
		t.Run(fmt.Sprint(c.records), func(t *testing.T) {
			if got := Proved(c.records, "K7"); got != c.want {
				t.Errorf("%q prove a workspace: %v", c.records, got)
			}
		})
	}
	if Proved([]string{"sodrik-workspace="}, "") {
		t.Error("no token is proved by an empty one")
	}
}
