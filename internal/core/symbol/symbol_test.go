package symbol_test

import (
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"sodrik/internal/core/symbol"
	"sodrik/internal/core/symbol/decode"
)

// TestWorkedExample is annex I of ISO/IEC 18004:2015: 01234567 in a 1-M symbol, its codewords and its mask pattern.
func TestWorkedExample(t *testing.T) {
	s, err := symbol.Encode("01234567", symbol.Options{Level: symbol.M, NoBoost: true})
	if err != nil {
		t.Fatal(err)
	}
	if s.Version != 1 || s.Level != symbol.M || s.Mask != 2 {
		t.Errorf("version %d level %v mask %d, the standard has 1 M 2", s.Version, s.Level, s.Mask)
	}
	want := []byte{0x10, 0x20, 0x0C, 0x56, 0x61, 0x80, 0xEC, 0x11, 0xEC, 0x11, 0xEC, 0x11, 0xEC, 0x11, 0xEC, 0x11,
		0xA5, 0x24, 0xD4, 0xC1, 0xED, 0x36, 0xC7, 0x87, 0x2C, 0x55}
	if got := codewords(s); !bytes.Equal(got, want) {
		t.Errorf("codewords\n%X, the standard has\n%X", got, want)
	}
	if got := symbol.FormatInfo(symbol.M, 2); got != 0b101111001111100 {
		t.Errorf("format information %015b, the standard has 101111001111100", got)
	}
	if got := symbol.VersionInfo(7); got != 0b000111110010010100 {
		t.Errorf("version information %018b, the standard has 000111110010010100", got)
	}
}

// codewords reads the final sequence out of the modules themselves.
func codewords(s *symbol.Symbol) []byte {
	var out []byte
	for _, w := range s.Codewords() {
		var b byte
		for _, m := range w.Modules {
			x, y := m%s.Size, m/s.Size
			b <<= 1
			if s.Dark(x, y) != symbol.MaskBit(s.Mask, x, y) {
				b |= 1
			}
		}
		out = append(out, b)
	}
	return out
}

// TestCapacity holds corner values of table 7: characters that fit, and one more that does not.
func TestCapacity(t *testing.T) {
	for _, c := range []struct {
		version int
		level   symbol.Level
		char    string
		fits    int
	}{
		{1, symbol.L, "7", 41}, {1, symbol.M, "7", 34}, {1, symbol.H, "7", 17}, {1, symbol.L, "A", 25}, {1, symbol.L, "a", 17},
		{1, symbol.L, "点", 10}, {9, symbol.Q, "a", 130}, {10, symbol.Q, "a", 151}, {26, symbol.M, "A", 1542},
		{27, symbol.M, "A", 1637},
		{32, symbol.H, "7", 2022}, {40, symbol.L, "7", 7089}, {40, symbol.L, "A", 4296}, {40, symbol.L, "a", 2953},
		{40, symbol.M, "a", 2331}, {40, symbol.Q, "a", 1663}, {40, symbol.H, "a", 1273}, {40, symbol.H, "点", 784},
	} {
		t.Run(fmt.Sprint(c.version), func(t *testing.T) {
			o := symbol.Options{Level: c.level, NoBoost: true, MinVersion: c.version, MaxVersion: c.version, Kanji: true,
				Mask: symbol.Pattern(0)}
			if _, err := symbol.Encode(strings.Repeat(c.char, c.fits), o); err != nil {
				t.Errorf("%d-%v: %d of %q should fit: %v", c.version, c.level, c.fits, c.char, err)
			}
			var long *symbol.TooLongError
			if _, err := symbol.Encode(strings.Repeat(c.char, c.fits+1), o); !errors.As(err, &long) {
				t.Errorf("%d-%v: %d of %q should not fit, got %v", c.version, c.level, c.fits+1, c.char, err)
			}
		})
	}
}

