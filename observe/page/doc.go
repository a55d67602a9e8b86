// Package page reads HTML: the form under test with its controls, and every text with the place where it stands.
package page
