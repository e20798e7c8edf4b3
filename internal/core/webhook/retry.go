package webhook

import "time"

// waits are those after a call that failed, as the specification proposes them: three days in all.
var waits = []time.Duration{5 * time.Second, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 5 * time.Hour, 10 * time.Hour,
	14 * time.Hour, 20 * time.Hour, 24 * time.Hour}

// Tries is how often a call is made before it is given up.
var Tries = len(waits) + 1

// Wait is how long to wait after so many tries, from 1 on; false where there is no other.
func Wait(tries int) (time.Duration, bool) {
	if tries < 1 || tries > len(waits) {
		return 0, false
	}
	return waits[tries-1], true
}

// gone is a status (RFC 9110, 15.5.11).
const gone = 410

// Outcome is what a call came to.
type Outcome int

// Outcomes.
const (
	Failed Outcome = iota // to be tried again
	Taken
	Unwanted // the address wants no more calls at all
)

// Came says what an answer means: 2xx is that it was taken, 410 that no more are wanted. Redirects are failures.
func Came(status int) Outcome {
	switch {
	case status >= 200 && status < 300:
		return Taken
	case status == gone:
		return Unwanted
	}
	return Failed
}