// TestEveryVersionAndLevel fills each symbol, reads it with our own decoder, and checks what the symbol says of itself.
func TestEveryVersionAndLevel(t *testing.T) {
	rng := rand.New(rand.NewPCG(18004, 2015))
	for v := 1; v <= 40; v++ {
		for l := symbol.L; l <= symbol.H; l++ {
			room := symbol.DataCodewords(v, l)
			text := make([]byte, room-3+min(0, 9-v)/9)
			for i := range text {
				text[i] = byte('a' + rng.IntN(26))
			}
			o := symbol.Options{Level: l, MinVersion: v, MaxVersion: v, NoBoost: true}
			s, err := symbol.Encode(string(text), o)
			if err != nil {
				t.Fatalf("%d-%v: %v", v, l, err)
			}
			r, err := decode.Matrix(s.Size, s.Dark)
			if err != nil {
				t.Fatalf("%d-%v: %v", v, l, err)
			}
			if r.Payload != string(text) || r.Version != v || r.Level != l || r.Mask != s.Mask || r.Corrected != 0 {
				t.Errorf("%d-%v: read version %d level %v mask %d, %d corrected, payload same: %v", v, l, r.Version, r.Level,
					r.Mask, r.Corrected, r.Payload == string(text))
			}
			checkRoles(t, s)
		}
	}
}

// checkRoles counts: every codeword bit stands in one module of its own, and the function patterns have their sizes.
func checkRoles(t *testing.T, s *symbol.Symbol) {
	t.Helper()
	seen := map[int]bool{}
	blocks := symbol.BlocksOf(s.Version, s.Level)
	perBlock := make([]int, blocks.Count)
	for _, w := range s.Codewords() {
		perBlock[w.Block]++
		for _, m := range w.Modules {
			want := symbol.RoleData
			if w.EC {
				want = symbol.RoleEC
			}
			if seen[m] || s.Role(m%s.Size, m/s.Size) != want {
				t.Fatalf("%d-%v: module %d is used twice or has role %v", s.Version, s.Level, m, s.Role(m%s.Size, m/s.Size))
			}
			seen[m] = true
		}
	}
	for k, n := range perBlock {
		want := blocks.Short + blocks.EC
		if k >= blocks.Count-blocks.Long {
			want++
		}
		if n != want {
			t.Fatalf("%d-%v: block %d has %d codewords, want %d", s.Version, s.Level, k, n, want)
		}
	}
	count := map[symbol.Role]int{}
	for i := range s.Size * s.Size {
		count[s.Role(i%s.Size, i/s.Size)]++
	}
	if count[symbol.RoleFinder] != 147 || count[symbol.RoleSeparator] != 45 || count[symbol.RoleFormat] != 30 ||
		count[symbol.RoleDark] != 1 {
		t.Fatalf("version %d: roles %v", s.Version, count)
	}
	if want := 36 * min(1, s.Version/7); count[symbol.RoleVersion] != want || count[symbol.RoleRemainder] > 7 {
		t.Fatalf("version %d: roles %v", s.Version, count)
	}
}

// TestDamage corrects as many codewords as a block may lose by table 9, and refuses one more.
func TestDamage(t *testing.T) {
	for _, c := range []struct {
		v   int
		l   symbol.Level
		may int
	}{{1, symbol.L, 2}, {1, symbol.M, 4}, {1, symbol.Q, 6}, {1, symbol.H, 8}, {2, symbol.L, 4}, {3, symbol.L, 7},
		{5, symbol.Q, 9}, {14, symbol.H, 12}} {
		t.Run(fmt.Sprint(c.v), func(t *testing.T) {
			text := strings.Repeat("x", symbol.DataCodewords(c.v, c.l)-3)
			s, err := symbol.Encode(text, symbol.Options{Level: c.l, NoBoost: true, MinVersion: c.v, MaxVersion: c.v})
			if err != nil {
				t.Fatal(err)
			}
			may := c.may
			for _, lost := range []int{may, may + 1} {
				flipped, left := map[int]bool{}, lost
				for _, w := range s.Codewords() {
					if w.Block == 0 && left > 0 {
						left--
						flipped[w.Modules[3]] = true
					}
				}
				r, err := decode.Matrix(s.Size, func(x, y int) bool { return s.Dark(x, y) != flipped[y*s.Size+x] })
				switch {
				case lost == may && (err != nil || r.Payload != text || r.Corrected != may):
					t.Errorf("%d-%v: %d damaged codewords should be corrected: %v", c.v, c.l, lost, err)
				case lost > may && !errors.Is(err, decode.ErrDamage):
					t.Errorf("%d-%v: %d damaged codewords should be refused, got %v", c.v, c.l, lost, err)
				}
			}
		})
	}
}

