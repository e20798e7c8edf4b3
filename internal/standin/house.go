package standin

import (
	"context"
	"fmt"
	"strings"

	"sodrik/internal/code"
	"sodrik/internal/core/fields"
	"sodrik/internal/core/problem"
	"sodrik/internal/core/style"
	"sodrik/internal/housestyle"
)

// houseStyle is that of Marrowby Seed House; asset:marrowby stands for its mark.
const houseStyle = `{"version": 1, "name": "Marrowby Seed House",
	"colours": [
		{"key": "pine", "name": "Marrowby Pine", "value": {"screen": "#12352b", "cmyk": [84, 40, 70, 62], "spot": "Marrowby Pine"}},
		{"key": "bark", "name": "Bark", "value": {"screen": "#5a2d0c", "cmyk": [30, 75, 100, 55]}},
		{"key": "beetroot", "name": "Beetroot", "value": {"screen": "#5b1f33", "cmyk": [35, 95, 50, 58]}},
		{"key": "cornflower", "name": "Cornflower", "value": {"screen": "#1f3a5a", "cmyk": [95, 70, 35, 40]}},
		{"key": "seed-paper", "name": "Seed paper", "value": {"screen": "#f6f0e2", "cmyk": [2, 4, 13, 0]}},
		{"key": "pale-leaf", "name": "Pale leaf", "value": {"screen": "#e9efdf", "cmyk": [9, 2, 15, 0]}}],
	"marks": [
		{"key": "seed", "name": "Marrowby seed", "source": "asset:marrowby", "clear": 1},
		{"key": "sprout", "name": "Sprout", "source": "icon:sprout", "clear": 0.5}],
	"typefaces": ["bitter", "instrument-sans"],
	"looks": [
		{"key": "garden-sign", "name": "Garden sign", "look": {"ink": {"style": "pine"}, "paper": {"style": "pale-leaf"}, "modules": {"join": "rows", "corner": 1}, "eyes": {"ring": {"corners": [0.6, 0.6, 0.6, 0.6]}, "core": {"corners": [0.5, 0.5, 0.5, 0.5]}}}},
		{"key": "packet", "name": "Seed packet", "look": {"ink": {"style": "bark"}, "paper": {"style": "seed-paper"}, "modules": {"join": "all", "corner": 0.7}, "eyes": {"ring": {"corners": [0.3, 0.3, 0.3, 0.3]}}}},
		{"key": "trade", "name": "Trade list", "look": {"ink": {"style": "cornflower"}, "modules": {"join": "columns", "corner": 0.6}, "mark": {"source": "asset:marrowby", "width": 0.2, "clear": "disc"}}}],
	"links": [
		{"key": "chat", "name": "Chat with the shop", "address": "https://chat.marrowby.example/{number}?text={text}"},
		{"key": "post", "name": "A post of our garden diary", "address": "https://diary.marrowby.example/post/{item}"}],
	"rules": {"contrast": 0.55}}`

// dressed are the codes that wear a look in the demonstration, by their names.
var dressed = map[string]string{"Way to the show garden": "garden-sign", "Before you prune": "garden-sign",
	"Growers' line": "packet", "Order line": "shipped/furrow"}

// loadHouse makes the house style and dresses some codes.
func loadHouse(ctx context.Context, s *code.Store, h *housestyle.Store, mark string) error {
	var problems problem.List
	v, err := fields.Decode([]byte(strings.ReplaceAll(houseStyle, "asset:marrowby", mark)))
	if err != nil {
		return err
	}
	in := style.Read(fields.Open(v, "", &problems))
	if len(problems) > 0 {
		return fmt.Errorf("demonstration: %w", problems)
	}
	if _, err := h.Change(ctx, Loader(), -1, func(s *style.Style) error { *s = *in; return nil }); err != nil {
		return err
	}
	wearers, err := s.Wearers(ctx, Loader())
	if err != nil {
		return err
	}
	for _, w := range wearers {
		if l, ok := in.Find(dressed[w.Name]); ok {
			if _, err := s.Wear(ctx, Loader(), w.ID, l, code.Anyhow); err != nil {
				return err
			}
		}
	}
	return nil
}
