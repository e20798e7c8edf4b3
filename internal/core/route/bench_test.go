package route

import (
	"fmt"
	"testing"
)

// twenty are as many rules of every kind, and a scan that none of them fits.
func twenty(t testing.TB) (*Set, Input) {
	var texts []string
	for i := range 5 {
		texts = append(texts, fmt.Sprintf(`{"spans":[{"from":"2027-0%d-20T10:00","until":"2027-0%d-22T18:00"}],"languages":["cy","ga"]}`, i+1, i+1),
			fmt.Sprintf(`{"where":["Wales","Ireland","Cardiff"],"hours":["0%d:00-0%d:30"]}`, i, i),
			`{"languages":["pl","uk"],"systems":["android"]}`, `{"weekdays":["sa"],"where":["Scotland"],"share":0.1}`)
	}
	return Compile(read(t, texts...), "Europe/London", "en"), Input{At: at("2027-06-09T12:34Z"), Country: "GB", Part: "England",
		Town: "Shrewsbury", Place: "gate", System: "iOS", Languages: []string{"en-GB", "de", "pl"}, Draw: 0.9}
}

// TestNoAllocation: in the common case nothing is allocated.
func TestNoAllocation(t *testing.T) {
	s, in := twenty(t)
	if i := s.Choose(&in, nil); i != Everybody {
		t.Fatalf("rule %d fires", i)
	}
	if n := testing.AllocsPerRun(100, func() { s.Choose(&in, nil) }); n > 0 {
		t.Errorf("%g allocations a scan", n)
	}
}

// BenchmarkChoose: twenty rules, none of which fits; the aim is 2 µs.
func BenchmarkChoose(b *testing.B) {
	s, in := twenty(b)
	for b.Loop() {
		s.Choose(&in, nil)
	}
}

// BenchmarkFind: what is said of twenty rules while somebody edits them.
func BenchmarkFind(b *testing.B) {
	var rules []*Rule
	for i := range 20 {
		rules = append(rules, read(b, `{"languages":["cy"],"where":["Wales"],"weekdays":["mo"],"hours":["09:00-10:00"]}`)...)
		rules[i].Hours = []string{fmt.Sprintf("%02d:00-%02d:30", i, i+1)}
	}
	for b.Loop() {
		Find(rules, "Europe/London", "", at("2027-01-01T00:00Z"))
	}
}
