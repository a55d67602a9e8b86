package judge

import (
	"maps"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
)

func (j *judging) response() Check {
	c := &Check{Check: Response}
	first, final := j.o.First(), j.o.Final()
	if j.e.Outcome == oracle.NotAnswered {
		j.scripts(c)
		if d := j.o.Drawn; d != nil && j.observed.outcome == oracle.NotAnswered {
			c.compare(!d.Stuck, of(Button), ButtonStuck, is(CanBePressed), either(d.Stuck, Disabled, CanBePressed))
		}
		return c.finish()
	}
	if j.o.Failure != "" {
		c.odd(of(Answer), NoAnswer, is(AnAnswer), withText(FailedWith, j.o.Failure))
		return c.finish()
	}
	j.scripts(c)
	j.focus(c)
	if first == nil {
		c.notApplicable(of(Answer), is(NoRequestMade))
		return c.finish()
	}
	j.left(c)
	switch {
	case first.Status >= 500:
		c.odd(of(Status), ServerError, is(NoServerError), number(first.Status))
	case j.e.Status != 0 && j.observed.outcome == j.e.Outcome:
		c.compare(first.Status == j.e.Status, of(Status), OtherStatus, number(j.e.Status), number(first.Status))
	case j.e.Status != 0:
		c.notApplicable(of(Status), is(OutcomeDiffers))
	default:
		c.asExpected(of(Status), is(NoServerError), number(first.Status))
	}
	for _, name := range slices.Sorted(maps.Keys(j.e.Headers)) {
		promised, held := j.e.Headers[name], first.Header(name)
		c.compare(sameList(promised, held), Subject{Aspect: ResponseHeader, Member: name}, OtherHeader, withText(AsText, promised), asText(held, None))
	}
	if j.e.OnSite {
		away := j.leaves()
		c.compare(away == "", of(RedirectHost), OtherHost, is(TheSites), asText(away, TheSites))
	}
	if j.e.To != "" && j.observed.outcome == j.e.Outcome {
		to, unknown := j.withRows(j.e.To)
		leads := j.leadsTo(first.Location, to)
		if leads && unknown != "" {
			c.unobserved(of(Redirect), Value{Is: NoRowSeen, Of: unknown})
		} else {
			c.compare(leads || j.asked(first.Location), of(Redirect), OtherTarget, withText(LeadsTo, to), asText(j.target(first.Location), None))
		}
	}
	if first.Location != "" {
		switch {
		case final.NotFollowed != "":
			c.add(Part{Subject: of(RedirectTarget), Verdict: DoesNotApply, Observed: withText(AsText, final.Location), Why: withText(Because, final.NotFollowed)})
		case final.Status >= 400:
			c.odd(of(RedirectTarget), TargetMissing, is(APage), Value{Is: PageAnswers, Text: pathOf(final.URL), N: final.Status})
		default:
			c.asExpected(of(RedirectTarget), is(APage), Value{Is: PageAnswers, Text: pathOf(final.URL), N: final.Status})
		}
	}
	answer(j, c)
	c.compare(j.trace == "", of(Internals), InternalsShown, is(NotSeen), asText(j.trace, None))
	return c.finish()
}

// scripts: no script failed, and no part of the page is missing. Where hosts are not allowed, what fails may be for want of them.
func (j *judging) scripts(c *Check) {
	d := j.o.Drawn
	if d == nil {
		return
	}
	if len(d.NotAsked) > 0 {
		c.notApplicable(of(Scripts), withText(HostsNotAllowed, strings.Join(d.NotAsked, ", ")))
		return
	}
	observed := is(None)
	if len(d.Errors) > 0 {
		observed = withText(AsText, d.Errors[0])
	}
	c.compare(len(d.Errors) == 0, of(ScriptErrors), ScriptError, is(None), observed)
	observed = is(None)
	var lost []observation.Lost
	for _, l := range d.Lost {
		if j.e.Outcome == oracle.NotAnswered {
			continue // which was made so
		}
		if j.o.First() == nil || l.URL != j.o.First().URL {
			lost = append(lost, l)
		}
	}
	if len(lost) > 0 {
		observed = Value{Is: RequestLost, Text: pathOf(lost[0].URL), Of: lost[0].Why}
	}
	c.compare(len(lost) == 0, of(FailedRequests), RequestFailed, is(None), observed)
}

