package target

import (
	"sync"
	"time"

	"oddtick/core/hashed"
	"oddtick/core/judge"
)

// verifying verifies stored hashes, one at a time, so that a costly kind takes no more than one processor from what is under way. It
// counts what that costs.
type verifying struct {
	mu    sync.Mutex
	count int
	spent time.Duration
	other time.Duration // of it, on texts that were not sent
}

// maxOther is how long a run spends on finding out whose hash is stored where it is not that of what was sent.
const maxOther = 30 * time.Second

func (v *verifying) verify(stored, text string) (bool, error) {
	v.mu.Lock()
	defer v.mu.Unlock()
	started := time.Now()
	is, err := hashed.Verify(stored, text)
	v.count++
	v.spent += time.Since(started)
	return is, err
}

// verifyOther is verify of a text that was not sent, as long as there is time for it.
func (v *verifying) verifyOther(stored, text string) (bool, error) {
	v.mu.Lock()
	over := v.other > maxOther
	v.mu.Unlock()
	if over {
		return false, &hashed.NotVerifiedError{Reason: "the time for trying other texts is used up"}
	}
	started := time.Now()
	is, err := v.verify(stored, text)
	v.mu.Lock()
	defer v.mu.Unlock()
	v.other += time.Since(started)
	return is, err
}

// Judging a run's steps are judged.
func (t *Target) Judging() judge.Judging {
	return judge.Judging{Verify: t.verifying.verify, VerifyOther: t.verifying.verifyOther}
}

// Verified is how many hashes of secrets were verified, and how long that took beside the run.
func (t *Target) Verified() (count int, spent time.Duration) {
	t.verifying.mu.Lock()
	defer t.verifying.mu.Unlock()
	return t.verifying.count, t.verifying.spent
}
