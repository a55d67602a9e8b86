package spec

import (
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"oddtick/core/hashed"
)

var idForm = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// check finds what keeps a form from being used at all; what merely cannot hold together is a contradiction, and found elsewhere.
func (f *Form) check() Problems {
	b := &builder{form: f}
	if !idForm.MatchString(f.Form) {
		b.fail("form", "start with a small letter; then small letters, digits and underscores", "%q is not an id", f.Form)
	}
	if f.Page == "" && (f.Submit.Encoding != "json" || f.Submit.To == "") {
		b.fail("", "write page: and the path of the page that holds the form; an endpoint without a page needs submit: {encoding: json, to: …}", "the page is missing")
	}
	if f.OpenedBy != "" && f.Page == "" {
		b.fail("opened_by", "write page: and the path of the page", "there is no page on which something could be pressed")
	}
	for i := range f.Fields {
		b.checkField(i)
	}
	b.checkStages()
	for i := range f.Across {
		b.checkRequirement(fmt.Sprintf("across[%d].requirement", i), f.Across[i].Requirement)
	}
	b.checkValues()
	for i, s := range f.Stored {
		for column, src := range s.Columns {
			if n := src.count(); n != 1 {
				b.fail(fmt.Sprintf("stored[%d].columns.%s", i, column), writeOneSource(), "a column has one source, found %d", n)
			}
		}
	}
	if _, err := f.Prepare(); err != nil {
		return append(b.problems, err.(Problems)...)
	}
	return b.problems
}

func (b *builder) checkRule(f *Field, r *Rule, path string) {
	kind, base := r.part()
	if base == nil {
		return
	}
	if base.Rejected != nil {
		b.status(path+".rejected.status", base.Rejected.Status)
	}
	b.checkRequirement(path+".requirement", base.Requirement)
	if check := kindOf(kind).check; check != nil {
		check(b, f, r, path)
	}
}

func (b *builder) checkRequirement(path string, r *Requirement) {
	switch {
	case r == nil:
	case strings.TrimSpace(r.ID) == "":
		b.fail(path+".id", "write the id that your team's list gives it", "a requirement needs an id")
	case r.Link != "" && !isWebAddress(r.Link):
		b.fail(path+".link", "it must begin with http:// or https://", "%q is not an address", r.Link)
	}
}

// isWebAddress tells whether a text is an address that a page may link to.
func isWebAddress(text string) bool {
	u, err := url.Parse(text)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != ""
}

func (b *builder) checkField(i int) {
	f := &b.form.Fields[i]
	path := fmt.Sprintf("fields[%d]", i)
	if f.ID == "" {
		b.fail(path, "write name: and the name the field has in the request", "the field has neither id nor name")
	} else if !idForm.MatchString(f.ID) {
		b.fail(path+".id", "start with a small letter; then small letters, digits and underscores", "%q is not an id", f.ID)
	}
	if (f.Kind == SingleChoice || f.Kind == MultipleChoice) && len(f.Options) == 0 && f.OptionsFrom == nil {
		b.fail(path, "list them under options: with label and value", "a choice needs its options")
	}
	for k := range f.Rules {
		b.checkRule(f, &f.Rules[k], fmt.Sprintf("%s.rules[%d].%s", path, k, f.Rules[k].Kind()))
	}
}

// checkValues finds values that say nothing a form could promise. Those of a closed set that a key's type names are found as they are
// read.
func (b *builder) checkValues() {
	f := b.form
	for i := range f.Stored {
		b.checkStored(fmt.Sprintf("stored[%d]", i), &f.Stored[i])
	}
	b.status("rejected.status", f.Rejected.Status)
	b.status("accepted.status", f.Accepted.Status)
	if f.Rejected.Unreadable != nil {
		b.status("rejected.unreadable.status", f.Rejected.Unreadable.Status)
	}
	b.checkRequests(f.Requests)
	b.checkUnusual(f.Unusual)
	if s := f.Accepted.Session; s != nil && s.ReturnTo != nil {
		b.checkOnward(s.ReturnTo)
	}
}

func (b *builder) status(path string, status int) {
	if status != 0 && (status < 200 || status > 599) {
		b.fail(path, "write a status of an answer, 200 to 599", "%d is none", status)
	}
}

