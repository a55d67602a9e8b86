package spec

import (
	"fmt"
	"path"
	"regexp"
	"strconv"
	"strings"
)

// Attachment is a file that a form sends: its name, media type and size in bytes. As a value it is written as in
// "leaf.png, image/png, 2048 bytes".
type Attachment struct {
	Name string `json:"name"`
	Type string `json:"type"`
	Size int    `json:"size"`
}

func (a Attachment) String() string { return fmt.Sprintf("%s, %s, %d bytes", a.Name, a.Type, a.Size) }

var attachmentText = regexp.MustCompile(`^(.+), ([^\s,/]+/[^\s,/]+), ([0-9]{1,10}) bytes$`)

// ParseAttachment reads a file's value.
func ParseAttachment(text string) (Attachment, error) {
	m := attachmentText.FindStringSubmatch(text)
	if m == nil {
		return Attachment{}, fmt.Errorf("%q is not a file; write name, type and size, as in leaf.png, image/png, 2048 bytes", text)
	}
	size, err := strconv.Atoi(m[3])
	if err == nil && size > MaxAttachment+1 { // one byte more than a rule may allow
		err = fmt.Errorf("a file of %d bytes is not made; at most %d are", size, MaxAttachment)
	}
	return Attachment{Name: m[1], Type: m[2], Size: size}, err
}

// Admits tells whether the rule lets a file pass.
func (f *FileRule) Admits(a Attachment) bool {
	return (f.Max == 0 || a.Size <= f.Max) && f.admitsType(a)
}

// admitsType reads the types as HTML's accept attribute does: a media type, one with *, or an ending (HTML Standard, 4.10.5.1.17).
func (f *FileRule) admitsType(a Attachment) bool {
	for _, t := range f.Types {
		family, all := strings.CutSuffix(t, "/*")
		switch {
		case strings.HasPrefix(t, ".") && strings.EqualFold(path.Ext(a.Name), t), strings.EqualFold(a.Type, t), all && strings.HasPrefix(strings.ToLower(a.Type), strings.ToLower(family)+"/"):
			return true
		}
	}
	return len(f.Types) == 0
}
