package private

import (
	"crypto/sha256"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
)

// DataDir chooses the data directory for a home folder. Where this program runs as root, the server runs as the account
// postgres, which must be able to enter the folder; where it cannot, as under /root, a folder of the same identity below
// /var/lib is taken instead, and moved says so.
func DataDir(home string) (dir string, moved bool, err error) {
	if err := os.MkdirAll(home, 0o755); err != nil {
		return "", false, err
	}
	dir = filepath.Join(home, "pg")
	if os.Geteuid() != 0 {
		return dir, false, nil
	}
	a, err := postgresAccount()
	if err != nil {
		return "", false, err
	}
	probe := exec.Command("/usr/bin/test", "-x", home)
	probe.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: a.uid, Gid: a.gid}}
	if probe.Run() == nil {
		return dir, false, nil
	}
	whole, err := filepath.Abs(home)
	if err != nil {
		return "", false, err
	}
	sum := sha256.Sum256([]byte(whole))
	dir = filepath.Join("/var/lib", fmt.Sprintf("sodrik-%x", sum[:6]))
	return filepath.Join(dir, "pg"), true, os.MkdirAll(dir, 0o711)
}
