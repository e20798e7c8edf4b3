package sits

import (
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/measure"
	"sodrik/internal/core/place"
	"sodrik/internal/core/style"
	"sodrik/internal/web/forms"
)

// mediaOf are the media to choose from, by groups, those of the house last.
func mediaOf(house *style.Style) (out []forms.ChoiceGroup) {
	for _, name := range place.Groups {
		g := forms.ChoiceGroup{Name: name}
		for _, m := range house.AllMedia() {
			if m.Group == name {
				g.Choices = append(g.Choices, forms.Choice{Value: m.Key, Words: m.Name})
			}
		}
		if len(g.Choices) > 0 {
			out = append(out, g)
		}
	}
	return out
}

// OwnMedium is a placement as a medium of the house.
func OwnMedium(m *compose.Rendition, p place.Placement, name string) place.Medium {
	out := place.Medium{
		Key:       place.OwnKey + style.KeyOf(name),
		Name:      strings.TrimSpace(name),
		Group:     place.Groups[len(place.Groups)-1],
		Substrate: p.Substrate,
		Light:     p.Light,
		Width:     p.Width,
		Distance:  p.Distance,
		Radius:    p.Radius,
		Glass:     p.Glass,
		Moving:    p.Moving,
	}
	if w, h, ok := m.Surface(&p); ok {
		out.Size = [2]measure.Length{measure.Length(w), measure.Length(h)}
	}
	if p.Pixels > 0 && out.Size[0] > 0 {
		k := float64(p.Pixels) / float64(p.Width)
		out.Screen = [2]int{int(float64(out.Size[0])*k + 0.5), int(float64(out.Size[1])*k + 0.5)}
	}
	if was, ok := place.MediumOf(p.Medium); ok {
		out.Round = was.Round
	}
	return out
}
