// Package ui holds the interface: templates, and the styles, scripts and fonts
// that "make build" puts into dist.
package ui

import "embed"

// Files is the interface's files: templates/ and dist/.
//
//go:embed templates dist
var Files embed.FS
