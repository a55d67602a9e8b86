package design

import (
	"fmt"
	"mime"
	"path"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/spec"
)

// Sizes of files, in bytes.
const (
	usualFile = 2048
	// farthestFile is the largest that is made.
	farthestFile = 16 << 20
)

// fileTypes are media types with an ending of their own that every site knows, the usual ones first.
var fileTypes = []struct{ ending, kind string }{
	{".png", "image/png"},
	{".jpg", "image/jpeg"},
	{".gif", "image/gif"},
	{".pdf", "application/pdf"},
	{".txt", "text/plain"},
	{".csv", "text/csv"},
	{".zip", "application/zip"},
	{".bin", "application/octet-stream"},
}

// fileOf is the name and media type of a file of one of a rule's types; ok is false for a type without a known ending.
func fileOf(name, wanted string) (text string, ok bool) {
	if strings.HasPrefix(wanted, ".") {
		kind := mime.TypeByExtension(wanted)
		for _, t := range fileTypes {
			if t.ending == strings.ToLower(wanted) {
				kind = t.kind
			}
		}
		kind, _, _ = strings.Cut(kind, ";")
		if kind == "" {
			kind = "application/octet-stream"
		}
		return name + wanted + ", " + kind, true
	}
	for _, t := range fileTypes {
		if matched, err := path.Match(strings.ToLower(wanted), t.kind); err == nil && matched {
			return name + t.ending + ", " + t.kind, true
		}
	}
	return "", false
}

// usualFileOf is a file that a field's rules let pass.
func usualFileOf(f *spec.PreparedField) Recipe {
	size := usualFile
	wanted := ".png"
	if r := rule(f, spec.RuleFile); r != nil {
		if r.Rule.File.Max > 0 {
			size = min(size, r.Rule.File.Max)
		}
		for _, t := range r.Rule.File.Types {
			if _, ok := fileOf("leaf", t); ok {
				wanted = t
				break
			}
		}
	}
	text, _ := fileOf("leaf", wanted)
	return Recipe{Make: File, Text: text, Length: size}
}

// files are uploads by type and by size.
func (s *sheet) files(f *spec.PreparedField) {
	if f.Kind != spec.Upload {
		return
	}
	usual := usualFileOf(f)
	of := func(size int) Recipe { return Recipe{Make: File, Text: usual.Text, Length: size} }
	mark := func(size int) Mark { return Mark{"size, bytes", float64(size), strconv.Itoa(size)} }
	s.one(Quick, f, "blank", "no file", Partitioning, cover(CoversPartition, f.ID, "blank"), Recipe{Make: Absent}, Mark{"size, bytes", -1e12, "none"})
	s.one(Quick, f, "valid", "a usual file", Partitioning, cover(CoversPartition, f.ID, ValidPoint), usual, Mark{"size, bytes", float64(usual.Length), "usual"})
	s.one(Thorough, f, "guess.name", "a name with spaces, quotes and accents", ErrorGuessing, cover(CoversGuess, f.ID, "name"), Recipe{Make: File, Text: strings.Replace(usual.Text, "leaf", "Zoë's  leaf (1)", 1), Length: usual.Length}, Mark{"guessed", 0, "name"})
	r := rule(f, spec.RuleFile)
	if r == nil {
		return
	}
	id := localID(r)
	if most := r.Rule.File.Max; most > 0 && most < farthestFile {
		for _, p := range highPoints {
			if n := most + p.offset; n > 0 {
				s.one(p.depth, f, id+"."+p.role(), fmt.Sprintf("%d bytes, %s", n, p.title()), Boundaries, p.covers(r), of(n), mark(n))
			}
		}
		if far := most * 10; far <= farthestFile {
			s.one(Standard, f, id+".max.far", fmt.Sprintf("%d bytes, far above the upper boundary", far), Boundaries, cover(CoversBoundary, r.ID, MaxFarPoint), of(far), mark(far))
		}
	} else if most >= farthestFile {
		s.omitted = append(s.omitted, Omission{About: r.ID, Why: fmt.Sprintf("files of %d bytes are larger than are made; the most is %d", most, farthestFile)})
	}
	s.types(f, r)
}

// types takes each type that is allowed, and one that is not.
func (s *sheet) types(f *spec.PreparedField, r *spec.PreparedRule) {
	id := localID(r)
	size := usualFileOf(f).Length
	for i, t := range r.Rule.File.Types {
		text, ok := fileOf("leaf", t)
		if !ok {
			s.omitted = append(s.omitted, Omission{About: r.ID + " " + t, Why: "no file of this type can be made"})
			continue
		}
		s.one(Standard, f, id+".type."+strings.NewReplacer("/", "_", ".", "", "*", "any").Replace(t), t, EachChoice, cover(CoversPartition, f.ID, "type "+t), Recipe{Make: File, Text: text, Length: size}, Mark{"type", float64(i), t})
	}
	if len(r.Rule.File.Types) == 0 {
		return
	}
	i := slices.IndexFunc(fileTypes, func(t struct{ ending, kind string }) bool {
		return t.ending != ".bin" && !r.Rule.File.Admits(spec.Attachment{Name: "leaf" + t.ending, Type: t.kind})
	})
	if i < 0 {
		s.omitted = append(s.omitted, Omission{About: r.ID, Why: "every type that can be made is allowed"})
		return
	}
	s.one(Quick, f, id+".other_type", "a file of another type", Partitioning, cover(CoversPartition, r.ID, BrokenPoint), Recipe{Make: File, Text: "leaf" + fileTypes[i].ending + ", " + fileTypes[i].kind, Length: size}, Mark{"type", 1e6, fileTypes[i].ending})
}
