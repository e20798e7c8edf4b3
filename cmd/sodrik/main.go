// Command sodrik makes QR codes that go to print, on the command line and as a web application.
package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"sodrik/internal/core/compose"
	"sodrik/internal/core/problem"
)

// Exit codes.
const (
	exitOK       = 0
	exitFailed   = 1 // nothing found, or the machine did not do its part
	exitProblems = 2 // the job or the call is wrong
)

type command struct {
	name, args, does string
	run              func(args []string) error
}

var commands = []command{
	{"encode", "JOB.json", "print payload, version, level, mask, segments and matrix as JSON", encode},
	{"draw", "JOB.json -o FILE", "write a file; its ending or -format says as what: " + someFormats(), draw},
	{"prove", "JOB.json", "print verdict, range, readings and findings as JSON", prove},
	{"read", "IMAGE", "print what the code in a picture says, as JSON", read},
	{"inspect", "IMAGE", "measure a print in a photograph or scan of it, as JSON", inspectPrint},
}

// someFormats are the first few formats of files, and how many more there are.
func someFormats() string {
	names := compose.Keys()
	return fmt.Sprintf("%s and %d more", strings.Join(names[:5], ", "), len(names)-5)
}

// status ends the program with a code and, unless it is empty, a message on standard error.
type status struct {
	code    int
	message string
}

func (s status) Error() string { return s.message }

func main() { os.Exit(run(os.Args[1:])) }

func run(args []string) int {
	if len(args) == 0 || args[0] == "help" || args[0] == "-h" || args[0] == "--help" || args[0] == "-help" {
		usage(os.Stdout)
		return exitOK
	}
	for _, c := range commands {
		if c.name == args[0] {
			return report(c.run(args[1:]))
		}
	}
	fmt.Fprintf(os.Stderr, "sodrik: %q is not a command\n\n", args[0])
	usage(os.Stderr)
	return exitProblems
}

// report prints an error the way the job file's contract has it: problems one a line, "field: message".
func report(err error) int {
	var s status
	var list problem.List
	switch {
	case err == nil:
		return exitOK
	case errors.As(err, &list):
		fmt.Fprintln(os.Stderr, list.Error())
		return exitProblems
	case errors.As(err, &s):
		if s.message != "" {
			fmt.Fprintln(os.Stderr, s.message)
		}
		return s.code
	}
	fmt.Fprintln(os.Stderr, "sodrik:", err)
	return exitFailed
}

func usage(w io.Writer) {
	fmt.Fprint(w, "Sodrik makes QR codes that go to print, and proves that they scan.\n\n")
	for _, c := range commands {
		fmt.Fprintf(w, "  sodrik %-7s %-22s %s\n", c.name, c.args, c.does)
	}
	fmt.Fprint(w,
		"\nJOB.json may be - for standard input, FILE - for standard output (with -format).\nsodrik COMMAND -help tells the "+
			"flags of a command.\n")
}
