package store_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/server/lease"
	"oddtick/server/store"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func open(t testing.TB) (*store.Store, string, string) {
	dsn, key := dbtest.DSN(t), filepath.Join(t.TempDir(), "keys", "secret.key")
	st, err := store.Open(context.Background(), dsn, key)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return st, dsn, key
}

var site = &spec.Site{Site: "ost", Address: "http://127.0.0.1:1", Databases: []spec.Database{{ID: "main", DSN: "root:very-secret@tcp(x)/y"}}}

func TestUsers(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx := t.Context()
	has, err := st.HasUser(ctx)
	require.NoError(t, err)
	require.False(t, has)
	require.NoError(t, st.AddUser(ctx, "tester", "first"))
	require.ErrorIs(t, st.AddUser(ctx, "TESTER", "second"), store.ErrTaken, "a password is not set by adding a user again")
	u, err := st.Authenticate(ctx, "Tester", "first")
	require.NoError(t, err)
	require.Equal(t, "tester", u.Name)
	require.NoError(t, st.SetPassword(ctx, u.ID, "second"))
	for _, wrong := range [][2]string{{"tester", "first"}, {"nobody", "second"}, {"tester", ""}, {"", ""}} {
		_, err := st.Authenticate(ctx, wrong[0], wrong[1])
		require.ErrorIs(t, err, store.ErrNotFound)
	}
	again, err := st.Authenticate(ctx, "tester", "second")
	require.NoError(t, err)
	require.Greater(t, again.SessionVersion, u.SessionVersion, "sessions from before have ended")
	_, err = st.User(ctx, 999)
	require.ErrorIs(t, err, store.ErrNotFound)

	require.NoError(t, st.EndUser(ctx, u.ID))
	_, err = st.Authenticate(ctx, "tester", "second")
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.User(ctx, u.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.ErrorIs(t, st.AddUser(ctx, "tester", "third"), store.ErrTaken, "what they did stays theirs")
	list, err := st.Users(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.NotNil(t, list[0].EndedAt)
	has, err = st.HasUser(ctx)
	require.NoError(t, err)
	require.False(t, has)
}

func TestAHashOfBeforeIsMadeAnewAtSignIn(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	old, err := argon2id.CreateHash("first", argon2id.DefaultParams)
	require.NoError(t, err)
	_, err = st.DB().Exec("INSERT INTO users (name, password_hash, created_at) VALUES ('tester', ?, NOW())", old)
	require.NoError(t, err)
	for range 2 {
		u, err := st.Authenticate(t.Context(), "tester", "first")
		require.NoError(t, err)
		require.Equal(t, 1, u.SessionVersion)
	}
	var now string
	require.NoError(t, st.DB().QueryRow("SELECT password_hash FROM users").Scan(&now))
	require.NotEqual(t, old, now)
}

func TestALinkForTheFirstUserWorksOnce(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx, now := t.Context(), time.Now()
	before, err := st.Invite(ctx, now.Add(time.Hour))
	require.NoError(t, err)
	token, err := st.Invite(ctx, now.Add(time.Hour))
	require.NoError(t, err)
	require.ErrorIs(t, st.Accept(ctx, before, "tester", "x", now), store.ErrNotFound, "a later one takes its place")
	require.ErrorIs(t, st.Accept(ctx, token, "tester", "x", now.Add(2*time.Hour)), store.ErrNotFound)
	holds, err := st.Invited(ctx, token, now)
	require.NoError(t, err)
	require.True(t, holds)
	require.NoError(t, st.Accept(ctx, token, "tester", "x", now))
	require.ErrorIs(t, st.Accept(ctx, token, "other", "x", now), store.ErrNotFound)
	_, err = st.Authenticate(ctx, "tester", "x")
	require.NoError(t, err)
	var kept int
	require.NoError(t, st.DB().QueryRow("SELECT COUNT(*) FROM invitations WHERE token_hash = ?", token).Scan(&kept))
	require.Zero(t, kept, "the token itself is not kept")
}

func TestSecretsAreEncryptedAtRest(t *testing.T) {
	t.Parallel()
	st, _, key := open(t)
	ctx := context.Background()
	id, err := st.PutSite(ctx, site, nil)
	require.NoError(t, err)
	back, err := st.SiteDocument(ctx, id)
	require.NoError(t, err)
	require.Equal(t, site.Databases[0].DSN, back.Databases[0].DSN)
	var leaks int
	require.NoError(t, st.DB().QueryRow("SELECT COUNT(*) FROM sites WHERE document LIKE '%very-secret%' OR secrets LIKE '%very-secret%'").Scan(&leaks))
	require.Zero(t, leaks)
	info, err := os.Stat(key)
	require.NoError(t, err)
	require.EqualValues(t, 0o600, info.Mode().Perm())
}

// TestAttackTheKeyFile: a wrong or missing key, or one that others can read, is said at the start, and none is made in its place.
func TestAttackTheKeyFile(t *testing.T) {
	t.Parallel()
	st, dsn, key := open(t)
	_, err := st.PutSite(t.Context(), site, nil)
	require.NoError(t, err)
	other := filepath.Join(t.TempDir(), "other.key")
	opened := func(file, says string) {
		again, err := store.Open(t.Context(), dsn, file)
		if says == "" {
			require.NoError(t, err)
			require.NoError(t, again.Close())
			return
		}
		require.ErrorContains(t, err, says)
	}
	opened(key, "")
	opened(other, "is not there")
	require.NoFileExists(t, other)
	require.NoError(t, os.WriteFile(other, []byte(strings.Repeat("0f", 32)), 0o600))
	opened(other, "is another than the one")
	require.NoError(t, os.Chmod(key, 0o640))
	opened(key, "can be read by others")
	require.NoError(t, os.Chmod(key, 0o600))
	opened(key, "")
	_, err = st.DB().Exec("UPDATE sites SET secrets = ''")
	require.NoError(t, err)
	opened(other, "") // given up
	bare, err := st.SiteDocument(t.Context(), 1)
	require.NoError(t, err)
	require.Empty(t, bare.Databases[0].DSN)
	require.NoError(t, os.WriteFile(key, []byte("short"), 0o600))
	opened(key, "is not 64 hexadecimal digits")
}

// TestAttackWhoIsAUserIsNotTold, neither by the answer nor by its time; and a name's capitals make it nobody else's.
func TestAttackWhoIsAUserIsNotTold(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	require.NoError(t, st.AddUser(t.Context(), "keeper", "heron lantern moss"))
	u, err := st.Authenticate(t.Context(), "KEEPER", "heron lantern moss")
	require.NoError(t, err)
	require.Equal(t, "keeper", u.Name)
	require.Error(t, st.AddUser(t.Context(), "Keeper", "another lantern moss"))
	took := map[string][]time.Duration{}
	for range 9 {
		for _, name := range []string{"keeper", "nobody"} {
			began := time.Now()
			_, err := st.Authenticate(t.Context(), name, "wrong")
			took[name] = append(took[name], time.Since(began))
			require.ErrorIs(t, err, store.ErrNotFound)
		}
	}
	for _, list := range took {
		slices.Sort(list)
	}
	ratio := took["nobody"][4].Seconds() / took["keeper"][4].Seconds()
	require.Greater(t, ratio, 0.4)
	require.Less(t, ratio, 2.5)
}

func TestAttackTablesOfANewerOddTick(t *testing.T) {
	t.Parallel()
	st, dsn, key := open(t)
	_, err := st.DB().Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, 1)")
	require.NoError(t, err)
	_, err = store.Open(t.Context(), dsn, key)
	require.ErrorContains(t, err, "have version 999")
}

func form(t testing.TB, st *store.Store, text string) *store.Form {
	ctx := context.Background()
	id, err := st.PutSite(ctx, site, nil)
	require.NoError(t, err)
	f, err := spec.ReadForm("join.yaml", []byte(text))
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: f, File: "join.yaml", Source: []byte(text)}))
	out, err := st.Form(ctx, "ost", "join")
	require.NoError(t, err)
	return out
}

