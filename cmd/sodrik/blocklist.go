package main

import (
	"bufio"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"sync"
	"time"
)

// blocklist is a file of hosts to which no short link may lead, one a line with all names below it; # begins a remark. It is read
// again when it has changed.
type blocklist struct {
	file string

	lock   sync.Mutex
	looked time.Time // when the file was last looked at
	of     time.Time // its time then
	hosts  map[string]bool
}

// looks is how often the file is looked at.
const looks = 2 * time.Second

// blocklistNamed reads the file that SODRIK_BLOCKLIST names; nil where it names none.
func blocklistNamed() (func(host string) bool, error) {
	file := os.Getenv("SODRIK_BLOCKLIST")
	if file == "" {
		return nil, nil
	}
	b := &blocklist{file: file}
	if err := b.read(); err != nil {
		return nil, status{exitProblems, fmt.Sprintf("SODRIK_BLOCKLIST names %s, which cannot be read: %v", file, err)}
	}
	return b.blocked, nil
}

func (b *blocklist) read() error {
	f, err := os.Open(b.file)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	hosts := map[string]bool{}
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		line, _, _ := strings.Cut(lines.Text(), "#")
		for _, host := range strings.Fields(line) { // a hosts file has an address in front, which does no harm
			hosts[strings.ToLower(strings.Trim(host, "."))] = true
		}
	}
	if err := lines.Err(); err != nil {
		return err
	}
	b.hosts, b.of = hosts, info.ModTime()
	return nil
}

// blocked says whether a host, or one that it is a name below, stands in the file. One that cannot be read any more goes on as it
// was.
func (b *blocklist) blocked(host string) bool {
	b.lock.Lock()
	defer b.lock.Unlock()
	if now := time.Now(); now.Sub(b.looked) >= looks {
		b.looked = now
		if info, err := os.Stat(b.file); err != nil || !info.ModTime().Equal(b.of) {
			if err := b.read(); err != nil {
				slog.Error("the list of blocked hosts cannot be read; what it said goes on", "file", b.file, "error", err)
			}
		}
	}
	for ok := true; ok; _, host, ok = strings.Cut(host, ".") {
		if b.hosts[host] {
			return true
		}
	}
	return false
}
