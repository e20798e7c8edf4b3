package table

import (
	"fmt"
	"io"
	"math/big"
	"strings"
)

// MaxNumbers is how many numbers a range holds at most.
const MaxNumbers = 1_000_000

// Numbers is a range from one number to another, both included, with what stands before and behind them and their zeros:
// "MB-0001" to "MB-0200". The one column is called Number.
func Numbers(from, to string) (*Rows, error) {
	before, a, behind, ok := digitsOf(from)
	before2, b, behind2, ok2 := digitsOf(to)
	switch {
	case !ok:
		return nil, badAt("/from", "range.number", "holds no number; write the first one, such as MB-0001")
	case !ok2:
		return nil, badAt("/to", "range.number", "holds no number; write the last one, such as MB-0200")
	case before != before2 || behind != behind2:
		return nil, badAt("/to", "range.same", "differs from the first in more than its number; begin it with %q", before)
	}
	x, _ := new(big.Int).SetString(a, 10)
	y, _ := new(big.Int).SetString(b, 10)
	count := new(big.Int).Sub(y, x)
	switch {
	case count.Sign() < 0:
		return nil, badAt("/to", "range.order", "is less than the first number")
	case count.Cmp(big.NewInt(MaxNumbers)) >= 0:
		return nil, badAt("/to", "range.many", "makes more than %d numbers; take them in several ranges", MaxNumbers)
	}
	n, at := int(count.Int64())+1, 0
	out := &Rows{Columns: []string{"Number"}}
	one := big.NewInt(1)
	out.next = func() (Row, error) {
		if at == n {
			return Row{}, io.EOF
		}
		at++
		row := Row{Line: at, Cells: []string{before + fmt.Sprintf("%0*s", len(a), x.String()) + behind}}
		x.Add(x, one)
		return row, nil
	}
	return out, nil
}

func badAt(field, code, format string, args ...any) error {
	l := bad(code, format, args...)
	l[0].Field = field
	return l
}

// digitsOf takes a text apart at its last run of digits, of at most 30.
func digitsOf(s string) (before, digits, behind string, ok bool) {
	s = strings.TrimSpace(s)
	end := strings.LastIndexAny(s, "0123456789") + 1
	if end == 0 || len(s) > 200 {
		return "", "", "", false
	}
	start := end
	for start > 0 && s[start-1] >= '0' && s[start-1] <= '9' {
		start--
	}
	return s[:start], s[start:end], s[end:], end-start <= 30
}
