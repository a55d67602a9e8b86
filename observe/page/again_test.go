package page

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// allotment is a page with a token in a meta element and in a hidden control.
const allotment = `<!doctype html><html lang="en"><head><meta name="token" content="%[1]s"><title>Ask for a plot</title></head>
<body><form method="post" action="/ask"><input type="hidden" name="token" value="%[1]s"><label>Name <input name="name" value="%[2]s"></label>
<p class="error">%[3]s</p><select name="site"><option>Ostlewick</option><option value="w">Weir</option></select></form></body></html>`

func TestAgainReadsWhatReadReads(t *testing.T) {
	var again Again
	wanted := []string{"name", "site"}
	bodies := []string{
		fmt.Sprintf(allotment, "aaaa000011112222", "", ""),
		fmt.Sprintf(allotment, "aaaa999911112222", "", ""),     // shows where the token stands
		fmt.Sprintf(allotment, "0123456789abcdef", "", ""),     // is known
		fmt.Sprintf(allotment, "0123456789abcdef0123", "", ""), // a token of another length
		fmt.Sprintf(allotment, "0123&amp;6789abcdef", "", ""),  // one that a parser changes
		fmt.Sprintf(allotment, "short", "", ""),
		fmt.Sprintf(allotment, `"><b>bold</b><i id="`, "", ""),
		fmt.Sprintf(allotment, "0123456789abcdef", "Ash", "Enter a name"),
		fmt.Sprintf(allotment, "fedcba9876543210", "Ash", "Enter a name"),
		fmt.Sprintf(allotment, "fedcba9876543211", "Ash", "Enter a name"),
		strings.Replace(fmt.Sprintf(allotment, "fedcba9876543210", "Ash", "Enter a name"), "fedcba9876543210", "0000000000000000", 1),
		"<p>Closed for the winter</p>",
		"",
		fmt.Sprintf(allotment, "fedcba9876543212", "Ash", "Enter a name"),
	}
	for i, body := range bodies {
		expected, err := Read(body, "http://127.0.0.1/ask", wanted)
		require.NoError(t, err)
		got, err := again.Read(body, "http://127.0.0.1/ask", wanted)
		require.NoError(t, err)
		require.Equal(t, expected, got, "body %d", i)
		if got.Form != nil {
			got.Form.Controls[0].Value = "the caller's own"
		}
	}
}

func TestAgainKnowsAPageByWhatSurroundsItsToken(t *testing.T) {
	var again Again
	var read []string
	for i := range 3 {
		p, err := again.Read(fmt.Sprintf(allotment, fmt.Sprintf("%016d", i), "", ""), "http://127.0.0.1/ask", []string{"name"})
		require.NoError(t, err)
		read = append(read, p.Form.Control("token").Value)
	}
	require.Equal(t, []string{"0000000000000000", "0000000000000001", "0000000000000002"}, read)
	token, ok := again.pages["http://127.0.0.1/ask"].tokenIn(fmt.Sprintf(allotment, "0123456789abcdef", "", ""))
	require.True(t, ok)
	require.Equal(t, "0123456789abcdef", token)
}
