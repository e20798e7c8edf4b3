// Command compare times the encoders against each other and prints the table of bench/README.md. Timings on shared
// machines swing, so that the encoders take turns, window by window, and each counts by its best window.
package main

import (
	"flag"
	"fmt"
	"time"

	"sodrik/bench/encoders"
)

func main() {
	windows := flag.Int("windows", 25, "windows for each encoder and payload")
	length := flag.Duration("length", 20*time.Millisecond, "least length of a window")
	flag.Parse()
	fmt.Print("| payload |")
	for _, e := range encoders.Encoders {
		fmt.Printf(" %s |", e.Name)
	}
	fmt.Print("\n| --- |")
	for range encoders.Encoders {
		fmt.Print(" ---: |")
	}
	fmt.Println()
	for _, p := range encoders.Payloads {
		best := make([]time.Duration, len(encoders.Encoders))
		for range *windows {
			for i, e := range encoders.Encoders {
				if d := window(e.Encode, p.Text, *length); best[i] == 0 || d < best[i] {
					best[i] = d
				}
			}
		}
		fmt.Printf("| %s |", p.Name)
		for i, d := range best {
			if i == 0 {
				fmt.Printf(" %.1f µs |", micros(d))
			} else {
				fmt.Printf(" %.1f µs, ×%.1f |", micros(d), float64(d)/float64(best[0]))
			}
		}
		fmt.Println()
	}
}

func micros(d time.Duration) float64 { return float64(d.Nanoseconds()) / 1000 }

// window gives the time of one encoding, averaged over at least length.
func window(encode func(string) int, text string, length time.Duration) time.Duration {
	start, n := time.Now(), 0
	for time.Since(start) < length {
		encode(text)
		n++
	}
	return time.Since(start) / time.Duration(n)
}