// oneOf checks a value of a closed set.
func (b *builder) oneOf(path, value string, list ...string) {
	if value != "" && !slices.Contains(list, value) {
		b.fail(path, "write one of: "+strings.Join(list, ", "), "%q is not known", value)
	}
}

func (b *builder) checkStored(path string, s *Stored) {
	b.oneOf(path+".row", s.Row, RowSignedIn)
	if s.Row != "" && s.Insert != "" {
		b.fail(path+".row", "leave it out, or write update:", "which row is only said of an update")
	}
	switch {
	case len(s.Where) == 0:
	case s.Update == "":
		b.fail(path+".where", "leave it out, or write update:", "which row is only said of an update")
	case s.Row != "":
		b.fail(path+".where", "write row: or where:", "the row is named twice")
	}
	for _, name := range slices.Sorted(maps.Keys(s.Columns)) {
		src, at := s.Columns[name], path+".columns."+name
		b.oneOf(at+".blank", string(src.Blank), string(BlankNull), string(BlankEmpty), string(BlankDefault), string(BlankUnchanged))
		for i, kind := range src.As {
			b.oneOf(fmt.Sprintf("%s.as[%d]", at, i), kind, hashed.Kinds()...)
		}
		if src.Secret == "" && (len(src.As) > 0 || src.Salt != "" || src.Pepper || len(src.AtLeast) > 0) {
			b.fail(at, "write secret: and the field's id", "as, at_least, salt and pepper belong to a secret")
		}
		b.checkWork(at, &src)
		if src.From == "" && (src.AsSent || src.Option != "" || src.File != "") {
			b.fail(at, "write from: and the field's id", "as_sent, option and file belong to a field's value")
		}
		writes := func(o Stored) bool { return o.Table() == src.KeyOf }
		if src.KeyOf != "" && !slices.ContainsFunc(b.form.Stored, writes) {
			b.fail(at+".key_of", "name a table in which the form writes a row", "the form writes no row in %s", src.KeyOf)
		}
		if src.Blank == BlankUnchanged && s.Update == "" {
			b.fail(at+".blank", "write default", "a new row has nothing that could stay unchanged")
		}
		if src.Unchanged && s.Update == "" {
			b.fail(at, "write default: true", "a new row has nothing that could stay unchanged")
		}
	}
}

// checkWork: each kind of hash is one that is allowed, and has the measures that are said of it.
func (b *builder) checkWork(path string, src *Source) {
	for _, kind := range slices.Sorted(maps.Keys(src.AtLeast)) {
		at, measures := path+".at_least."+kind, hashed.Measures(kind)
		if len(measures) == 0 {
			b.fail(at, "write bcrypt, argon2id, argon2i, argon2d, scrypt, pbkdf2, sha512-crypt or sha256-crypt", "the work of %q is not read", kind)
			continue
		}
		if len(src.As) > 0 && !slices.Contains(src.As, kind) {
			b.fail(at, "add it to as:, or leave it out", "%s is not among the kinds that are allowed", kind)
		}
		said := src.AtLeast[kind].Measures()
		for _, measure := range slices.Sorted(maps.Keys(said)) {
			if !slices.Contains(measures, measure) || said[measure] < 0 {
				b.fail(at+"."+measure, "write a whole number for: "+strings.Join(measures, ", "), "%s says nothing of the work of %s", measure, kind)
			}
		}
	}
}

// checkStages: every field that is filled in stands on one step, and each step but the last leads to the next.
func (b *builder) checkStages() {
	stages := b.form.Stages
	on := map[string]int{}
	for i, stage := range stages {
		at := fmt.Sprintf("stages[%d]", i)
		for _, id := range stage.Fields {
			if !slices.ContainsFunc(b.form.Fields, func(f Field) bool { return f.ID == id }) {
				b.fail(at+".fields", "name fields of the form by their ids", "%q is not a field of the form", id)
			}
			if before, twice := on[id]; twice {
				b.fail(at+".fields", "name each field on one step", "the field %s stands on step %d already", id, before+1)
			}
			on[id] = i
		}
		if last := i == len(stages)-1; (stage.Next == "") != last {
			remedy, problem := "write next: and the name of the button", "nothing leads to the next step"
			if last {
				remedy, problem = "write submit: {button: …} for the button that submits the form", "the last step leads to no other"
			}
			b.fail(at+".next", remedy, "%s", problem)
		}
	}
	for i := range b.form.Fields {
		f := &b.form.Fields[i]
		if _, placed := on[f.ID]; len(stages) > 0 && !placed && !f.Kind.Untouched() {
			b.fail(fmt.Sprintf("fields[%d]", i), "name it under fields: of the step on which it stands", "the field %s stands on no step", f.ID)
		}
	}
}