const joinForm = "form: join\npage: /join\nfields: [{name: a}]\n"

func TestRevisionsAreMadeOnlyForChanges(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	first := form(t, st, joinForm)
	require.Equal(t, 1, first.Revision)
	require.Equal(t, 1, form(t, st, joinForm).Revision)
	second := form(t, st, joinForm+"# a comment\n")
	require.Equal(t, 2, second.Revision)
	rev, err := st.Revision(context.Background(), first.RevisionID)
	require.NoError(t, err)
	require.Equal(t, joinForm, string(rev.Source), "the bytes of the source are kept")
	_, err = st.Form(context.Background(), "ost", "none")
	require.ErrorIs(t, err, store.ErrNotFound)
	list, err := st.Forms(context.Background())
	require.NoError(t, err)
	require.Len(t, list, 1)
	sites, err := st.Sites(context.Background())
	require.NoError(t, err)
	require.Equal(t, "ost", sites[0].Title, "a site without a title is named by its id")
}

func result(id string, v judge.Verdict) *report.Result {
	r := &report.Result{Case: id, Attempt: 1, Verdict: v, Headline: "H", Took: time.Millisecond}
	for range judge.Checks {
		r.Checks = append(r.Checks, judge.AsExpected)
	}
	r.Checks[4] = v
	r.Checks[6] = judge.DoesNotApply
	if v == judge.Odd {
		r.Cause = &report.Cause{Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "t", Column: "c"}, Difference: judge.Emptied}
	}
	return r
}

