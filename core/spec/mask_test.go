package spec_test

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestWhatAMaskTakes(t *testing.T) {
	t.Parallel()
	m := spec.Mask{Typed: "01632960123", Shown: "01632 960 123", Sent: "01632960123"}
	for value, takes := range map[string]bool{"44630196027": true, "4463019602": true, "446301960271": false, "stone": false, "": true, "4463-019": false} {
		require.Equal(t, takes, m.Takes(value), value)
	}
	m = spec.Mask{Typed: "ab12", Shown: "AB-12"}
	require.True(t, m.Takes("xy34"))
	require.False(t, m.Takes("xy 4"))
}

func TestAMaskIsUndoneForTypingAndKnownAgain(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		mask                spec.Mask
		value, typed, stand string
		made                bool
	}{
		"shown in groups, sent in digits": {spec.Mask{Typed: "01632960123", Shown: "01632 960 123", Sent: "01632960123"}, "01632960999", "01632960999", "01632 960 999", true},
		"sent as it stands":               {spec.Mask{Typed: "12345678", Shown: "12-34-5678"}, "99-88-7777", "99887777", "99-88-7777", true},
		"a digit is lost":                 {spec.Mask{Typed: "12345678", Shown: "12-34-5678"}, "99-88-7777", "99887777", "99-88-777", false},
		"no mask at all":                  {spec.Mask{Typed: "abc"}, "a-b", "a-b", "a-b", true},
		"nothing":                         {spec.Mask{Typed: "12", Shown: "1 2"}, "", "", "", true},
	} {
		require.Equal(t, c.typed, c.mask.Unmasked(c.value), name)
		require.Equal(t, c.made, c.mask.Made(c.typed, c.stand), name)
	}
}