// focus goes where the form promises it after a rejection.
func (j *judging) focus(c *Check) {
	if j.o.Drawn == nil || j.e.Focus == "" || len(j.e.Failing) == 0 || j.observed.outcome != oracle.RejectedByServer && j.observed.outcome != oracle.RejectedByBrowser || j.kept() {
		return
	}
	if j.e.Focus == "summary" {
		c.compare(!j.declared(j.o.Drawn.Focus) && j.o.Drawn.Focus != "", of(Focus), FocusElsewhere, is(OnSummary), asText(j.o.Drawn.Focus, None))
		return
	}
	for _, f := range j.p.Fields {
		if j.o.First() == nil && j.remade(f.Name) && !j.e.Breaks(j.p, f) {
			return // it is wrong too now, and stands before
		}
		if j.e.Breaks(j.p, f) {
			c.compare(j.o.Drawn.Focus == f.ControlName(), of(Focus), FocusElsewhere, Value{Is: OnField, Of: f.ID}, asText(j.o.Drawn.Focus, None))
			return
		}
	}
}

// left compares what left the browser with what was entered.
func (j *judging) left(c *Check) {
	if j.o.Left == nil || j.o.Sent == nil || j.o.Drawn == nil {
		return
	}
	compared, altered := 0, false
	differs := func(same bool, f *spec.PreparedField, expected, observed Value) {
		compared++
		if !same {
			altered = true
			c.odd(ofField(SentValue, f.ID), Altered, expected, observed)
		}
	}
	defer func() {
		if compared > 0 && !altered {
			c.asExpected(of(SentValues), is(AsEntered), is(AsEntered))
		}
	}()
	for _, f := range j.p.Fields {
		if f.Kind.Untouched() || f.Kind == spec.Upload {
			continue
		}
		want, got := j.o.Sent.AllOf(f), j.o.Left.AllOf(f)
		switch {
		case len(got) == 0 && strings.Join(want, "") == "", len(want) == 0 && strings.Join(got, "") == "":
			continue
		case len(got) == 0 && j.o.Left.Encoding == "json":
			c.notApplicable(ofField(SentValue, f.ID), Value{Is: NoMember, Of: f.Name})
			continue
		case f.Kind == spec.Checkbox:
			differs((len(got) > 0 && truthful(got[0])) == (len(want) > 0), f, ticked(len(want) > 0), withText(AsText, strings.Join(got, ", ")))
			continue
		}
		same := slices.EqualFunc(want, got, func(a, b string) bool {
			x, y := f.ValueOf(a, true), f.ValueOf(b, true)
			return parsed(a) == parsed(b) || x.Sent == y.Sent
		})
		expected, observed := orBlank(strings.Join(want, ", ")), orBlank(strings.Join(got, ", "))
		if f.Secret {
			expected, observed = is(AsTyped), either(same, AsTyped, NotAsTyped)
		}
		differs(same, f, expected, observed)
	}
}

// truthful: what a ticked checkbox sends, also in JSON.
func truthful(value string) bool { return value != "false" && value != "0" && value != "" }

func pathOf(address string) string {
	u, err := url.Parse(address)
	if err != nil || u.Path == "" {
		return address
	}
	if u.RawQuery != "" {
		return u.Path + "?" + u.RawQuery
	}
	return u.Path
}

// leadsTo tells whether an address is a promised target: its host, which is the site's where the promise names a path only, its path, and
// its query where one is promised.
func (j *judging) leadsTo(to, promised string) bool {
	a, errA := url.Parse(to)
	b, errB := url.Parse(promised)
	if errA != nil || errB != nil || to == "" || promised == "" {
		return false
	}
	if base := j.sentTo(); b.Host == "" && base != nil {
		b.Scheme, b.Host = base.Scheme, base.Host
	}
	if b.Host != "" && !strings.EqualFold(address.Host(a), address.Host(b)) {
		return false
	}
	return slices.EqualFunc(parts(a.Path), parts(b.Path), func(part, promised string) bool { return template.Matches(promised, part) }) &&
		(b.RawQuery == "" || template.Matches(b.RawQuery, a.RawQuery))
}

