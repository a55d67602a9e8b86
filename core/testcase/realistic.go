package testcase

import (
	"sync"

	"oddtick/core/spec"
	"oddtick/core/values"
)

var words = []string{"maple", "moss", "fern", "river", "amber", "hazel", "clover", "stone", "willow", "heron", "barley", "thistle"}

// realisticEmail are addresses every mail server would take: short parts, and a domain reserved for examples (RFC 2606).
var realisticEmail = lazyPattern(`[a-z](?:[a-z0-9]|-(?=[a-z0-9])){1,50}@(?:[a-z](?:[a-z0-9]){1,50}\.)*example\.test`)

// realisticURL are addresses that every reader of URLs takes.
var realisticURL = lazyPattern(`https:\/\/(?:[a-z](?:[a-z0-9]){0,50}\.)*example\.test(?:\/[a-z0-9]{1,50}){0,100}`)

// SoleCharacters are values made of one kind of character.
var SoleCharacters = map[string]*values.Automaton{
	"letters_only": values.Only(values.Runes{{Lo: 'a', Hi: 'z'}}),
	"digits_only":  values.Only(values.Runes{{Lo: '0', Hi: '9'}}),
	"signs_only":   values.Only(values.Runes{{Lo: '!', Hi: '/'}}),
}

// lazyPattern is made when it is first asked for.
func lazyPattern(source string) func() *values.Automaton {
	return sync.OnceValue(func() *values.Automaton {
		auto, err := values.Pattern(source, values.DialectV)
		if err != nil {
			panic(err)
		}
		return auto
	})
}

// Hint is what a field's new value should look like; length in characters, -1 for any.
func (f *FieldSets) Hint(seed uint64, length int) string {
	word := words[seed%uint64(len(words))]
	token := values.Token(seed, 7)
	switch {
	case f.Kind == spec.Email:
		return word + "-" + token + "@example.test"
	case f.Kind == spec.URL:
		return "https://example.test/" + word + token
	case f.Secret:
		return "Maple-row-" + values.Token(seed, 6) + "-42"
	case f.Example != "" && RuleOf(f.PreparedField, spec.RuleUnique) != nil:
		return likeExample(f.Example, seed)
	case f.Example != "":
		return f.Example
	case length >= 0 && length <= 8:
		return values.Token(seed, length)
	case length >= 0 && length < len(word)+8:
		return token
	}
	return word + "-" + token
}

// maxVaried is how many of an example's characters are others in a value that is made like it.
const maxVaried = 6

// likeExample is a value of the example's shape: its last letters and digits are others of their kind. One that must be new is made so.
func likeExample(example string, seed uint64) string {
	out := []rune(example)
	varied := 0
	for i := len(out) - 1; i >= 0 && varied < maxVaried; i-- {
		first, n := rune(0), uint64(0)
		switch c := out[i]; {
		case c >= '0' && c <= '9':
			first, n = '0', 10
		case c >= 'a' && c <= 'z':
			first, n = 'a', 26
		case c >= 'A' && c <= 'Z':
			first, n = 'A', 26
		default:
			continue
		}
		seed = values.Seed(seed, "like")
		out[i] = first + rune(seed%n)
		varied++
	}
	return string(out)
}
