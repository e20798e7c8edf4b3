// Package symbol turns a payload into a QR Code symbol, Model 2, as ISO/IEC 18004:2015 has it: versions 1 to 40, levels L,
// M, Q and H, numeric, alphanumeric, byte and kanji modes, ECI, FNC1 in first position, all eight masks.
//
// It knows the role of every module, and for every codeword its block and its modules, since look and proof need both. It
// does not do Micro QR, structured append, FNC1 in second position, or anything a person sees.
package symbol
