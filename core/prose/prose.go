// Package prose is the type of texts that are for people to read.
package prose

// Text is a sentence or a name for people. It can be reworded at any time, so nothing but a reader may depend on its words: it is not
// compared, not looked up, not hashed and not taken apart, which a test of internal/rooms holds.
type Text string

// Join puts texts one behind the other.
func Join(texts []Text, between string) Text {
	var out Text
	for i, t := range texts {
		if i > 0 {
			out += Text(between)
		}
		out += t
	}
	return out
}
