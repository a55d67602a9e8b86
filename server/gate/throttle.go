package gate

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"

	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// Throttle holds up whoever tries passwords. Only attempts that fail count; those that are under way at once are bounded too.
type Throttle struct {
	allowances []allowance
	// places are of attempts under way.
	places chan struct{}
}

// allowance is how many attempts of one key may fail at once, and how long it then takes until the next may be made.
type allowance struct {
	key   func(name, address string) string
	every time.Duration
	burst int
	known *lru.Cache[string, *rate.Limiter]
}

const (
	// maxKept is how many names and addresses are remembered; of more, those longest unused are forgotten.
	maxKept = 10_000
	// maxAttempts is how many attempts may be under way at once, from everywhere.
	maxAttempts = 64
)

func newThrottle() *Throttle {
	s := &Throttle{places: make(chan struct{}, maxAttempts), allowances: []allowance{
		{key: func(name, address string) string { return name + "\x00" + address }, every: 10 * time.Second, burst: 5},
		{key: func(name, _ string) string { return name }, every: 5 * time.Second, burst: 20}, // from whatever addresses
		{key: func(_, address string) string { return address }, every: 3 * time.Second, burst: 20},
	}}
	for i := range s.allowances {
		s.allowances[i].known, _ = lru.New[string, *rate.Limiter](maxKept) // fails for sizes below one only
	}
	return s
}

// Attempt checks what somebody tries by name and address, and returns what the check says; or it refuses that, with when the next attempt
// may come. store.ErrNotFound of the check is a wrong attempt; a database that does not answer is none.
func (s *Throttle) Attempt(name, address string, check func() error) error {
	name = strings.ToLower(name)
	now := time.Now()
	limiters := make([]*rate.Limiter, len(s.allowances))
	for i, b := range s.allowances {
		limiters[i] = b.of(b.key(name, address))
		if tokens := limiters[i].TokensAt(now); tokens < 1 {
			wait := time.Duration((1 - tokens) * float64(b.every))
			return later(wait, "Too many wrong attempts.")
		}
	}
	select {
	case s.places <- struct{}{}:
	default:
		return later(2*time.Second, "Too many people are signing in at once.")
	}
	defer func() { <-s.places }()
	err := check()
	if errors.Is(err, store.ErrNotFound) {
		for _, l := range limiters {
			l.ReserveN(now, 1) // below nothing too, where several failed at once
		}
	}
	return err
}

func (a *allowance) of(key string) *rate.Limiter {
	if l, ok := a.known.Get(key); ok {
		return l
	}
	fresh := rate.NewLimiter(rate.Every(a.every), a.burst)
	if l, ok, _ := a.known.PeekOrAdd(key, fresh); ok {
		return l
	}
	return fresh
}

// later refuses a request that may come again after a while.
func later(wait time.Duration, why string) error {
	seconds := max(1, int(math.Ceil(wait.Seconds())))
	return huma.ErrorWithHeaders(huma.Error429TooManyRequests(fmt.Sprintf("%s Try again in %d seconds.", why, seconds)), http.Header{"Retry-After": {strconv.Itoa(seconds)}})
}