// checkUnusual: each decision is about a field that the form has.
func (b *builder) checkUnusual(list []UnusualDecision) {
	for i, d := range list {
		if d.Field != "" && !slices.ContainsFunc(b.form.Fields, func(f Field) bool { return f.ID == d.Field }) {
			b.fail(fmt.Sprintf("unusual[%d].field", i), "write the id of a field, or leave it out", "the form has no field %q", d.Field)
		}
	}
}

// checkRequests: each refusal is of a request that a case makes, and has a status that refuses.
func (b *builder) checkRequests(r *Requests) {
	if r == nil {
		return
	}
	if (r.MissingToken != nil || r.ForeignToken != nil) && len(b.form.Token) == 0 {
		b.fail("requests", "write token: and the names of the controls, or leave missing_token and foreign_token out", "the form sends no token")
	}
	if r.Resubmitted != nil && b.form.Accepted.Resubmitted != ResubmittedRejected {
		b.fail("requests.resubmitted", "write accepted: {resubmitted: rejected}", "no case submits the form twice that would have to be refused")
	}
	if r.SignedOut != nil && (b.form.Before == nil || b.form.Before.SignedIn == "") {
		b.fail("requests.signed_out", "write before: {signed_in: …} with an account of the site", "the form is not for those who are signed in")
	}
	if r.TooLarge != nil && (r.TooLarge.Over < 1 || r.TooLarge.Over > MaxAttachment) {
		b.fail("requests.too_large.over", "write how many bytes are too many, such as over: 1048576; at most 64 MiB are sent", "%d bytes cannot be too many", r.TooLarge.Over)
	}
	seen := map[string]bool{}
	for i := range r.Records {
		record, path := &r.Records[i], fmt.Sprintf("requests.records[%d]", i)
		switch {
		case !idForm.MatchString(record.ID):
			b.fail(path+".id", "start with a small letter; then small letters, digits and underscores", "%q is not an id", record.ID)
		case seen[record.ID]:
			b.fail(path+".id", "give each its own id", "two requests have the id %s", record.ID)
		case record.To == "" && len(record.With) == 0 && record.As == "":
			b.fail(path, "write to:, with: or as:", "the request is no other than the form's own")
		}
		seen[record.ID] = true
		b.status(path+".refused.status", record.Refused.Status)
	}
	if r.TooMany != nil && b.form.Accepted.MaxPerMinute == 0 {
		b.fail("requests.too_many", "write accepted: {max_per_minute: …} too", "the form does not say how many are accepted")
	}
	refusals := map[string]*Refusal{"too_large": r.TooLarge, "undecodable": r.Undecodable, "too_many": r.TooMany, "signed_out": r.SignedOut, "other_method": r.OtherMethod, "other_type": r.OtherType, "missing_token": r.MissingToken, "foreign_token": r.ForeignToken, "resubmitted": r.Resubmitted}
	for _, key := range slices.Sorted(maps.Keys(refusals)) {
		if refusal := refusals[key]; refusal != nil && refusal.Status != 0 && (refusal.Status < 400 || refusal.Status > 599) {
			b.fail("requests."+key+".status", "write a status from 400 to 499", "%d refuses nothing", refusal.Status)
		}
	}
}

// checkOnward: the field is one of the form's own that the page fills.
func (b *builder) checkOnward(o *ReturnTo) {
	const path = "accepted.session.return_to"
	i := slices.IndexFunc(b.form.Fields, func(f Field) bool { return f.ID == o.Field })
	switch {
	case i < 0:
		b.fail(path+".field", "name a field of the form, of the kind hidden, by its id", "%q is not a field of the form", o.Field)
	case b.form.Fields[i].Kind != Hidden:
		b.fail(path+".field", "name a field of the kind hidden, which contains the page that the user wanted to open", "the field %s is of the kind %s", o.Field, b.form.Fields[i].Kind)
	}
	if !strings.HasPrefix(o.To, "/") || strings.HasPrefix(o.To, "//") {
		b.fail(path+".to", "write the path of a page of the site", "%q is not a path", o.To)
	}
}

