package prose

// Sentence is a sentence as data: the code of its words, which core/wording has, and what stands in their places. It is kept where its
// words are wanted later, of several inputs at once or in another language.
type Sentence struct {
	Code   string            `json:"code"`
	Places map[string]string `json:"places,omitempty"`
	// Input is the input that the sentence names in its place {subject}; nil where it names none.
	Input *Sentence `json:"input,omitempty"`
}
