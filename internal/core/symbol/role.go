package symbol

// Role is what one module is for (clause 5.3).
type Role uint8

const (
	RoleData      Role = iota // a bit of a data codeword
	RoleEC                    // a bit of an error correction codeword
	RoleRemainder             // a remainder bit after the last codeword
	RoleFinder                // finder pattern, seven modules wide
	RoleSeparator             // light modules around a finder pattern
	RoleTiming                // the alternating line between finder patterns
	RoleAlignment             // alignment pattern, five modules wide
	RoleFormat                // format information
	RoleVersion               // version information
	RoleDark                  // the one module that is always dark
)

func (r Role) String() string {
	return [...]string{"data", "error correction", "remainder", "finder", "separator", "timing", "alignment", "format", "version",
		"dark module"}[r]
}

// Function says whether the module belongs to a function pattern or to format or version information, that is, carries no
// codeword and is not masked.
func (r Role) Function() bool { return r >= RoleFinder }

// Codeword is one codeword of a symbol: whose block it belongs to and where its modules stand.
type Codeword struct {
	Block   int    // from 0
	Index   int    // place in its block, data codewords first
	EC      bool   // an error correction codeword
	Modules [8]int // y*Size+x of each bit, most significant first
}
