package testcase

import (
	"mime"
	"path"
	"strings"

	"oddtick/core/spec"
)

// usualFile is the size of a usual file, in bytes.
const usualFile = 2048

// FileType is a media type with its usual ending.
type FileType struct{ Ending, Kind string }

// FileTypes are media types with an ending of their own that every site knows, the usual ones first.
var FileTypes = []FileType{
	{".png", "image/png"},
	{".jpg", "image/jpeg"},
	{".gif", "image/gif"},
	{".pdf", "application/pdf"},
	{".txt", "text/plain"},
	{".csv", "text/csv"},
	{".zip", "application/zip"},
	{".bin", "application/octet-stream"},
}

// FileOf is the name and media type of a file of one of a rule's types; ok is false for a type without a known ending.
func FileOf(name, wanted string) (text string, ok bool) {
	if strings.HasPrefix(wanted, ".") {
		kind := mime.TypeByExtension(wanted)
		for _, t := range FileTypes {
			if t.Ending == strings.ToLower(wanted) {
				kind = t.Kind
			}
		}
		kind, _, _ = strings.Cut(kind, ";")
		if kind == "" {
			kind = "application/octet-stream"
		}
		return name + wanted + ", " + kind, true
	}
	for _, t := range FileTypes {
		if matched, err := path.Match(strings.ToLower(wanted), t.Kind); err == nil && matched {
			return name + t.Ending + ", " + t.Kind, true
		}
	}
	return "", false
}

// UsualFileOf is a file that a field's rules let pass.
func UsualFileOf(f *spec.PreparedField) Recipe {
	size := usualFile
	wanted := ".png"
	if r := RuleOf(f, spec.RuleFile); r != nil {
		if r.Rule.File.Max > 0 {
			size = min(size, r.Rule.File.Max)
		}
		for _, t := range r.Rule.File.Types {
			if _, ok := FileOf("leaf", t); ok {
				wanted = t
				break
			}
		}
	}
	text, _ := FileOf("leaf", wanted)
	return Recipe{Make: File, Text: text, Length: size}
}
