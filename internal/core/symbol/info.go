package symbol

// formatInfo is the masked 15-bit format information of a level and mask pattern (clause 7.9.1): BCH (15, 5) with
// generator 10100110111, masked with 101010000010010.
func formatInfo(l Level, mask int) uint {
	data := l.indicator()<<3 | uint(mask)
	rem := data
	for range 10 {
		rem = rem<<1 ^ (rem>>9)*0x537
	}
	return (data<<10 | rem) ^ 0x5412
}

// versionInfo is the 18-bit version information of versions 7 to 40 (clause 7.10): BCH (18, 6), generator 1111100100101.
func versionInfo(v int) uint {
	rem := uint(v)
	for range 12 {
		rem = rem<<1 ^ (rem>>11)*0x1F25
	}
	return uint(v)<<12 | rem
}

// FormatInfo is the 15-bit format information as it stands in a symbol, most significant bit first.
func FormatInfo(l Level, mask int) uint { return formatInfo(l, mask) }

// VersionInfo is the 18-bit version information; it stands in symbols of version 7 and above.
func VersionInfo(v int) uint { return versionInfo(v) }