func TestRunsAreWrittenAsTheyCome(t *testing.T) {
	t.Parallel()
	st, dsn, key := open(t)
	ctx := context.Background()
	f := form(t, st, joinForm)
	require.NoError(t, st.AddUser(ctx, "tester", "x"))
	u, err := st.Authenticate(ctx, "tester", "x")
	require.NoError(t, err)
	_, err = st.RunByNumber(ctx, f.ID, 0)
	require.ErrorIs(t, err, store.ErrNotFound)
	run, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Seed: 42, Depth: "standard", Cases: []string{"a", "b", "c"}})
	require.NoError(t, err)
	require.Equal(t, 1, run.Number)
	for _, id := range []string{"a", "b", "c"} {
		require.NoError(t, st.AddAttempt(ctx, run.ID, id, 1))
	}
	require.Error(t, st.AddAttempt(ctx, run.ID, "a", 1), "an attempt cannot begin twice unnoticed")
	_, err = st.AddResult(ctx, run.ID, 1, "row", result("a", judge.AsExpected))
	require.NoError(t, err)
	_, err = st.AddResult(ctx, run.ID, 2, "row", result("b", judge.Odd))
	require.NoError(t, err)
	marks, err := st.Marks(ctx, run.ID, 1)
	require.NoError(t, err)
	require.Len(t, marks, 1)
	require.Equal(t, "eeeeoe-", marks[0].Checks)
	require.Contains(t, marks[0].Cause.String, `"column":"c"`)
	back, err := st.Result(ctx, run.ID, "b")
	require.NoError(t, err)
	require.Equal(t, judge.Emptied, back.Cause.Difference)
	_, err = st.Result(ctx, run.ID, "c")
	require.ErrorIs(t, err, store.ErrNotFound)

	// another start finds the run under way and says what is not known
	again, err := store.Open(ctx, dsn, key)
	require.NoError(t, err)
	defer again.Close()
	interrupted, err := again.Interrupted(ctx)
	require.NoError(t, err)
	require.Len(t, interrupted, 1)
	progress, err := again.Progress(ctx, run.ID)
	require.NoError(t, err)
	require.Positive(t, progress.Kept, "its evidence")
	progress.Kept = 0
	require.Equal(t, &store.Progress{Done: map[string]bool{"a": true, "b": true}, Begun: map[string]int{"a": 1, "b": 1, "c": 1}, Seq: 2, Unknown: []string{"c"}}, progress)
	require.NoError(t, again.MarkResumed(ctx, run.ID, progress.Unknown))
	on, err := again.Run(ctx, run.ID)
	require.NoError(t, err)
	require.Equal(t, store.Running, on.State)
	unknown, err := on.UnknownEnds()
	require.NoError(t, err)
	require.Equal(t, []string{"c"}, unknown)
	twice := result("b", judge.Odd)
	_, err = again.AddResult(ctx, run.ID, 3, "row", twice)
	require.True(t, store.Duplicate(err), "no result is kept twice")
	twice.Attempt = 2
	twice.Pictures = map[string][]byte{"1": {0xFF, 0xD8}}
	_, err = again.AddResult(ctx, run.ID, 3, "row", twice)
	require.NoError(t, err)
	picture, err := again.Picture(ctx, run.ID, "b", "1")
	require.NoError(t, err)
	require.Equal(t, []byte{0xFF, 0xD8}, picture)
	all, err := again.Results(ctx, run.ID)
	require.NoError(t, err)
	var order []string
	for _, r := range all {
		order = append(order, fmt.Sprint(r.Case, r.Attempt))
	}
	require.Equal(t, []string{"a1", "b1", "b2"}, order, "nothing is lost, and what each attempt changed can be taken back")
	next, err := again.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Seed: 43, Depth: "quick", Cases: []string{"a"}})
	require.NoError(t, err)
	require.Equal(t, 2, next.Number)
	require.NoError(t, again.EndRun(ctx, next.ID, store.Finished, "", 3))
	newest, err := again.RunByNumber(ctx, f.ID, 0)
	require.NoError(t, err)
	require.Equal(t, store.Finished, newest.State)
	require.Equal(t, 3, newest.ExternalChanges)
	runs, err := again.Runs(ctx, f.ID, 10)
	require.NoError(t, err)
	require.Len(t, runs, 2)
}

