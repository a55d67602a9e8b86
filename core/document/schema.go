package document

import (
	_ "embed"
	"maps"
	"reflect"
	"slices"
	"strings"
	"sync"

	"oddtick/core/spec"

	"github.com/goccy/go-yaml"
)

//go:embed keys.yaml
var keysText []byte

// keyHelp is what each key means: by type, then by key.
var keyHelp = sync.OnceValue(func() map[string]map[string]string {
	out := map[string]map[string]string{}
	if err := yaml.Unmarshal(keysText, &out); err != nil {
		panic("document: keys.yaml cannot be read: " + err.Error()) // it is compiled in
	}
	return out
})

// anyRule are the keys of every kind of rule, in keys.yaml.
const anyRule = "any rule"

// help is what a key of a type means, "" where nothing is said.
func help(t reflect.Type, key string) string {
	if text := keyHelp()[t.Name()][key]; text != "" {
		return text
	}
	for name := range spec.StructFields(t) {
		if name == "layers" {
			return keyHelp()[anyRule][key]
		}
	}
	return ""
}

// JSONSchema describes the form or the site document as JSON Schema (draft 2020-12), made from the same types that the reader fills.
// document is form or site; for another it is nil.
func JSONSchema(document string) map[string]any {
	g := &schemaMaker{defs: map[string]any{}}
	var root any
	switch document {
	case "form":
		root = g.of(reflect.TypeFor[spec.Form]())
	case "site":
		root = g.of(reflect.TypeFor[spec.Site]())
	default:
		return nil
	}
	return map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Odd Tick: a " + document + " document", "$ref": root.(map[string]any)["$ref"], "$defs": g.defs}
}

type schemaMaker struct{ defs map[string]any }

// text is what the reader takes for a text: numbers and truth values need no quotation marks.
func text() map[string]any { return map[string]any{"type": []string{"string", "number", "boolean"}} }

func (g *schemaMaker) of(t reflect.Type) any {
	if t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	switch t {
	case reflect.TypeFor[spec.Names]():
		return anyOf(text(), map[string]any{"type": "array", "items": text()})
	case reflect.TypeFor[spec.NormalizeStep]():
		return anyOf(map[string]any{"enum": spec.PlainSteps()}, g.structure(t))
	case reflect.TypeFor[spec.Kind]():
		return map[string]any{"enum": spec.Kinds}
	case reflect.TypeFor[spec.Scalar]():
		return text()
	case reflect.TypeFor[spec.Blank]():
		return map[string]any{"enum": []any{nil, "null", "NULL", "empty", "default"}}
	case reflect.TypeFor[spec.Replies]():
		return anyOf(text(), map[string]any{"type": "array", "items": g.of(reflect.TypeFor[spec.Reply]())})
	case reflect.TypeFor[spec.Message]():
		return anyOf(text(), g.structure(t), map[string]any{"type": "object", "additionalProperties": text(), "propertyNames": map[string]any{"pattern": "^[a-zA-Z]{2,3}(-[A-Za-z0-9]+)*$"}})
	}
	switch t.Kind() {
	case reflect.Interface:
		return true
	case reflect.Struct:
		return g.structure(t)
	case reflect.Slice:
		return map[string]any{"type": "array", "items": g.of(t.Elem())}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": g.of(t.Elem())}
	case reflect.Int:
		return map[string]any{"type": "integer"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	default:
		return text()
	}
}

func anyOf(list ...any) map[string]any { return map[string]any{"anyOf": list} }

func (g *schemaMaker) structure(t reflect.Type) map[string]any {
	ref := map[string]any{"$ref": "#/$defs/" + t.Name()}
	if _, known := g.defs[t.Name()]; known {
		return ref
	}
	def := map[string]any{"type": "object", "additionalProperties": false}
	g.defs[t.Name()] = def
	properties := map[string]any{}
	required := []string{}
	for name, f := range spec.StructFields(t) {
		s := g.of(f.Type)
		if words := f.Tag.Get("oneof"); words != "" {
			list := strings.Split(words, ",")
			s = map[string]any{"enum": list}
			if f.Type.Kind() == reflect.Slice {
				s = map[string]any{"type": "array", "items": map[string]any{"enum": list}}
			}
		}
		properties[name] = described(s, help(t, name))
		if _, options, _ := strings.Cut(f.Tag.Get("json"), ","); !strings.Contains(options, "omit") && slices.Contains(mustBeWritten[t], name) {
			required = append(required, name)
		}
	}
	slices.Sort(required)
	def["properties"] = properties
	if len(required) > 0 {
		def["required"] = required
	}
	if t == reflect.TypeFor[spec.Rule]() {
		def["minProperties"], def["maxProperties"] = 1, 1
	}
	return ref
}

// described is a schema with what it means. Draft 2020-12 lets a description stand beside a reference.
func described(schema any, text string) any {
	if text == "" {
		return schema
	}
	of := map[string]any{} // any value
	if kind, is := schema.(map[string]any); is {
		of = maps.Clone(kind)
	}
	of["description"] = text
	return of
}

// mustBeWritten are the keys without which the reader refuses a document.
var mustBeWritten = map[reflect.Type][]string{
	reflect.TypeFor[spec.Form](): {"form"}, reflect.TypeFor[spec.Site](): {"site"},
}
