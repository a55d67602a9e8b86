package contradiction_test

import (
	"fmt"
	"os"
	"testing"
	"time"

	"oddtick/core/contradiction"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/formats/ddl"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

func prepare(t require.TestingT, text string) *spec.Prepared {
	f, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err, "%s", text)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func onPage(t testing.TB, html string) *observation.FormOnPage {
	if html == "" {
		return nil
	}
	d, err := page.Describe(html, "http://site.test/form")
	require.NoError(t, err)
	return &d.Forms[0]
}

func tables(t testing.TB, sql string) *schema.Database {
	if sql == "" {
		return nil
	}
	db, err := ddl.Read(sql, "mariadb")
	require.NoError(t, err)
	return db
}

var now = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

// TestEveryKindHasItsProof: for each kind of contradiction the smallest form that has it, and one next to it that has not.
func TestEveryKindHasItsProof(t *testing.T) {
	t.Parallel()
	field := func(more string) string { return "form: f\npage: /form\nfields:\n  - {name: a, " + more + "}\n" }
	const stored = "stored: [{insert: t, columns: {a: {from: a}}}]\n"
	for _, c := range []struct {
		kind              contradiction.Kind
		wrong, right      string
		html, sql         string
		rightHTML, rightQ string
		path, proof       string
	}{
		{kind: contradiction.MinimumAboveMaximum, wrong: field("rules: [{length: {min: 5, max: 4}}]"), right: field("rules: [{length: {min: 4, max: 4}}]"), path: "fields[a].rules[length].min", proof: "5 is more than 4"},
		{kind: contradiction.MinimumAboveMaximum, wrong: field("kind: number, rules: [{range: {min: 2.5, max: 2.49}}]"), right: field("kind: number, rules: [{range: {min: 2.5, max: 2.5}}]"), path: "fields[a].rules[range].min", proof: "2.5"},
		{kind: contradiction.MinimumAboveMaximum, wrong: field(`kind: date, rules: [{range: {min: today, max: "today - 1 day"}}]`), right: field("kind: date, rules: [{range: {min: today, max: today}}]"), path: "fields[a].rules[range].min", proof: "today is more than today - 1 day"},
		{kind: contradiction.MinimumAboveMaximum, wrong: field(`kind: time, rules: [{range: {min: "18:00", max: "08:00"}}]`), right: field(`kind: time, rules: [{range: {min: "08:00", max: "18:00"}}]`), path: "fields[a].rules[range].min", proof: "18:00"},
		{kind: contradiction.NothingMatches, wrong: field("rules: [{pattern: {is: 'OS-[0-9]{4}'}}, {length: {max: 6}}]"), right: field("rules: [{pattern: {is: 'OS-[0-9]{4}'}}, {length: {max: 7}}]"), path: "fields[a].rules[pattern]", proof: "7 to 7 characters"},
		{kind: contradiction.NothingMatches, wrong: field("rules: [{pattern: {is: '(?=a)b'}}, {length: {max: 9}}]"), right: field("rules: [{pattern: {is: '(?=b)b'}}, {length: {max: 9}}]"), path: "fields[a].rules[pattern]", proof: "no text"},
		{kind: contradiction.InitialRejected, wrong: field("initial: ab, rules: [{length: {min: 3, max: 9}}]"), right: field("initial: abc, rules: [{length: {min: 3, max: 9}}]"), path: "fields[a].initial", proof: "“ab”"},
		{kind: contradiction.ExampleRejected, wrong: field("example: x1, rules: [{characters: {of: a-z}}, {length: {max: 9}}]"), right: field("example: xy, rules: [{characters: {of: a-z}}, {length: {max: 9}}]"), path: "fields[a].example", proof: "“x1”"},
		{kind: contradiction.RulesExclude, wrong: field("rules: [{pattern: {is: '[a-m]{2}'}}, {pattern: {is: '[n-z]{2}'}}]"), right: field("rules: [{pattern: {is: '[a-m]{2}'}}, {pattern: {is: '[m-z]{2}'}}]"), path: "fields[a].rules[pattern]", proof: "satisfies the first and breaks the second"},
		{kind: contradiction.RulesExclude, wrong: field("kind: number, rules: [{range: {min: 1, max: 4}}, {step: {by: 5}}]"), right: field("kind: number, rules: [{range: {min: 1, max: 5}}, {step: {by: 5}}]"), path: "fields[a].rules[step]", proof: "5, above 4"},
		{
			kind: contradiction.RulesExclude, path: "fields[b].rules[same_as]", proof: "only a blank value",
			wrong: "form: f\npage: /\nfields: [{name: a, rules: [{length: {max: 9}}]}, {name: b, rules: [{same_as: {field: a}}, {different_from: {field: a}}]}]\n", right: "form: f\npage: /\nfields: [{name: a, rules: [{length: {max: 9}}]}, {name: b, rules: [{same_as: {field: a}}]}]\n",
		},
		{
			kind: contradiction.RulesExclude, path: "across[across_1].must_hold", proof: "all 4 combinations",
			wrong: "form: f\npage: /\nfields: [{name: n, kind: number, rules: [{required: {}}, {range: {min: 1, max: 4}}, {step: {by: 1}}]}]\nacross: [{must_hold: 'n > 4'}]\n", right: "form: f\npage: /\nfields: [{name: n, kind: number, rules: [{required: {}}, {range: {min: 1, max: 4}}, {step: {by: 1}}]}]\nacross: [{must_hold: 'n > 3'}]\n",
		},
		{
			kind: contradiction.RulesExclude, path: "across[one].must_hold", proof: "all 2 combinations",
			wrong: "form: f\npage: /\nfields: [{name: c, kind: checkbox}]\nacross: [{id: one, must_hold: c}, {id: two, must_hold: '!c'}]\n", right: "form: f\npage: /\nfields: [{name: c, kind: checkbox}, {name: d, kind: checkbox}]\nacross: [{id: one, must_hold: c}, {id: two, must_hold: '!d'}]\n",
		},
		{kind: contradiction.MessageShared, wrong: field("rules: [{required: {message: No.}}, {length: {max: 9, message: No.}}]"), right: field("rules: [{required: {message: No.}}, {length: {max: 9, message: Too long.}}]"), path: "fields[a].rules[length].say", proof: "“No.”"},
		{
			kind: contradiction.ReplyUnreachable, path: "accepted.reply[1]", proof: "all 2 combinations",
			wrong: "form: f\npage: /\nfields: [{name: c, kind: checkbox}]\naccepted: {reply: [{when: 'c || !c', text: a}, {otherwise: b}]}\n", right: "form: f\npage: /\nfields: [{name: c, kind: checkbox}]\naccepted: {reply: [{when: c, text: a}, {otherwise: b}]}\n",
		},
		{kind: contradiction.BrowserStricter, wrong: field("rules: [{length: {max: 9}}, {length: {id: b, layers: [browser], max: 8}}]"), right: field("rules: [{length: {max: 9}}, {length: {id: b, layers: [browser], max: 9}}]"), path: "fields[a].rules[b]", proof: "the server would accept"},
		{kind: contradiction.UnitsDiffer, wrong: field("rules: [{length: {max: 9}}, {length: {id: b, layers: [browser], max: 9, in: utf-16_units}}]"), right: field("rules: [{length: {max: 9}}, {length: {id: b, layers: [browser], max: 9}}]"), path: "fields[a].rules[b]", proof: "the server would accept"},
		{kind: contradiction.BrowserStricter, wrong: field("rules: [{pattern: {is: '[a-z]{3}'}}, {pattern: {id: b, layers: [browser], is: '[a-y]{3}'}}]"), right: field("rules: [{pattern: {is: '[a-y]{3}'}}, {pattern: {id: b, layers: [browser], is: '[a-z]{3}'}}]"), path: "fields[a].rules[b]", proof: "z"},
		{kind: contradiction.BrowserStricter, wrong: field("rules: [{required: {layers: [browser]}}, {length: {max: 9}}]"), right: field("rules: [{required: {}}, {required: {id: b, layers: [browser]}}, {length: {max: 9}}]"), path: "fields[a].rules[required]", proof: "blank"},
		{kind: contradiction.BrowserStricter, wrong: field("kind: number, rules: [{range: {max: 4}}, {range: {id: b, layers: [browser], max: 3}}]"), right: field("kind: number, rules: [{range: {max: 4}}, {range: {id: b, layers: [browser], max: 4}}]"), path: "fields[a].rules[b]", proof: "3"},
		{kind: contradiction.NoLimit, wrong: field("rules: [{required: {}}]"), right: field("rules: [{required: {}}, {pattern: {is: '.{0,50}'}}]"), path: "fields[a]", proof: "any length"},
		{kind: contradiction.ColumnShorter, wrong: field("rules: [{length: {max: 300}}]") + stored, right: field("rules: [{length: {max: 120}}]") + stored, sql: "CREATE TABLE t (a VARCHAR(120))", path: "fields[a].rules[length]", proof: "121 characters"},
		{kind: contradiction.ColumnShorter, wrong: field("rules: [{length: {max: 70}}]") + stored, right: field("rules: [{length: {max: 255, in: bytes}}]") + stored, sql: "CREATE TABLE t (a TINYTEXT)", path: "fields[a].rules[length]", proof: "characters"},
		{kind: contradiction.ColumnShorter, wrong: field("kind: number, rules: [{range: {min: 0, max: 256}}, {step: {by: 1}}]") + stored, right: field("kind: number, rules: [{range: {min: 0, max: 255}}, {step: {by: 1}}]") + stored, sql: "CREATE TABLE t (a TINYINT UNSIGNED)", path: "fields[a].rules[range].max", proof: "256"},
		{kind: contradiction.NotNullOptional, wrong: field("kind: date") + stored, right: field("kind: date, rules: [{required: {}}]") + stored, sql: "CREATE TABLE t (a DATE NOT NULL)", path: "fields[a]", proof: "NULL"},
		{kind: contradiction.NotNullUnfilled, wrong: field("rules: [{length: {max: 9}}]") + stored, right: field("rules: [{length: {max: 9}}]") + "stored: [{insert: t, columns: {a: {from: a}, b: {is: 1}}}]\n", sql: "CREATE TABLE t (a VARCHAR(9), b INT NOT NULL)", path: "stored[t].columns", proof: "no default"},
		{kind: contradiction.ColumnMissing, wrong: field("rules: [{length: {max: 9}}]") + "stored: [{insert: t, columns: {aa: {from: a}}}]\n", right: field("rules: [{length: {max: 9}}]") + stored, sql: "CREATE TABLE t (a VARCHAR(9))", path: "stored[t].columns.aa", proof: "its columns are a"},
		{kind: contradiction.ControlUnnamed, wrong: field("rules: [{length: {max: 9}}]"), right: field("rules: [{length: {max: 9}}]"), html: "<form action=/form><input name=a><input placeholder=Town></form>", rightHTML: "<form action=/form><input name=a><input placeholder=Town name=town></form>", path: "fields", proof: "is never sent"},
		{kind: contradiction.OtherTarget, wrong: field("rules: [{length: {max: 9}}]") + "submit: {to: /form}\n", right: field("rules: [{length: {max: 9}}]") + "submit: {to: /there}\n", html: "<form action=/there><input name=a></form>", path: "submit.to", proof: "document: /form; page: http://site.test/there"},
		{kind: contradiction.MarkDiffers, wrong: field("rules: [{length: {max: 9}}]"), right: field("rules: [{required: {}}, {length: {max: 9}}]"), html: "<form action=/form><label>A * <input name=a></label></form>", path: "fields[a]", proof: "blank value is accepted"},
		{
			kind: contradiction.MarkDiffers, path: "fields[a]", proof: "rejected", html: "<form action=/form><input name=a><input name=b required></form>",
			wrong: "form: f\npage: /form\nfields: [{name: a, rules: [{required: {}}, {length: {max: 9}}]}, {name: b, rules: [{required: {}}, {length: {max: 9}}]}]\n", right: "form: f\npage: /form\nfields: [{name: a, rules: [{length: {max: 9}}]}, {name: b, rules: [{required: {}}, {length: {max: 9}}]}]\n",
		},
	} {
		find := func(text, html, sql string) []contradiction.Contradiction {
			return contradiction.Find(prepare(t, text), contradiction.Against{Page: onPage(t, html), Schema: tables(t, sql), Now: now})
		}
		got := find(c.wrong, c.html, c.sql)
		require.Len(t, got, 1, "%s\n%s\n%v", c.kind, c.wrong, got)
		require.Equal(t, c.kind, got[0].Kind)
		require.Equal(t, c.path, got[0].Path, c.wrong)
		require.Contains(t, got[0].Proof, c.proof)
		require.NotEmpty(t, got[0].Words+got[0].Remedy)
		require.False(t, got[0].Undecided)
		html, sql := c.html, c.sql
		if c.rightHTML != "" {
			html = c.rightHTML
		}
		require.Empty(t, find(c.right, html, sql), "%s", c.right)
	}
}

func TestAStateThatNoPathReaches(t *testing.T) {
	t.Parallel()
	p := prepare(t, "form: f\npage: /\n")
	site := &spec.Site{Site: "s", States: []spec.State{{ID: "guest"}, {ID: "member"}, {ID: "steward"}}, Journeys: []spec.Journey{{ID: "j", Steps: []spec.JourneyStep{{Submit: "f", Then: "member"}}}}}
	got := contradiction.Find(p, contradiction.Against{Site: site, Now: now})
	require.Len(t, got, 1)
	require.Equal(t, contradiction.StateUnreachable, got[0].Kind)
	require.Contains(t, got[0].Words, "steward")
	site.Accounts = []spec.Account{{ID: "a", State: "steward"}}
	require.Empty(t, contradiction.Find(p, contradiction.Against{Site: site, Now: now}))
}

// TestWhatCannotBeDecidedIsSaid: texts are endless, so that trying them proves nothing.
func TestWhatCannotBeDecidedIsSaid(t *testing.T) {
	t.Parallel()
	got := contradiction.Find(prepare(t, "form: f\npage: /\nfields: [{name: a, rules: [{length: {max: 9}}]}]\nacross: [{must_hold: 'a.size() == 40'}]\n"), contradiction.Against{Now: now})
	require.Len(t, got, 1)
	require.True(t, got[0].Undecided)
	require.Contains(t, got[0].Proof, "none found within")
}

func TestTheShippedSpecificationHasNone(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	require.Empty(t, contradiction.Find(prepare(t, string(text)), contradiction.Against{Now: now}))
}

func TestLayersSideBySide(t *testing.T) {
	t.Parallel()
	p := prepare(t, "form: f\npage: /form\nfields:\n  - {name: a, label: Name, rules: [{required: {}}, {length: {max: 300}}, {length: {id: b, layers: [browser], in: utf-16_units, max: 200}}]}\nstored: [{insert: t, columns: {a: {from: a}}}]\n")
	a := contradiction.Against{Schema: tables(t, "CREATE TABLE t (a VARCHAR(120) CHARACTER SET utf8mb4 NOT NULL UNIQUE)"), Now: now}
	got := contradiction.SideBySide(p, a, contradiction.Find(p, a))
	require.Len(t, got, 1)
	require.Equal(t, []prose.Text{"at most 200 UTF-16 units"}, got[0].Browser)
	require.Equal(t, []prose.Text{"required", "at most 300 characters"}, got[0].Server)
	require.Equal(t, []prose.Text{"t.a varchar(120), NOT NULL, unique, at most 480 bytes in utf8mb4"}, got[0].Database)
	require.Len(t, got[0].Drift, 2)
	require.Contains(t, fmt.Sprint(got[0].Drift), "Name allows 300 characters, but the column t.a holds 120.")
}
