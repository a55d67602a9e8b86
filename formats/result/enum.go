package result

import (
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// Lists are written as [], never as null.
func init() { huma.DefaultArrayNullable = false }

// closed is a type of which only some values exist.
type closed interface{ Values() []string }

// Enumerate adds to the schemas of types what values the members have whose types are closed sets. prefix is that of the schemas' refs.
func Enumerate(types huma.Registry, prefix string) {
	for name, s := range types.Map() {
		t := types.TypeFromRef(prefix + name)
		if t != nil && t.Kind() == reflect.Struct {
			enumerate(t, s)
		}
	}
}

func enumerate(t reflect.Type, s *huma.Schema) {
	for i := range t.NumField() {
		f := t.Field(i)
		if f.Anonymous && f.Type.Kind() == reflect.Struct {
			enumerate(f.Type, s)
			continue
		}
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		member := s.Properties[name]
		if member == nil {
			continue
		}
		if f.Type.Kind() == reflect.Slice {
			addEnum(f.Type.Elem(), member.Items)
		}
		addEnum(f.Type, member)
	}
}

func addEnum(t reflect.Type, s *huma.Schema) {
	if s == nil || len(s.Enum) > 0 || !t.Implements(reflect.TypeFor[closed]()) {
		return
	}
	for _, v := range reflect.Zero(t).Interface().(closed).Values() {
		s.Enum = append(s.Enum, v)
	}
}
