package target

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/mail"
)

// Mails takes a site's mails where its document says that they arrive; nil where it does not. Close it when done.
func Mails(site *spec.Site) (*mail.Receiver, error) {
	switch {
	case site.Mail == nil:
		return nil, nil
	case site.Mail.Folder != "":
		return mail.In(site.Mail.Folder)
	case site.Mail.Receive != "":
		return mail.At(site.Mail.Receive)
	}
	return nil, nil
}

// Mailbox takes the mails of a run's form; nil where none are promised, or none are received.
type Mailbox struct {
	receiver *mail.Receiver
	mu       sync.Mutex
	slowest  time.Duration // of the promised mails that came
	// missed is how many of a promise's mails in a row did not come, by its place.
	missed map[int]int
}

// openMails begins to take mails where the form promises some.
func (t *Target) openMails() error {
	if len(t.Form.Form.Accepted.Mails) == 0 || t.Config.ByHand {
		return nil
	}
	receiver, err := Mails(t.Config.Site)
	if err != nil {
		return Cannot("%w", err)
	}
	if receiver != nil {
		t.Mailbox = &Mailbox{receiver: receiver, missed: map[int]int{}}
	}
	return nil
}

// close ends taking mails.
func (b *Mailbox) close() {
	if b != nil {
		_ = b.receiver.Close() // nothing is kept in it
	}
}

// Count is how many mails have come.
func (b *Mailbox) Count() int {
	if b == nil {
		return 0
	}
	return b.receiver.Count()
}

// How long is waited for mails that should not come: at least, at most, and in terms of the slowest that should.
const minMailWait, maxMailWait, mailWaitFactor = 100 * time.Millisecond, 2 * time.Second, 2

// Settle waits until a mail that a submission had sent by mistake would have come.
func (b *Mailbox) Settle(ctx context.Context) {
	if b == nil {
		return
	}
	b.mu.Lock()
	wait := min(max(minMailWait, mailWaitFactor*b.slowest), maxMailWait)
	b.mu.Unlock()
	select {
	case <-time.After(wait):
	case <-ctx.Done():
	}
}

// maxMailText is how much of a mail's text is kept, in bytes.
const maxMailText = 16 << 10

// Collect waits for the mails that are expected of a submission, and returns those that came after the first n and concern it: to a recipient
// that the form promises mails to, or that the submission named.
func (b *Mailbox) Collect(ctx context.Context, n int, e *oracle.Expectation, values []string) []observation.Mail {
	begun := time.Now()
	count, waited := map[string]int{}, false
	for i := range e.Mails {
		m := &e.Mails[i]
		to := strings.ToLower(m.To)
		count[to]++
		came := b.await(ctx, n, m.To, count[to], b.patience(m)-time.Since(begun))
		b.noted(m, came, waited, time.Since(begun))
		waited = waited || !came
	}
	b.Settle(ctx)
	var out []observation.Mail
	for _, m := range b.receiver.Since(n, "") {
		concerns := func(to string) bool { return strings.EqualFold(to, m.To) }
		if !slices.ContainsFunc(values, concerns) && !slices.ContainsFunc(e.Recipients, concerns) {
			continue
		}
		text := m.Text
		if len(text) > maxMailText {
			text = strings.ToValidUTF8(text[:maxMailText], "")
		}
		out = append(out, observation.Mail{From: m.From, To: m.To, Subject: m.Subject, Text: text, Links: m.Links})
	}
	return out
}

// After mostMissed mails of one promise in a row did not come, later ones are waited for no longer than brief.
const mostMissed, brief = 3, time.Second

// patience is how long a mail is waited for that may take so long.
func (b *Mailbox) patience(m *oracle.Mail) time.Duration {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.missed[m.Promise] >= mostMissed {
		return min(m.Within, max(brief, mailWaitFactor*b.slowest))
	}
	return m.Within
}

// noted keeps whether a mail came, and how long it took, but where another was waited for before.
func (b *Mailbox) noted(m *oracle.Mail, came, waited bool, took time.Duration) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if !came {
		b.missed[m.Promise]++
		return
	}
	b.missed[m.Promise] = 0
	if !waited {
		b.slowest = max(b.slowest, took)
	}
}

// await waits until so many mails to a recipient came after the first n.
func (b *Mailbox) await(ctx context.Context, n int, to string, many int, patience time.Duration) bool {
	ctx, stop := context.WithTimeout(ctx, max(patience, 0))
	defer stop()
	return b.receiver.WaitFor(ctx, n, to, many)
}