// TestWhatWasReadIsKeptBesideTheDocument: a form's page and a site's tables, as they were last seen.
func TestWhatWasReadIsKeptBesideTheDocument(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx := context.Background()
	f := form(t, st, joinForm)
	page, err := st.Page(ctx, f.ID)
	require.NoError(t, err)
	require.Nil(t, page, "never read")
	tables, err := st.Tables(ctx, f.SiteID)
	require.NoError(t, err)
	require.Nil(t, tables)
	require.NoError(t, st.KeepPage(ctx, f.ID, &observation.FormOnPage{Title: "Join", Fields: []observation.FieldOnPage{{Name: "a", Required: true}}}))
	require.NoError(t, st.KeepTables(ctx, f.SiteID, &schema.Database{Dialect: "mariadb", Tables: []schema.Table{{Name: "t"}}}))
	page, err = st.Page(ctx, f.ID)
	require.NoError(t, err)
	require.True(t, page.Fields[0].Required)
	tables, err = st.Tables(ctx, f.SiteID)
	require.NoError(t, err)
	require.NotNil(t, tables.Table("T"))
	_, err = st.Page(ctx, 9999)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// TestOfTwoSavesFromOneRevisionTheSecondIsRefused, and nothing of it is kept.
func TestOfTwoSavesFromOneRevisionTheSecondIsRefused(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx := context.Background()
	require.NoError(t, st.AddUser(ctx, "tester", "x"))
	u, err := st.Authenticate(ctx, "tester", "x")
	require.NoError(t, err)
	f := form(t, st, joinForm)
	parsed, err := spec.ReadForm("join.yaml", []byte(joinForm))
	require.NoError(t, err)
	save := func(base int, text string) error {
		return st.PutForm(ctx, f.SiteID, store.Save{Form: parsed, File: "join.yaml", Source: []byte(text), Base: base, User: u.ID, Note: strings.Repeat("é", 500)})
	}
	require.NoError(t, save(1, joinForm+"# one\n"))
	var stale *store.StaleError
	require.ErrorAs(t, save(1, joinForm+"# two\n"), &stale)
	require.Equal(t, 2, stale.Newest)
	list, err := st.Revisions(ctx, f.ID, 10)
	require.NoError(t, err)
	require.Len(t, list, 2)
	require.Equal(t, "tester", list[0].SavedBy)
	require.Len(t, []rune(list[0].Note), 400, "a long note is cut, not refused")
	require.Empty(t, list[1].SavedBy)
	rev, err := st.RevisionByNumber(ctx, f.ID, 2)
	require.NoError(t, err)
	require.Equal(t, joinForm+"# one\n", string(rev.Source))
	_, err = st.RevisionByNumber(ctx, f.ID, 3)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// TestASitesTextIsKeptWithoutItsSecrets, and what did not change keeps its bytes.
func TestASitesTextIsKeptWithoutItsSecrets(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx := context.Background()
	const text = "site: fen # ours\naddress: http://a.test\nauthentication: {user: u, password: very-secret}\n"
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(text)}})
	require.NoError(t, err)
	id, err := st.PutSite(ctx, p.Site, []byte(text))
	require.NoError(t, err)
	source, err := st.SiteSource(ctx, id)
	require.NoError(t, err)
	require.Equal(t, "site: fen # ours\naddress: http://a.test\nauthentication: {user: u}\n", string(source))
	back, err := st.SiteDocument(ctx, id)
	require.NoError(t, err)
	require.Equal(t, "very-secret", back.Authentication.Password)
	back.Title = "Fen"
	_, err = st.PutSite(ctx, back, source)
	require.NoError(t, err)
	source, err = st.SiteSource(ctx, id)
	require.NoError(t, err)
	require.Equal(t, "site: fen # ours\naddress: http://a.test\nauthentication: {user: u}\ntitle: Fen\n", string(source))
	_, err = st.Site(ctx, "none")
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestEditsOfCasesAreReplacedAndForgotten(t *testing.T) {
	t.Parallel()
	st, _, _ := open(t)
	ctx := context.Background()
	f := form(t, st, joinForm)
	off := spec.CaseEdit{Case: "join/a/http", Skip: "later", Tags: []string{"x"}}
	own := spec.CaseEdit{Case: "join/own.b/http", Added: true, Title: "b 🌱", Inputs: map[string]string{"a": "\x00"}}
	require.NoError(t, st.PutCaseEdits(ctx, f.ID, 0, store.AnyVersion, []spec.CaseEdit{off, own}, nil))
	kept, err := st.CaseEdits(ctx, f.ID)
	require.NoError(t, err)
	require.Equal(t, []spec.CaseEdit{off, own}, kept, "in the order in which they were made")
	off.Skip = "never mind"
	require.NoError(t, st.PutCaseEdits(ctx, f.ID, 0, store.AnyVersion, []spec.CaseEdit{off}, []string{own.Case, "join/none/http"}))
	kept, err = st.CaseEdits(ctx, f.ID)
	require.NoError(t, err)
	require.Equal(t, []spec.CaseEdit{off}, kept)
	other, err := st.CaseEdits(ctx, f.ID+1)
	require.NoError(t, err)
	require.Empty(t, other)
}