func TestSegmentation(t *testing.T) {
	seg := func(s *symbol.Symbol) string {
		var b strings.Builder
		for _, g := range s.Segments {
			fmt.Fprintf(&b, "%v:%s ", g.Mode, g.Text)
		}
		return strings.TrimSpace(b.String())
	}
	for _, c := range []struct {
		text string
		o    symbol.Options
		want string
	}{
		{"", symbol.Options{}, ""},
		{"952123450001", symbol.Options{}, "numeric:952123450001"},
		{"HTTPS://MARROWBY.EXAMPLE", symbol.Options{}, "alphanumeric:HTTPS://MARROWBY.EXAMPLE"},
		{"https://marrowby.example/1", symbol.Options{}, "byte:https://marrowby.example/1"},
		{"https://id.marrowby.example/01/09521234500018", symbol.Options{},
			"byte:https://id.marrowby.example/01/ numeric:09521234500018"},
		{"ab12345cd", symbol.Options{}, "byte:ab12345cd"},
		{"ab123456cd", symbol.Options{}, "byte:ab numeric:123456 byte:cd"},
		{"ab1234567cd", symbol.Options{MinVersion: 10}, "byte:ab1234567cd"},
		{"Käse", symbol.Options{}, "eci: byte:Käse"},
		{"Käse", symbol.Options{Charset: symbol.CharsetRaw}, "byte:Käse"},
		{"花の種 12345678901", symbol.Options{Kanji: true}, "kanji:花の種 alphanumeric:  numeric:12345678901"},
		{"0109521234500018\x1d10A1", symbol.Options{FNC1: true}, "fnc1: numeric:0109521234500018 alphanumeric:\x1d10A1"},
	} {
		t.Run(c.text, func(t *testing.T) {
			s, err := symbol.Encode(c.text, c.o)
			if err != nil {
				t.Errorf("%q: %v", c.text, err)
				return
			}
			if got := seg(s); got != c.want {
				t.Errorf("%q: segments %q, want %q", c.text, got, c.want)
			}
			if r, err := decode.Matrix(s.Size, s.Dark); err != nil || r.Payload != c.text {
				t.Errorf("%q: read back %v, %v", c.text, r, err)
			}
		})
	}
}

// TestSegmentationIsOptimal compares with a search over every division of short texts.
func TestSegmentationIsOptimal(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 4))
	alphabet := []string{"0123456789", "ABC$ 0123456789", "abA1"}
	for range 300 {
		var b strings.Builder
		for range 4 {
			set := alphabet[rng.IntN(3)]
			for range rng.IntN(8) {
				b.WriteByte(set[rng.IntN(len(set))])
			}
		}
		text := b.String()
		for g, v := range []int{9, 26, 40} {
			s, err := symbol.Encode(text, symbol.Options{MinVersion: v, MaxVersion: v})
			if err != nil {
				t.Fatal(err)
			}
			got := 0
			for _, seg := range s.Segments {
				got += cost(seg.Mode, len(seg.Text), g)
			}
			if want := cheapest(text, g); got != want {
				t.Fatalf("%q in version %d: %d bits, %d are possible", text, v, got, want)
			}
		}
	}
}

func cost(m symbol.Mode, n, g int) int {
	head := [3][3]int{{14, 16, 18}, {13, 15, 17}, {12, 20, 20}}[m][g]
	return head + []int{(10*n + 2) / 3, (11*n + 1) / 2, 8 * n}[m]
}

