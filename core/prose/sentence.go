package prose

// Sentence is a sentence as data: the code of a template of core/wording, and what stands in the template's places. It is kept with a
// result, so that the sentence can later name several inputs at once, or be put into another language.
type Sentence struct {
	Code   string            `json:"code"`
	Places map[string]string `json:"places,omitempty"`
	// Input is the input that the sentence names in its place {subject}; nil where it names none.
	Input *Sentence `json:"input,omitempty"`
}
