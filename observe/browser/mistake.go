package browser

import (
	"context"
	"errors"
	"time"

	"oddtick/core/observation"
)

// Mistake is what is entered first into a field, which is left then, and corrected.
type Mistake struct {
	Entry
	// See is shown the page at a moment, again and again. It tells how long after the moment it is worth looking once more, 0 for no more.
	See func(at Moment, html, address string) (within time.Duration)
	// ChooseFirst: the right value is entered before the mistake too.
	ChooseFirst bool
}

// Moment is a moment of a mistake's making and its correction.
type Moment int

// The moments: the mistake typed, the field left, and the field left once more with the right value.
const (
	Typed Moment = iota
	Left
	LeftAgain
)

// glance is how often a page is looked at meanwhile.
const glance = 50 * time.Millisecond

// correct makes a mistake and corrects it. It returns what the control made of both values.
func (v *Visitor) correct(ctx context.Context, e *Entry) (wrong, right *observation.Entered, err error) {
	if e.Mistake.ChooseFirst {
		_, err = v.enter(ctx, e)
	}
	if err == nil {
		wrong, err = v.enter(ctx, &e.Mistake.Entry)
	}
	if err == nil {
		err = v.moment(ctx, e, Typed)
	}
	if err == nil {
		err = v.leave(ctx, e, Left)
	}
	if err == nil {
		right, err = v.enter(ctx, e)
	}
	if err == nil {
		err = v.leave(ctx, e, LeftAgain)
	}
	return wrong, right, err
}

func (v *Visitor) leave(ctx context.Context, e *Entry, at Moment) error {
	if _, err := ask[any](ctx, v.tab, "leave"); err != nil {
		return err
	}
	return v.moment(ctx, e, at)
}

func (v *Visitor) moment(ctx context.Context, e *Entry, at Moment) error {
	for begun := time.Now(); ; {
		if _, err := ask[bool](ctx, v.tab, "quiet", glance.Milliseconds(), maxQuietTime.Milliseconds()); err != nil && !errors.Is(err, errWorldGone) {
			return err
		}
		s, err := v.sight(ctx)
		if err != nil || time.Since(begun) >= e.Mistake.See(at, s.HTML, s.Address) {
			return err
		}
	}
}