// check finds values of a site document that say nothing a site could be.
func (s *Site) check() Problems {
	var out Problems
	fail := func(path, remedy, format string, args ...any) {
		out = append(out, s.source.problem(path, remedy, format, args...))
	}
	if s.MaxParallel < 0 {
		fail("max_parallel", "write a whole number from 1", "%d submissions at once are not possible", s.MaxParallel)
	}
	if c := s.LanguageChoice; c != nil && c.Path != "" && !strings.Contains(c.Path, "{language}") {
		fail("language_choice.path", "write where the tag stands, such as /{language}", "the path %q has no place for the language", c.Path)
	}
	if r := s.ReadyWhen; r != nil {
		if r.MinCoverage < 0 || r.MinCoverage > 100 {
			fail("ready_when.min_coverage", "write per cent, 0 to 100", "%d per cent is not possible", r.MinCoverage)
		}
		if r.MaxNotObserved < 0 {
			fail("ready_when.max_not_observed", "write a whole number from 0", "%d cases are not possible", r.MaxNotObserved)
		}
		if r.Environment != "" && !slices.ContainsFunc(s.Environments, func(e Environment) bool { return e.ID == r.Environment }) {
			fail("ready_when.environment", "name one that is listed under environments:", "the site has no environment %q", r.Environment)
		}
		if r.MaxDays < 0 {
			fail("ready_when.max_days", "write a whole number from 1", "%d days are not possible", r.MaxDays)
		}
	}
	for i := range s.States {
		places := map[string]string{"denied": s.States[i].Denied}
		for page, to := range s.States[i].DeniedByPage {
			places["denied_by_page."+page] = to
		}
		for _, at := range slices.Sorted(maps.Keys(places)) {
			if to := places[at]; to != "" && to != Forbidden && !strings.HasPrefix(to, "/") {
				fail(fmt.Sprintf("states[%d].%s", i, at), "write a path, or forbidden", "%q is neither", to)
			}
		}
	}
	s.checkEnvironments(fail)
	ids := map[string]bool{}
	for i := range s.Accounts {
		if id := s.Accounts[i].ID; ids[id] {
			fail(fmt.Sprintf("accounts[%d].id", i), "give each account an id of its own", "there are two accounts %q", id)
		}
		ids[s.Accounts[i].ID] = true
		if a := &s.Accounts[i]; a.SignIn != "" && s.SignInOf(a) == nil {
			fail(fmt.Sprintf("accounts[%d].sign_in", i), "name the id of one of sign_ins", "sign_ins holds no %q", a.SignIn)
		}
	}
	for i := range s.SignIns {
		if id := s.SignIns[i].ID; id == "" || slices.ContainsFunc(s.SignIns[:i], func(in SignIn) bool { return in.ID == id }) {
			fail(fmt.Sprintf("sign_ins[%d].id", i), "give each an id of its own, by which accounts name it", "it has none of its own")
		}
		s.SignIns[i].checkTimes(fmt.Sprintf("sign_ins[%d].", i), fail)
	}
	if s.SignIn != nil {
		s.SignIn.checkTimes("sign_in.", fail)
	}
	return out
}

// checkTimes checks how long one stays signed in, and how a token is renewed.
func (s *SignIn) checkTimes(at string, fail func(path, remedy, format string, args ...any)) {
	for _, one := range []struct{ key, time string }{{"idle_timeout", s.IdleTimeout}, {"absolute_timeout", s.AbsoluteTimeout}} {
		if d, err := time.ParseDuration(one.time); one.time != "" && (err != nil || d <= 0) {
			fail(at+one.key, "write a time such as 30s or 15m", "%q is not a time", one.time)
		}
	}
	if r := s.Request; r != nil && r.Refresh != nil {
		switch {
		case r.Token == "":
			fail(at+"request.refresh", "say with token where the answer holds the bearer token", "without a bearer token there is nothing to renew")
		case r.Refresh.To == "" || r.Refresh.Token == "":
			fail(at+"request.refresh", "write to, a path, and token, where the answer holds the new token", "it needs both to and token")
		}
	}
}
