package shortlink

import "testing"

func TestNormal(t *testing.T) {
	for _, c := range []struct {
		address, host, path string
		web, bad            bool
	}{
		{"https://Go.Marrowby.example:443//Fair/", "go.marrowby.example", "/Fair", true, false},
		{"HTTP://go.marrowby.example:0080", "go.marrowby.example", "/", true, false},
		{"https://go.marrowby.example.:8443/a/./b/../c", "go.marrowby.example:8443", "/a/c", true, false},
		{"https://bücher.example/", "xn--bcher-kva.example", "/", true, false},
		{`https://go.marrowby.example\fair`, "go.marrowby.example", "/fair", true, false},
		{"tel:+441632960001", "", "", false, false},
		{"javascript:alert(1)", "", "", false, false},
		{"https://go.marrowby%2eexample/", "", "", true, true},
		{"https://[::1", "", "", true, true},
		{"https:///fair", "", "", true, true},
	} {
		t.Run(c.address, func(t *testing.T) {
			host, path, web, err := Normal(c.address)
			if web != c.web || (err != nil) != c.bad || err == nil && (host != c.host || path != c.path) {
				t.Errorf("%q %q %v %v", host, path, web, err)
			}
		})
	}
}

// FuzzNormal: whatever the address, its normal form is one.
func FuzzNormal(f *testing.F) {
	f.Add("https://Go.Marrowby.example:443//Fair/")
	f.Fuzz(func(t *testing.T, address string) {
		host, path, web, err := Normal(address)
		if !web || err != nil {
			return
		}
		if again, at, _, err := Normal("https://" + host + "/"); err != nil || again != host || at != "/" || path[0] != '/' {
			t.Errorf("%q gives %q, which gives %q, %v", address, host, again, err)
		}
	})
}
