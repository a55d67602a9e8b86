package spec_test

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestPlacesOfMessagesAreFilled(t *testing.T) {
	t.Parallel()
	p := prepare(t, `
  - name: name
    label: Shed
    labels: {cy: Sied}
    rules: [{required: {message: {en: "{field} is missing.", cy: "Mae {field} ar goll."}, absent: "No {field}."}}, {length: {min: 3, max: 20, message: "{field}: {min} to {max}, not “{value}” {any}"}}]
  - {name: width, kind: number, rules: [{range: {min: 0.5, max: 4, message: {part: "{min} to {max}"}}}]}
`)
	required, length, width := p.Rules[0], p.Rules[1], p.Rules[2]
	require.Equal(t, map[string]string{"en": "Shed is missing.", "cy": "Mae Sied ar goll."}, required.Message.Texts)
	require.Equal(t, "No Shed.", required.Absent.Text)
	require.Equal(t, "Shed: 3 to 20, not “{value}” {any}", length.Message.Text)
	require.Equal(t, "Shed: 3 to 20, not “{max}” {any}", length.Message.FilledWith("{max}").Text)
	require.Same(t, required.Message, required.Message.FilledWith("fern"))
	require.Equal(t, "0.5 to 4", width.Message.Part)
}

func TestPlacesThatCannotBeFilledAreRefused(t *testing.T) {
	t.Parallel()
	form := func(field, more string) string {
		return "form: shed\npage: /shed\nfields:\n  - " + field + "\n" + more
	}
	for text, says := range map[string]string{
		form(`{name: a, rules: [{length: {max: 9, message: "From {min}."}}]}`, ""):                                  "the rule has no bound that {min} could stand for",
		form(`{name: a, kind: date, rules: [{range: {max: today, message: "Up to {max}."}}]}`, ""):                  "changes with the day",
		form(`{name: a, kind: password, rules: [{length: {max: 9, message: "{value} is long."}}]}`, ""):             "a message cannot show the value of a secret",
		form(`{name: a, rules: [{length: {max: 9, message: "{b} is long."}}]}`, ""):                                 "nothing is known of the place {b}",
		form(`{name: a, rules: [{required: {message: "{any} "}}]}`, ""):                                             "fits every text",
		form(`{name: a}`, "across: [{must_hold: 'a != \"x\"', message: \"{field}?\"}]\n"):                           "nothing is known of the place {field}",
		form(`{name: a}`, "accepted: {to: \"/sheds/{key}\"}\n"):                                                     "no row is written that {key} could stand for",
		form(`{name: a}`, "accepted: {reply: \"{beds.id}\"}\nstored: [{insert: sheds, columns: {a: {from: a}}}]\n"): "no row is written that {beds.id} could stand for",
		form(`{name: a}`, "accepted: {to: \"/sheds/{b}\"}\n"):                                                       "there is no field",
		form(`{name: a}`, "accepted: {shown: [{page: \"/{any}\", selector: b, text: x}]}\n"):                        "may be any text",
	} {
		_, err := spec.ReadForm("shed.yaml", []byte(text))
		require.ErrorContains(t, err, says, text)
	}
}

func TestPromisesThatNothingCouldBreakAreRefused(t *testing.T) {
	t.Parallel()
	for more, says := range map[string]string{
		"requests: {missing_token: {status: 403}}":                                                        "the form sends no token",
		"requests: {resubmitted: {status: 409}}":                                                          "no case submits the form twice",
		"requests: {other_type: {status: 200}}":                                                           "200 refuses nothing",
		"stored: [{insert: t, where: {a: x}, columns: {a: {from: a}}}]":                                   "which row is only said of an update",
		"stored: [{update: t, row: signed_in, where: {a: x}, columns: {a: {from: a}}}]":                   "the row is named twice",
		"stored: [{update: t, where: {a: \"{b}\"}, columns: {a: {from: a}}}]":                             "there is no field",
		"stored: [{insert: t, columns: {a: {from: a, at_least: {bcrypt: {cost: 4}}}}}]":                   "belong to a secret",
		"stored: [{insert: t, columns: {a: {secret: a, at_least: {bcrypt: {memory: 4}}}}}]":               "memory says nothing of the work of bcrypt",
		"stored: [{insert: t, columns: {a: {secret: a, as: [argon2id], at_least: {bcrypt: {cost: 4}}}}}]": "bcrypt is not among the kinds",
		"stored: [{insert: t, columns: {a: {secret: a, at_least: {phpass: {iterations: 4}}}}}]":           `the work of "phpass" is not read`,
	} {
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /f\nfields: [{name: a, kind: password, rules: [{required: {}}]}]\n"+more+"\n"))
		require.ErrorContains(t, err, says, more)
	}
}
