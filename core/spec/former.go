package spec

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"github.com/goccy/go-yaml/ast"
)

// This file knows how documents were written by former versions: the tags was and renamed of the types, and what is below. The reader
// refuses what is written so with its present name; core/document rewrites it.

// MemberOf is the member of a struct that a key names, by its present name or by a former one. Former names are those that the tag was
// gives, and the present ones with spaces for underscores.
func MemberOf(t reflect.Type, key string) (name string, field reflect.StructField, ok bool) {
	members := StructFields(t)
	if f, known := members[key]; known {
		return key, f, true
	}
	for name, f := range members {
		if f.Tag.Get("was") == key || underscored(key) == name {
			return name, f, true
		}
	}
	return "", reflect.StructField{}, false
}

func underscored(text string) string { return strings.ReplaceAll(text, " ", "_") }

// formerKinds are fields' kinds by their former names, but for those that only had spaces.
var formerKinds = map[string]Kind{"multi-line": Textarea, "date-time": DateTime, "one choice": SingleChoice, "several choices": MultipleChoice, "read-only": Readonly, "trap": Honeypot}

// RenamedValue is the present name of a value that a text of a type holds in a member; ok is false where it was never renamed.
func RenamedValue(t reflect.Type, member reflect.StructField, text string) (name string, ok bool) {
	if t == reflect.TypeFor[Kind]() {
		kind, ok := formerKinds[text]
		return string(kind), ok
	}
	for _, pair := range strings.Split(member.Tag.Get("renamed"), ",") {
		if former, now, _ := strings.Cut(pair, "="); former == text && now != "" {
			return now, true
		}
	}
	present := strings.Split(member.Tag.Get("oneof"), ",")
	if name := underscored(text); name != text && slices.Contains(present, name) {
		return name, true
	}
	return "", false
}

// FormerText is what a text that is now written otherwise stands for, as JSON; nil where the text of such a type is none.
func FormerText(t reflect.Type, text string) json.RawMessage {
	write := func(v any) json.RawMessage {
		b, _ := json.Marshal(v) // plain data can be written
		return b
	}
	name, detail, _ := strings.Cut(text, " ")
	switch t {
	case reflect.TypeFor[[]Layer]():
		return write([]string{text})
	case reflect.TypeFor[Now]():
		if name == "within" {
			return write(map[string]string{name: detail})
		}
	case reflect.TypeFor[NormalizeStep]():
		if _, plain := plainSteps[underscored(text)]; plain && underscored(text) != text {
			return write(underscored(text))
		}
		if _, known := StructFields(t)[name]; known && detail != "" {
			return write(map[string]string{name: detail})
		}
	}
	return nil
}

// UnmarshalText implements encoding.TextUnmarshaler: cases of former results name it by a former name.
func (r *Replaced) UnmarshalText(text []byte) error {
	*r = Replaced(underscored(string(text)))
	if *r == "unauthorised" {
		*r = Unauthorized
	}
	return nil
}

// DocumentType is the type that a document is read as: that of a form, a site, edits of cases or a catalogue of guesses; nil for another.
func DocumentType(doc ast.Node) reflect.Type {
	types := []struct {
		key string
		as  reflect.Type
	}{{"form", reflect.TypeFor[Form]()}, {"site", reflect.TypeFor[Site]()}, {"cases", reflect.TypeFor[CaseDocument]()}, {"guesses", reflect.TypeFor[GuessDocument]()}}
	entries, _ := MapEntries(Unwrap(doc))
	for _, t := range types {
		if slices.ContainsFunc(entries, func(e *ast.MappingValueNode) bool { return e.Key.GetToken().Value == t.key }) {
			return t.as
		}
	}
	return nil
}
