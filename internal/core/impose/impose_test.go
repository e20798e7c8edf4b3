package impose

import (
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"
)

// TestUsuals: the measures of every usual sheet fit, are centred within a millimetre where the sheet has margins, and agree with
// its name.
func TestUsuals(t *testing.T) {
	for _, u := range Usuals {
		t.Run(u.Key, func(t *testing.T) {
			s, problems := Read(map[string]any{"sheet": u.Key})
			if len(problems) > 0 || s.Sheet != u.Sheet {
				t.Fatal(problems)
			}
			right := u.Width - (u.Left + float64(u.Across)*u.LabelWidth + float64(u.Across-1)*u.GapX)
			bottom := u.Height - (u.Top + float64(u.Down)*u.LabelHeight + float64(u.Down-1)*u.GapY)
			if math.Abs(right-u.Left) > 1 || math.Abs(bottom-u.Top) > 1 {
				t.Errorf("margins: left %v, right %v, top %v, bottom %v", u.Left, right, u.Top, bottom)
			}
			if u.Across > 1 && !strings.Contains(u.Name, fmt.Sprintf("%d × %d", u.Across, u.Down)) {
				t.Error(u.Name)
			}
		})
	}
}

// own is a sheet of 3 by 2 labels of 10 by 20, 5 and 7 from the corner, 1 and 2 apart.
func own2(t *testing.T, more string) Setting {
	t.Helper()
	var v any
	if err := json.Unmarshal([]byte(`{"sheet":"own","width_mm":60,"height_mm":60,"across":3,"down":2,"label_width_mm":10,
		"label_height_mm":20,"left_mm":5,"top_mm":7,"gap_x_mm":1,"gap_y_mm":2,"margin_mm":1`+more+`}`), &v); err != nil {
		t.Fatal(err)
	}
	s, problems := Read(v)
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	return s
}

// TestOrders counts places by hand. Columns lie at 5, 16 and 27 mm, rows at 7 and 29.
func TestOrders(t *testing.T) {
	for _, c := range []struct {
		name, more string
		n, sheets  int
		want       []Spot
	}{
		{"rows", "", 7, 2, []Spot{{0, 5, 7}, {0, 16, 7}, {0, 27, 7}, {0, 5, 29}, {0, 16, 29}, {0, 27, 29}, {1, 5, 7}}},
		{"columns", `,"order":"columns"`, 7, 2, []Spot{{0, 5, 7}, {0, 5, 29}, {0, 16, 7}, {0, 16, 29}, {0, 27, 7}, {0, 27, 29},
			{1, 5, 7}}},
		{"from the fifth place on", `,"start":5`, 3, 2, []Spot{{0, 16, 29}, {0, 27, 29}, {1, 5, 7}}},
		{"a full first sheet", `,"start":5`, 2, 1, []Spot{{0, 16, 29}, {0, 27, 29}}},
		{"cut and stack", `,"order":"stack"`, 8, 2, []Spot{{0, 5, 7}, {1, 5, 7}, {0, 16, 7}, {1, 16, 7}, {0, 27, 7}, {1, 27, 7},
			{0, 5, 29}, {1, 5, 29}}},
		{"cut and stack, not full", `,"order":"stack"`, 7, 2, []Spot{{0, 5, 7}, {1, 5, 7}, {0, 16, 7}, {1, 16, 7}, {0, 27, 7},
			{1, 27, 7}, {0, 5, 29}}},
		{"the middle column torn off", `,"tear_off":2`, 5, 2, []Spot{{0, 5, 7}, {0, 27, 7}, {0, 5, 29}, {0, 27, 29}, {1, 5, 7}}},
		{"shifted", `,"shift_x_mm":0.5,"shift_y_mm":-1`, 1, 1, []Spot{{0, 5.5, 6}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := own2(t, c.more)
			var got []Spot
			on := map[int][]int{}
			for i := range c.n {
				at := s.At(i, c.n)
				got = append(got, at)
				on[at.Sheet] = append(on[at.Sheet], i)
			}
			if !reflect.DeepEqual(got, c.want) || s.Sheets(c.n) != c.sheets {
				t.Errorf("%v on %d sheets, want %v on %d", got, s.Sheets(c.n), c.want, c.sheets)
			}
			for sheet, want := range on {
				if got := s.On(sheet, c.n); !reflect.DeepEqual(got, want) {
					t.Errorf("on sheet %d lie %v, want %v", sheet, got, want)
				}
			}
		})
	}
}

