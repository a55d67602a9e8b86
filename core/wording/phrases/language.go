package phrases

import (
	_ "embed"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/goccy/go-yaml"
)

// translations are the files of other languages, by language tag: the text of each phrase by its code.
var translations = map[string][]byte{"de": german}

//go:embed de.yaml
var german []byte

// translation are the texts that are used in place of the English ones, and used is the tag of their language; nil for English.
var (
	translation atomic.Pointer[map[string]string]
	used        atomic.Pointer[string]
)

// Languages are the tags of the languages that there are, English first.
func Languages() []string { return append([]string{"en"}, slices.Sorted(maps.Keys(translations))...) }

// Use makes all texts for people be said in a language from now on. What was said before stays as it is. An error names the languages.
func Use(language string) error {
	if language == "" || language == "en" {
		translation.Store(nil)
		used.Store(nil)
		return nil
	}
	texts, err := Texts(language)
	if err == nil {
		Replace(language, texts)
	}
	return err
}

// Replace makes texts be said in place of the English ones, by the codes of the phrases. restore ends it.
func Replace(language string, texts map[string]string) (restore func()) {
	before, was := translation.Swap(&texts), used.Swap(&language)
	return func() {
		translation.Store(before)
		used.Store(was)
	}
}

// Language is the tag of the language that is used.
func Language() string {
	if l := used.Load(); l != nil {
		return *l
	}
	return "en"
}

// Texts are the texts of a language other than English, by the codes of the phrases.
func Texts(language string) (map[string]string, error) {
	file, known := translations[language]
	if !known {
		return nil, fmt.Errorf("the language %q is not known; write one of: %s", language, strings.Join(Languages(), ", "))
	}
	texts := map[string]string{}
	if err := yaml.Unmarshal(file, &texts); err != nil {
		return nil, fmt.Errorf("the texts in %s cannot be read: %w", language, err)
	}
	return texts, nil
}
