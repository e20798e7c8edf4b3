// Command press holds Sodrik's model of printing conditions against profiles that another program makes from the same
// measurements and Little CMS reads: colprof (Debian's argyll) and transicc (liblcms2-utils). It prints the mean and the
// largest CIEDE2000 between the two over mixtures of inks that are not on the measured grid.
package main

import (
	"bufio"
	"bytes"
	"fmt"
	"log"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"sodrik/internal/core/ink/press"
)

func main() {
	dir, err := os.MkdirTemp("", "press")
	if err != nil {
		log.Fatal(err)
	}
	defer os.RemoveAll(dir)
	for key, file := range map[string]string{"coated": "FOGRA39L", "uncoated": "FOGRA29L"} {
		c, _ := press.Of(key)
		data, err := os.ReadFile(filepath.Join("..", "internal", "core", "ink", "press", "data", file+".ti3"))
		if err != nil {
			log.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, key+".ti3"), data, 0o600); err != nil {
			log.Fatal(err)
		}
		profiled := exec.Command("colprof", "-qm", "-bl", "-kz", "-l300", "-D", key, key)
		profiled.Dir = dir
		if out, err := profiled.CombinedOutput(); err != nil {
			log.Fatalf("colprof: %v %s", err, out)
		}
		rng := rand.New(rand.NewPCG(1, 2))
		var inks [][4]float64
		var in bytes.Buffer
		for range 500 {
			var v [4]float64
			for i := range v {
				v[i] = float64(rng.IntN(101))
			}
			if rng.IntN(2) == 0 {
				v[3] = 0
			}
			inks = append(inks, v)
			fmt.Fprintf(&in, "%g %g %g %g\n", v[0], v[1], v[2], v[3])
		}
		ask := exec.Command("transicc", "-n", "-t3", "-i", filepath.Join(dir, key+".icc"), "-o", "*Lab")
		ask.Stdin = &in
		out, err := ask.Output()
		if err != nil {
			log.Fatal("transicc: ", err)
		}
		lines := bufio.NewScanner(bytes.NewReader(out))
		sum, most, n := 0.0, 0.0, 0
		for lines.Scan() && n < len(inks) {
			var l press.Lab
			if _, err := fmt.Sscanf(strings.TrimSpace(lines.Text()), "%f %f %f", &l.L, &l.A, &l.B); err != nil {
				continue
			}
			d := press.DeltaE(c.Lab(inks[n]), l)
			sum, most, n = sum+d, max(most, d), n+1
		}
		fmt.Printf("%s: %d mixtures, mean ΔE00 %.2f, most %.2f\n", key, n, sum/float64(n), most)
	}
}