// TestLeases: all things or none, by the database's clock, and freed or taken over once their term has ended.
func TestLeases(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, _, _ := open(t)
	var held *lease.HeldError
	require.NoError(t, st.TakeLeases(ctx, "one", "the shed", []string{"address a", "database b"}, lease.Term))
	require.ErrorAs(t, st.TakeLeases(ctx, "two", "the plot", []string{"address c", "database b"}, lease.Term), &held)
	require.Equal(t, lease.HeldError{Name: "database b", About: "the shed"}, *held)
	require.NoError(t, st.TakeLeases(ctx, "three", "the gate", []string{"address c"}, lease.Term), "the second took nothing")
	n, err := st.RenewLeases(ctx, "one", 50*time.Millisecond)
	require.NoError(t, err)
	require.Equal(t, 2, n)
	time.Sleep(100 * time.Millisecond)
	n, err = st.RenewLeases(ctx, "one", 50*time.Millisecond)
	require.NoError(t, err)
	require.Equal(t, 2, n, "nobody has taken them meanwhile")
	time.Sleep(100 * time.Millisecond)
	require.NoError(t, st.TakeLeases(ctx, "two", "the plot", []string{"database b"}, lease.Term))
	n, err = st.RenewLeases(ctx, "one", lease.Term)
	require.NoError(t, err)
	require.Equal(t, 1, n)
	require.NoError(t, st.FreeLeases(ctx, "two"))
	require.NoError(t, st.TakeLeases(ctx, "four", "the hut", []string{"database b"}, lease.Term))

	// one that ends later than any can is from before the clock went back
	_, err = st.DB().Exec("UPDATE leases SET expires_at = expires_at + INTERVAL 1 HOUR WHERE name = 'database b'")
	require.NoError(t, err)
	require.NoError(t, st.TakeLeases(ctx, "five", "the pump", []string{"database b"}, lease.Term))
	require.ErrorAs(t, st.TakeLeases(ctx, "six", "the well", []string{"database b"}, lease.Term), &held)

	// of many who want the same two things in any order, one has them
	var took atomic.Int32
	var all sync.WaitGroup
	for i := range 20 {
		all.Go(func() {
			err := st.TakeLeases(ctx, fmt.Sprint("many ", i), "many", []string{"x", "y"}, lease.Term)
			if err == nil {
				took.Add(1)
				return
			}
			var held *lease.HeldError
			assert.ErrorAs(t, err, &held)
		})
	}
	all.Wait()
	require.EqualValues(t, 1, took.Load())
}

