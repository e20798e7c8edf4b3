package shortlink

import (
	"io"
	"strings"
)

// Letters are what paths are drawn from: capitals and digits of which none is taken for another. 0 O Q D, 1 I L, 2 Z, 5 S, 8 B,
// 6 G and U V are alike in some typeface: of each at most one is there. A and E are not, so that hardly a word comes about.
const Letters = "34679CFHJKMNPRTWXY"

// Length is how many letters a drawn path has: a host has room for 1.9 million.
const Length = 5

// Draw gives a path drawn from random, in which no rude word can be read. An error is one of random.
func Draw(random io.Reader) (string, error) {
	const fair = 256 - 256%len(Letters) // a byte above it would prefer the first letters
	var out [Length]byte
	for b := [1]byte{}; ; {
		for i := 0; i < Length; {
			if _, err := io.ReadFull(random, b[:]); err != nil {
				return "", err
			}
			if int(b[0]) < fair {
				out[i] = Letters[int(b[0])%len(Letters)]
				i++
			}
		}
		if path := string(out[:]); !Rude(path) {
			return path, nil
		}
	}
}

// seen is which letters are seen in digits.
var seen = strings.NewReplacer("3", "E", "4", "A", "6", "G", "7", "T", "9", "G")

// rude are beginnings, middles and ends of words that nobody wants on a poster, as far as Letters can make them.
var rude = []string{"ARSCH", "CACA", "CNT", "CRAP", "FAG", "FART", "FCK", "FKN", "GAY", "KACK", "KKK", "NAKT", "NEGR", "NGGR",
	"PRCK", "RAPE", "TWAT", "WANK", "WTF", "XXX"}

// Rude says that a rude word can be read in a path.
func Rude(path string) bool {
	read := seen.Replace(path)
	for _, w := range rude {
		if strings.Contains(read, w) {
			return true
		}
	}
	return strings.Contains(path, "666")
}