// sameList tells whether two values of a header are one: lists of the same, in any order and in whatever capitals.
func sameList(a, b string) bool {
	entries := func(value string) []string {
		list := strings.Split(strings.ToLower(value), ",")
		for i := range list {
			list[i] = strings.TrimSpace(list[i])
		}
		slices.Sort(list)
		return list
	}
	return slices.Equal(entries(a), entries(b))
}

// parts are a path's; a slash at its end begins no other.
func parts(path string) []string { return strings.Split(strings.TrimSuffix(path, "/"), "/") }

// withRows fills a promised text with the key and the columns of the rows that the submission wrote. unknown is the table whose row was
// not seen, or is one of several; its places stay.
func (j *judging) withRows(text string) (filled, unknown string) {
	filled = WithRows(j.p.Form, j.o.Changes, text)
	for _, name := range template.Names(filled) {
		if table, isRow := rowPlace(j.p.Form, name); isRow {
			unknown = table
		}
	}
	return filled, unknown
}

// WithRows fills a promised text with the key and the columns of the rows that changes show to be written. A place of a row that they do
// not show, or that may be one of several, stays.
func WithRows(form *spec.Form, changes []observation.Change, text string) string {
	return template.Fill(text, func(name string) (string, bool) {
		table, isRow := rowPlace(form, name)
		if !isRow {
			return "", false
		}
		var row *observation.Change
		for i := range changes {
			if changes[i].Table != table || changes[i].Kind != observation.Inserted {
				continue
			}
			if row != nil {
				return "", false
			}
			row = &changes[i]
		}
		if row == nil {
			return "", false
		}
		if name == spec.PlaceKey {
			return row.Key, true
		}
		cell, known := observation.CellOf(row.After, strings.TrimPrefix(name, table+"."))
		return cell.Value, known
	})
}

// rowPlace is the table whose row a place stands for: {key} for that of the first row written, {table.column} for another's. The values of
// fields are filled in already.
func rowPlace(form *spec.Form, name string) (table string, isRow bool) {
	table, _, isRow = strings.Cut(name, ".")
	if name == spec.PlaceKey {
		for i := range form.Stored {
			if form.Stored[i].Insert != "" {
				return form.Stored[i].Insert, true
			}
		}
	}
	return table, isRow
}

// leaves is the address of another host to which a redirect leads; "" where none does.
func (j *judging) leaves() string {
	base := j.sentTo()
	for i := range j.o.Exchanges {
		to, err := url.Parse(j.o.Exchanges[i].Location)
		if err == nil && base != nil && to.Host != "" && !strings.EqualFold(address.Host(to), address.Host(base)) {
			return j.o.Exchanges[i].Location
		}
	}
	return ""
}

// asked: the redirect leads to a path that a hidden field named, as the page held it.
func (j *judging) asked(to string) bool {
	if j.o.Sent == nil || j.o.Sent.Altered || j.o.Before == nil {
		return false
	}
	for _, f := range j.p.Fields {
		if f.Kind != spec.Hidden {
			continue
		}
		control := j.o.Before.Form.ControlAt(f.Name, f.Nth)
		if v, present := j.o.Sent.Of(f); present && control != nil && control.Value == v && address.IsAddress(v) && !address.Elsewhere(v) && j.leadsTo(to, v) {
			return true
		}
	}
	return false
}

// sentTo is the address that the submission was sent to, nil where nothing was.
func (j *judging) sentTo() *url.URL {
	first := j.o.First()
	if first == nil {
		return nil
	}
	u, err := url.Parse(first.URL)
	if err != nil {
		return nil
	}
	return u
}

// target words an address that a redirect leads to: its path, and the whole where it is another host's.
func (j *judging) target(to string) string {
	u, err := url.Parse(to)
	if base := j.sentTo(); err != nil || base == nil || u.Host != "" && !strings.EqualFold(address.Host(u), address.Host(base)) {
		return to
	}
	return pathOf(to)
}

// fillBySent fills a promised text with the values as normalised.
func fillBySent(j *judging, text string) string {
	if j.o.Sent == nil {
		return text
	}
	return fillText(j.p, j.o.Sent, text)
}

func fillText(p *spec.Prepared, sent *submission.Submission, text string) string {
	return template.Fill(text, func(id string) (string, bool) {
		f := p.Field(id)
		if f == nil {
			return "", false
		}
		v, present := sent.Of(f)
		value := f.ValueOf(v, present)
		return value.Normal, true
	})
}