// TestTheKeyIsRotated while a server has the store open, and no secret is lost; the key before the last is of no use any more.
func TestTheKeyIsRotated(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, dsn, key := open(t)
	id, err := st.PutSite(ctx, site, nil)
	require.NoError(t, err)
	first, err := os.ReadFile(key)
	require.NoError(t, err)
	other, err := store.Open(ctx, dsn, key)
	require.NoError(t, err)
	t.Cleanup(func() { other.Close() })
	for range 2 {
		n, err := store.RotateKey(ctx, other)
		require.NoError(t, err)
		require.Equal(t, 1, n)
		kept, err := st.SiteDocument(ctx, id)
		require.NoError(t, err, "the one that runs takes the new key up")
		require.Equal(t, site.Databases, kept.Databases)
		_, err = st.PutSite(ctx, site, nil)
		require.NoError(t, err)
	}
	now, err := os.ReadFile(key)
	require.NoError(t, err)
	require.Len(t, strings.Fields(string(now)), 2)
	require.NotContains(t, string(now), strings.TrimSpace(string(first)))
	info, err := os.Stat(key)
	require.NoError(t, err)
	require.EqualValues(t, 0o600, info.Mode().Perm())
	again, err := store.Open(ctx, dsn, key)
	require.NoError(t, err)
	kept, err := again.SiteDocument(ctx, id)
	require.NoError(t, err)
	require.Equal(t, site.Databases, kept.Databases)
	require.NoError(t, again.Close())
	require.NoError(t, os.WriteFile(key, first, 0o600))
	_, err = store.Open(ctx, dsn, key)
	require.ErrorContains(t, err, "is another than the one")
}

// TestAttackPasswordsInEvidenceOfBefore: what earlier versions kept in the clear is masked at the next start.
func TestAttackPasswordsInEvidenceOfBefore(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, dsn, key := open(t)
	const secret = "Maple & plot 21"
	id, err := st.PutSite(ctx, &spec.Site{Site: "ost", Address: "http://127.0.0.1:1", Accounts: []spec.Account{{ID: "one", Name: "one", Password: secret}}}, nil)
	require.NoError(t, err)
	form, err := spec.ReadForm("join.yaml", []byte("form: join\npage: /join\n"))
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: form, File: "join.yaml", Source: []byte("form: join\npage: /join\n")}))
	f, err := st.Form(ctx, "ost", "join")
	require.NoError(t, err)
	require.NoError(t, st.AddUser(ctx, "tester", "x"))
	u, err := st.Authenticate(ctx, "tester", "x")
	require.NoError(t, err)
	run, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Seed: 42, Depth: "standard", Cases: []string{"a", "b"}})
	require.NoError(t, err)
	for i, name := range []string{"a", "b"} {
		r := result(name, judge.Odd)
		r.Headline = prose.Text("shows " + secret)
		r.Cause = &report.Cause{Detail: "holds " + secret}
		_, err = st.AddResult(ctx, run.ID, i+1, "row", r)
		require.NoError(t, err)
	}
	_, err = st.DB().Exec("UPDATE runs SET masked = FALSE")
	require.NoError(t, err)
	again, err := store.Open(ctx, dsn, key)
	require.NoError(t, err)
	t.Cleanup(func() { again.Close() })
	for _, name := range []string{"a", "b"} {
		r, err := again.Result(ctx, run.ID, name)
		require.NoError(t, err)
		require.EqualValues(t, "shows "+strings.Repeat("•", len(secret)), r.Headline)
		require.NotContains(t, r.Cause.Detail, secret)
	}
	marks, err := again.Marks(ctx, run.ID, 0)
	require.NoError(t, err)
	require.Len(t, marks, 2)
	for _, m := range marks {
		require.NotContains(t, string(m.Headline)+m.Cause.String, "Maple")
	}
	var left int
	require.NoError(t, again.DB().QueryRow("SELECT COUNT(*) FROM runs WHERE NOT masked").Scan(&left))
	require.Zero(t, left)
}
