// Package examples holds the example projects, so that the demo can load them without their folder.
package examples

import "embed"

// Ostlewick is the project of the practice site: its site document and its forms.
//
//go:embed ostlewick/*.yaml
var Ostlewick embed.FS
