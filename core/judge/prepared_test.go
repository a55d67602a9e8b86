package judge_test

import (
	"testing"

	"oddtick/core/observation"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// prepared is a form of the text of its document.
func prepared(t testing.TB, text string) *spec.Prepared {
	f, err := spec.ReadForm("form.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

// ledOn is what is exchanged where a submission leads on to another page.
func ledOn(from, to string) []observation.Exchange {
	return []observation.Exchange{{Method: "POST", URL: from, Status: 303, Location: to}, {Method: "GET", URL: to, Status: 200, Body: "<p>Done"}}
}
