package jsonfile_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"oddtick/formats/jsonfile"

	"github.com/stretchr/testify/require"
)

// TestAnEmptyListIsNeverNull, and all else is written as the standard library writes it.
func TestAnEmptyListIsNeverNull(t *testing.T) {
	t.Parallel()
	type shed struct {
		Name  string            `json:"name"`
		Beds  []string          `json:"beds"`
		Left  []int             `json:"left,omitempty"`
		Took  time.Duration     `json:"took"`
		Raw   json.RawMessage   `json:"raw"`
		Notes map[string]string `json:"notes,omitempty"`
		Bytes []byte            `json:"bytes,omitempty"`
		Built time.Time         `json:"built"`
		Next  *int              `json:"next"`
	}
	is := shed{Name: "<a> & b", Took: time.Second, Raw: json.RawMessage(`{"a": 1}`), Bytes: []byte{1}, Built: time.Unix(0, 0).UTC()}
	var b strings.Builder
	require.NoError(t, jsonfile.Write(&b, is))
	require.JSONEq(t, `{"name": "<a> & b", "beds": [], "took": 1000000000, "raw": {"a": 1}, "bytes": "AQ==", "built": "1970-01-01T00:00:00Z", "next": null}`, b.String())
	require.Contains(t, b.String(), "<a> & b")
	is.Beds = []string{}
	standard, err := json.Marshal(is)
	require.NoError(t, err)
	require.JSONEq(t, string(standard), b.String())
	var again shed
	require.NoError(t, json.Unmarshal([]byte(b.String()), &again))
}
