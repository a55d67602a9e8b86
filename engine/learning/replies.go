package learning

import (
	"regexp"
	"slices"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/universal"
	"oddtick/core/wording/phrases"
)

// reply is the key of a document that says what is shown once a submission was accepted.
const reply = "accepted.reply"

// otherReplies takes the reply out of a draft where another one came with a submission that was accepted as well: under which condition is left
// to the tester, who is told of it.
func otherReplies(d *draft.Draft, seen []*universal.Submitted) []prose.Text {
	at := slices.IndexFunc(d.Form, func(said draft.Statement) bool { return said.Path == reply })
	if at < 0 {
		return nil
	}
	text, _ := d.Form[at].Value.(string)
	for _, one := range seen {
		if one.Ending == universal.Accepted && !replied(one.Step, text) {
			d.Form = slices.Delete(d.Form, at, at+1)
			return []prose.Text{phrases.RepliesDiffer.With("reply", text)}
		}
	}
	return nil
}

// aPlace is a place in a reply that stands for what differs.
var aPlace = regexp.MustCompile(`\\\{[a-z0-9_]+\\\}`)

// replied tells whether one of the texts that came with an answer holds a reply.
func replied(step *observation.Step, reply string) bool {
	if step.After == nil {
		return true // nothing is known of it
	}
	pattern, err := regexp.Compile("(?s)" + aPlace.ReplaceAllString(regexp.QuoteMeta(reply), ".*"))
	return err != nil || slices.ContainsFunc(step.After.Texts, func(t observation.Text) bool {
		return pattern.MatchString(strings.TrimSpace(t.Text))
	})
}
