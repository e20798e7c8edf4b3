package assembly

import (
	"context"
	"reflect"
	"strings"
	"testing"
	"time"

	"sodrik/internal/db/dbtest"
	"sodrik/internal/seal/sealtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// nothing asks nobody outside, and calls nobody.
type nothing struct{}

func (nothing) Status(context.Context, string) (int, error)                          { return 0, nil }
func (nothing) Certificate(context.Context, string) (t time.Time, err error)         { return t, nil }
func (nothing) Ask(context.Context, string) (string, error)                          { return "", nil }
func (nothing) Send(context.Context, string, map[string]string, []byte) (int, error) { return 0, nil }

// lacking names what a use case depends on and has not, by the way to it. What may be left out says so in its tag:
// `optional:"why"`.
func lacking(v reflect.Value, at string, seen map[uintptr]bool) (out []string) {
	switch v.Kind() {
	case reflect.Pointer:
		if v.IsNil() || seen[v.Pointer()] || !strings.HasPrefix(v.Type().Elem().PkgPath(), "sodrik/internal") {
			return nil
		}
		seen[v.Pointer()] = true
		return lacking(v.Elem(), at, seen)
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			if !f.IsExported() {
				continue
			}
			way := at + "." + f.Name
			switch x := v.Field(i); x.Kind() {
			case reflect.Pointer, reflect.Interface, reflect.Func, reflect.Map:
				if x.IsNil() {
					if f.Tag.Get("optional") == "" {
						out = append(out, way)
					}
					continue
				}
				if x.Kind() == reflect.Interface {
					x = x.Elem()
				}
				out = append(out, lacking(x, way, seen)...)
			case reflect.Struct:
				if strings.HasPrefix(f.Type.PkgPath(), "sodrik/internal") {
					out = append(out, lacking(x, way, seen)...)
				}
			}
		}
	}
	return out
}

// TestNothingLacks: every use case of an application has all that it depends on, as the pages and the jobs have.
func TestNothingLacks(t *testing.T) {
	a, err := New(Settings{DB: dbtest.Open(t), Seal: sealtest.Box(t), Base: "http://127.0.0.1",
		Links: "https://go.marrowby.example",
		Send:  nothing{}, Outside: nothing{}, Blocked: func(string) bool { return false }})
	if err != nil {
		t.Fatal(err)
	}
	for _, way := range lacking(reflect.ValueOf(a), "App", map[uintptr]bool{}) {
		t.Errorf("%s is nil, and does not say that it may be", way)
	}
	jobs := a.Jobs(nil)
	for _, way := range lacking(reflect.ValueOf(jobs), "Jobs", map[uintptr]bool{}) {
		t.Errorf("%s is nil, and does not say that it may be", way)
	}
	if a.Batches.Links != a.Links || jobs.Batches.Links != a.Links {
		t.Error("batches lead through other links than codes do")
	}
	bare, err := New(Settings{DB: a.Codes.DB, Seal: sealtest.Box(t)})
	if err != nil {
		t.Fatal(err)
	}
	if bare.Batches.Links != nil || bare.Links.Host != "" {
		t.Error("without a host batches lead through links")
	}
	if got := lacking(reflect.ValueOf(bare.Webhooks), "Webhooks", map[uintptr]bool{}); len(got) != 1 ||
		got[0] != "Webhooks.Send" {
		t.Errorf("what is left out is told as %q", got)
	}
}
