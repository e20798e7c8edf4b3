package gazetteer

import (
	"math"
	"testing"
)

func TestFind(t *testing.T) {
	for _, c := range []struct {
		text, name, country string
		lat, lon            float64
	}{
		{"Evesham", "Evesham", "GB", 52.09, -1.95}, {"zurich", "Zürich", "CH", 47.37, 8.55},
		{"Paris", "Paris", "FR", 48.85, 2.35},
		{"Paris, US", "Paris", "US", 33.66, -95.56}, {"worcester, united k", "Worcester", "GB", 52.19, -2.22},
		{"São Paulo", "São Paulo", "BR", -23.55, -46.64}, {"reykj", "Reykjavík", "IS", 64.14, -21.9},
	} {
		t.Run(c.text, func(t *testing.T) {
			got := Find(c.text, 3)
			if len(got) == 0 || got[0].Name != c.name || got[0].Country != c.country || math.Abs(got[0].Lat-c.lat) > 0.05 ||
				math.Abs(got[0].Lon-c.lon) > 0.05 {
				t.Errorf("%q: %v", c.text, got)
			}
		})
	}
	for _, text := range []string{"", "x", "Marrowby", "52.0871, -1.9432", ",", "Paris, Atlantis"} {
		t.Run(text, func(t *testing.T) {
			if got := Find(text, 3); len(got) > 0 {
				t.Errorf("%q finds %v", text, got)
			}
		})
	}
	if got := Find("san", 5); len(got) != 5 || got[0].CountryName() == "" {
		t.Errorf("five towns of many: %v", got)
	}
}

func TestAround(t *testing.T) {
	got := Around(52.0871, -1.9432, 0.5, 8)
	if len(got) != 8 || got[0].People < got[7].People {
		t.Errorf("%v", got)
	}
	for _, town := range got {
		if math.Abs(town.Lat-52.0871) > 0.5 {
			t.Errorf("%v is too far away", town)
		}
	}
	if got := Around(-17.8, 179.99, 3, 20); len(got) == 0 { // Fiji lies on both sides of the date line
		t.Error("nothing is found across the date line")
	}
}

func BenchmarkFind(b *testing.B) {
	towns()
	for b.Loop() {
		Find("evesh", 6)
	}
}
