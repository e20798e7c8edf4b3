// Package costtest tells tests what something costs.
package costtest

import (
	"syscall"
	"time"
)

// CPU is the time of processors that this process has taken until now, and the helpers it has waited for. Unlike the time on
// a clock it grows little where a machine does other things.
func CPU() (total time.Duration) {
	for _, who := range []int{syscall.RUSAGE_SELF, syscall.RUSAGE_CHILDREN} {
		var u syscall.Rusage
		if err := syscall.Getrusage(who, &u); err != nil {
			panic(err) // of no other process
		}
		total += time.Duration(u.Utime.Nano() + u.Stime.Nano())
	}
	return total
}