func cheapest(text string, g int) int {
	best := make([]int, len(text)+1)
	for end := 1; end <= len(text); end++ {
		best[end] = 1 << 30
		for start := range end {
			part := text[start:end]
			for m := symbol.ModeNumeric; m <= symbol.ModeByte; m++ {
				set := []string{"0123456789", "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ $%*+-./:", part}[m]
				if strings.Trim(part, set) == "" {
					best[end] = min(best[end], best[start]+cost(m, len(part), g))
				}
			}
		}
	}
	return best[len(text)]
}

func TestBoost(t *testing.T) {
	for _, c := range []struct {
		o    symbol.Options
		want symbol.Level
	}{
		{symbol.Options{}, symbol.Q}, {symbol.Options{NoBoost: true}, symbol.M}, {symbol.Options{Level: symbol.L}, symbol.L},
		{symbol.Options{Level: symbol.L, MinVersion: 2}, symbol.Q},
		{symbol.Options{Level: symbol.L, NoBoost: true}, symbol.L}, {symbol.Options{Level: symbol.H}, symbol.H},
	} {
		t.Run(fmt.Sprint(c.o), func(t *testing.T) {
			s, err := symbol.Encode("https://m.example", c.o)
			if err != nil || s.Level != c.want {
				t.Errorf("%+v: level %v, want %v (%v)", c.o, s.Level, c.want, err)
			}
		})
	}
}

func TestOptionsRefused(t *testing.T) {
	for _, o := range []symbol.Options{{MinVersion: 41}, {MaxVersion: 41}, {MinVersion: 5, MaxVersion: 4}, {Level: 5}, {Mask: 9},
		{MinVersion: -1}} {
		if _, err := symbol.Encode("x", o); err == nil {
			t.Errorf("%+v was accepted", o)
		}
	}
	for _, s := range []symbol.Segment{{Mode: symbol.ModeNumeric, Text: "1a"}, {Mode: symbol.ModeAlphanumeric, Text: "a"},
		{Mode: symbol.ModeKanji, Text: "é"}, {Mode: symbol.ModeECI, ECI: 1000000}} {
		if _, err := symbol.EncodeSegments([]symbol.Segment{s}, symbol.Options{}); err == nil {
			t.Errorf("%+v was accepted", s)
		}
	}
}

func FuzzRoundTrip(f *testing.F) {
	for _, s := range []string{"", "01234567", "HELLO WORLD", "Käse 花", "a\x00\xff", strings.Repeat("9A b", 200)} {
		f.Add(s, uint8(0), uint8(0))
	}
	f.Fuzz(func(t *testing.T, text string, level, mask uint8) {
		o := symbol.Options{Level: symbol.Level(level % 5), Mask: symbol.MaskChoice(mask % 9), Kanji: mask%2 == 1}
		s, err := symbol.Encode(text, o)
		var long *symbol.TooLongError
		if errors.As(err, &long) && len(text) > 500 {
			return
		}
		if err != nil {
			t.Fatal(err)
		}
		r, err := decode.Matrix(s.Size, s.Dark)
		if err != nil || r.Payload != text || r.Level != s.Level || r.Mask != s.Mask {
			t.Fatalf("read back %+v, %v", r, err)
		}
	})
}

// FuzzMatrix feeds arbitrary modules to the decoder, which must return, with a result or an error.
func FuzzMatrix(f *testing.F) {
	f.Add(uint8(21), []byte("seed"))
	f.Fuzz(func(t *testing.T, size uint8, modules []byte) {
		dark := func(x, y int) bool {
			i := y*int(size) + x
			return len(modules) > 0 && modules[i/8%len(modules)]>>(i%8)&1 == 1
		}
		if r, err := decode.Matrix(int(size), dark); (r == nil) == (err == nil) {
			t.Fatalf("%v and %v", r, err)
		}
	})
}
