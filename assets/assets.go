// Package assets holds what pages are made of: styles, scripts, fonts. dist is built from src by ./build and committed.
package assets

import "embed"

//go:embed dist
var Dist embed.FS
