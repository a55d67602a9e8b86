package documents

import (
	"bytes"
	"io"
)

// Inert writes what a command prints, with every control character but the ends of lines and tabs made visible: texts of tested sites are in
// it, and a terminal would obey them.
type Inert struct {
	W io.Writer
	// held is the first byte of a control character of two (U+0080 to U+009F in UTF-8), whose second has not come yet.
	held bool
}

func (i *Inert) Write(text []byte) (int, error) {
	var out bytes.Buffer
	for _, b := range text {
		switch {
		case i.held && b >= 0x80 && b < 0xA0:
			i.held = false
			out.WriteString("\uFFFD")
			continue
		case i.held:
			i.held = false
			out.WriteByte(0xC2)
		}
		switch {
		case b == 0xC2:
			i.held = true
		case b == 0x1B || b == 0x7F || b < 0x20 && b != '\n' && b != '\t' && b != '\r':
			out.WriteString("\uFFFD")
		default:
			out.WriteByte(b)
		}
	}
	if _, err := i.W.Write(out.Bytes()); err != nil {
		return 0, err
	}
	return len(text), nil
}
