package engine_test

import (
	"fmt"
	"strings"
	"testing"

	"oddtick/core/judge"

	"github.com/stretchr/testify/require"
)

// moments are the fields of testdata/moments.html, with when their messages are promised to come, and what is odd about it.
var moments = []struct{ field, comes, part, observed string }{
	{"prompt", "input", "", ""},
	{"lazy", "input", "", ""},
	{"after", "blur", "", ""},
	{"asked", "blur", "", ""},
	{"late", "input", "comes", "on leaving the field"},
	{"eager", "blur", "comes", "while typing"},
	{"stays", "blur", "goes", "it stays"},
	{"calm", "submit", "", ""},
	{"hasty", "submit", "comes", "on leaving the field"},
	{"never", "blur", "comes", "only on submitting"},
}

// TestWhenMessagesComeAndGo is seen by making a mistake, leaving the field and correcting it; what comes a little late is waited for.
func TestWhenMessagesComeAndGo(t *testing.T) {
	t.Parallel()
	var text strings.Builder
	text.WriteString("form: crossings\npage: /crossings\nrejected: {status: 422, message_on: blur}\naccepted: {status: 200, reply: Crossed.}\nfields:\n")
	for _, m := range moments {
		fmt.Fprintf(&text, "  - {id: %[1]s, name: %[1]s, rules: [{length: {layers: [browser], message_on: %[2]s, max: 5, message: \"Mend %[1]s.\"}}]}\n", m.field, m.comes)
	}
	text.WriteString("  - {id: short, name: short, rules: [{length: {layers: [browser], max: 5, message: Mend short.}}, {length: {max: 9}}]}\n")
	text.WriteString("  - {id: deck, name: deck, kind: single_choice, options: [{value: u}], rules: [{required: {layers: [browser], message_on: blur, message: Mend deck.}}]}\n")
	sink := ranOnPage(t, "testdata/moments.html", "<p role=status>Crossed.</p>", text.String(), ".corrected/browser", len(moments)+2)
	parts := func(id string, is judge.Verdict) []judge.Part {
		r := sink.Result("crossings/" + id + ".corrected/browser")
		require.NotNil(t, r, id)
		return partsThatAre(r, is)
	}
	for _, m := range moments {
		t.Run(m.field, func(t *testing.T) {
			require.Empty(t, parts(m.field+".length", judge.NotObserved))
			odd := parts(m.field+".length", judge.Odd)
			if m.part == "" {
				require.Empty(t, odd)
				return
			}
			require.Len(t, odd, 1, "%v", odd)
			require.Equal(t, "message "+m.field+".length: "+m.part, odd[0].Subject.Older())
			require.EqualValues(t, m.observed, odd[0].Words.Observed)
		})
	}
	require.Empty(t, parts("deck.required", judge.Odd))
	require.Empty(t, parts("short.length", judge.Odd))
	why := parts("short.length", judge.DoesNotApply)
	require.Contains(t, fmt.Sprint(why), "the mistake cannot be made", "the control does not take it")
}
