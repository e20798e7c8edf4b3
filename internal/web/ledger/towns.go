package ledger

import (
	"encoding/json"
	"math"
	"net/http"
	"strconv"

	"sodrik/internal/core/gazetteer"
)

// mapTowns is how many names a map shows at most.
const mapTowns = 14

// towns answers the names for a map: the largest towns within span degrees of its middle.
func (h *Handler) towns(w http.ResponseWriter, r *http.Request) {
	type name struct {
		Name string  `json:"name"`
		Lat  float64 `json:"lat"`
		Lon  float64 `json:"lon"`
	}
	number := func(key string, most float64) float64 {
		f, err := strconv.ParseFloat(r.URL.Query().Get(key), 64)
		if err != nil || math.IsNaN(f) {
			return 0
		}
		return max(-most, min(most, f))
	}
	out := []name{}
	for _, t := range gazetteer.Around(number("lat", 90), number("lon", 360), max(0.02, number("span", 90)), mapTowns) {
		out = append(out, name{t.Name, t.Lat, t.Lon})
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "private, max-age=86400")
	json.NewEncoder(w).Encode(out)
}
