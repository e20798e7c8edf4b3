package batches

import (
	"errors"
	"io"
	"testing"
	"time"

	"sodrik/internal/code"
	"sodrik/internal/core/batch"
)

// allOut collects what is out there.
func allOut(t *testing.T, s *Store) (out []Out) {
	t.Helper()
	if err := s.Out(t.Context(), editor, func(o Out) error { out = append(out, o); return nil }); err != nil {
		t.Fatal(err)
	}
	return out
}

// TestTaken: what was handed over of a batch is known after its files are gone, with what is said of the print; what is said to
// be in print is out there, and of the rest the newest.
func TestTaken(t *testing.T) {
	s := store(t)
	id := made(t, s, "SKU;Variety;Link\nMB-1;Leek;https://marrowby.example/1\nMB-2;Kale;https://marrowby.example/2\n")
	if err := s.Set(t.Context(), editor, id, "/job/placements/0/width_mm", "24 mm"); err != nil {
		t.Fatal(err)
	}
	table, _, _ := taken(t, s, id, AsTable)
	if all := allOut(t, s); len(all) != 0 {
		t.Errorf("a table hangs nowhere: %+v", all)
	}
	start := s.Codes.Now()
	s.Codes.Now = func() time.Time { return start.Add(time.Minute) }
	first, _, _ := taken(t, s, id, AsZip)
	s.Codes.Now = func() time.Time { return start.Add(time.Hour) }
	second, _, _ := taken(t, s, id, AsPages)
	if err := s.Take(t.Context(), editor, second.ID, false, func(*Run, string) io.Writer { return io.Discard }); err != nil {
		t.Error("taken again: ", err)
	}
	one := func(what, run string, printed bool) {
		t.Helper()
		for _, o := range allOut(t, s) {
			if o.Run == run && o.Batch == id && o.What == what && o.Labels == 2 && o.WidthMM == 24 && o.Medium == "plant-tag" &&
				o.Name == "Plant labels" && o.Says == "{Link}" && !o.Links &&
				o.Who == "Ada Pell" && (o.Printed != nil) == printed {
				return
			}
		}
		t.Errorf("%s is not out there: %+v", what, allOut(t, s))
	}
	if one(AsPages, second.ID, false); len(allOut(t, s)) != 1 {
		t.Error("more than the newest is out there")
	}
	p := code.Printing{On: start.UTC().Truncate(24 * time.Hour), Printer: "Okafor Print", Quantity: 2000}
	for _, run := range []string{table.ID, "none"} {
		if err := s.SayPrinted(t.Context(), editor, id, run, p); !errors.Is(err, ErrNotFound) {
			t.Errorf("%s is said to be in print: %v", run, err)
		}
	}
	if err := s.SayPrinted(t.Context(), editor, id, first.ID, p); err != nil {
		t.Fatal(err)
	}
	if one(AsZip, first.ID, true); len(allOut(t, s)) != 2 {
		t.Error("what is in print and the newest are both out there")
	}
	s.Codes.Now = func() time.Time { return start.Add(keptFor + 2*time.Hour) }
	if n, err := s.Sweep(t.Context()); err != nil || n != 3 {
		t.Errorf("%d runs swept, %v", n, err)
	}
	list, err := s.Taken(t.Context(), editor, id)
	if err != nil || len(list) != 2 || list[0].Run != second.ID || list[1].PrintedWho != "Ada Pell" || *list[1].Printed != p ||
		!list[0].At.Equal(start.Add(time.Hour).Truncate(time.Microsecond)) {
		t.Errorf("%+v %v", list, err)
	}
	if err := s.TakePrintBack(t.Context(), editor, id, first.ID); err != nil {
		t.Fatal(err)
	}
	if one(AsPages, second.ID, false); len(allOut(t, s)) != 1 {
		t.Error("what was taken back is still out there")
	}
	if err := s.Retire(t.Context(), editor, id, true); err != nil || len(allOut(t, s)) != 0 {
		t.Errorf("%v; a retired batch is out there: %+v", err, allOut(t, s))
	}
}

// TestTakenSecret: what differs is not said where it is a password.
func TestTakenSecret(t *testing.T) {
	d := Doc{Plan: &batch.Plan{Job: map[string]any{"content": map[string]any{"kind": "wifi"}}}}
	d.Plan.Put("/content/password", "{Key}")
	if got := d.differs(); got != "" {
		t.Errorf("says %q", got)
	}
	d.Plan.Put("/content/ssid", "{Net}")
	if got := d.differs(); got != "{Net}" {
		t.Errorf("says %q, want the name of the network", got)
	}
}