// TestStacked cuts the sheets and lays the piles on one another: the labels are in order.
func TestStacked(t *testing.T) {
	s := own2(t, `,"order":"stack"`)
	for n := 1; n <= 40; n++ {
		piles := map[[2]float64][]int{}
		var order [][2]float64
		for i := range n {
			at := s.At(i, n)
			key := [2]float64{at.Y, at.X}
			if piles[key] == nil {
				order = append(order, key)
			}
			if len(piles[key]) != at.Sheet {
				t.Fatalf("%d labels: %d lies on sheet %d of its pile of %d", n, i, at.Sheet, len(piles[key]))
			}
			piles[key] = append(piles[key], i)
		}
		next := 0
		for _, key := range order {
			for _, i := range piles[key] {
				if i != next {
					t.Fatalf("%d labels: %d follows %d", n, i, next-1)
				}
				next++
			}
		}
	}
}

func TestCheck(t *testing.T) {
	for more, at := range map[string]string{
		`,"across":6`:                  "/sheet/across",
		`,"down":3`:                    "/sheet/down",
		`,"tear_off":4`:                "/sheet/tear_off",
		`,"start":7`:                   "/sheet/start",
		`,"order":"stack","start":2`:   "/sheet/start",
		`,"bleed_mm":0.6`:              "/sheet/bleed_mm",
		`,"margin_mm":2.6`:             "/sheet/margin_mm",
		`,"across":1,"tear_off":1`:     "/sheet/tear_off",
		`,"shift_x_mm":21`:             "/sheet/shift_x_mm",
		`,"order":"sideways"`:          "/sheet/order",
		`,"gaps":1`:                    "/sheet/gaps",
		`,"label_width_mm":4`:          "/sheet/label_width_mm",
		`,"tear_off":2,"start":5`:      "/sheet/start",
		`,"sheet":"none of the known"`: "/sheet/sheet",
	} {
		t.Run(more, func(t *testing.T) {
			var v any
			text := `{"sheet":"own","width_mm":60,"height_mm":60,"across":3,"down":2,"label_width_mm":10,"label_height_mm":20,` +
				`"left_mm":5,"top_mm":7,"gap_x_mm":1,"gap_y_mm":2,"margin_mm":1` + more + `}`
			if err := json.Unmarshal([]byte(text), &v); err != nil { // of a key given twice the last counts
				t.Fatal(err)
			}
			if _, problems := Read(v); len(problems) == 0 || problems[0].Field != at {
				t.Errorf("%s: %v", more, problems)
			}
		})
	}
	s := own2(t, `,"bleed_mm":0.5,"margin_mm":2.5`)
	if again, problems := Read(s.JSON()); len(problems) > 0 || again != s {
		t.Errorf("%+v\n%+v %v", again, s, problems)
	}
}

func TestMarksStayOffLabels(t *testing.T) {
	s := own2(t, `,"marks":true,"bleed_mm":0.5`)
	for _, it := range s.CropMarks() {
		for i := 0; i < len(it.Path.Points); i += 4 {
			p := it.Path.Points[i]
			inside := p.X > 5-0.99 && p.X < 37+0.99 && p.Y > 7-0.99 && p.Y < 49+0.99
			if inside {
				t.Errorf("a mark at %v lies on the labels", p)
			}
		}
		if n := len(it.Path.Points) / 4; n != 2*6+2*4 { // both ends of 6 edges down and 4 across
			t.Errorf("%d marks", n)
		}
	}
}
