package access

import (
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Transition is a step that leads a visitor from a state to one.
type Transition struct {
	From  string `json:"from"`
	Event Event  `json:"event"`
	To    string `json:"to"`
	// Words say what the event is.
	Words prose.Text `json:"words"`
}

func (t *Transition) is(other *Transition) bool {
	return t.From == other.From && t.Event == other.Event && t.To == other.To
}

// Event is what a step of a journey does.
type Event struct {
	Kind EventKind `json:"kind" enum:"submit,open,follow_link,wait_for,read_code,sign_in,sign_in_new"`
	// Of is the form that is submitted, the page that is opened, what is waited for, or the account that signs in.
	Of string `json:"of,omitempty"`
}

// EventKind is a kind of step.
type EventKind string

// The kinds of steps.
const (
	Submit     EventKind = "submit"
	Open       EventKind = "open"
	FollowLink EventKind = "follow_link"
	WaitFor    EventKind = "wait_for"
	ReadCode   EventKind = "read_code"
	SignIn     EventKind = "sign_in"
	SignInNew  EventKind = "sign_in_new" // as the user that the journey has created
)

func eventOf(s *spec.JourneyStep) Event {
	switch {
	case s.Submit != "":
		return Event{Submit, s.Submit}
	case s.WaitFor != "":
		return Event{WaitFor, s.WaitFor}
	case s.Read != nil:
		return Event{ReadCode, s.Read.Column}
	case s.Open == spec.TheLink:
		return Event{Kind: FollowLink}
	case s.Open != "":
		return Event{Open, s.Open}
	case s.SignIn == spec.NewMember:
		return Event{Kind: SignInNew}
	}
	return Event{SignIn, s.SignIn}
}

func (e Event) id() string { return strings.TrimSpace(string(e.Kind) + " " + e.Of) }

// Path is a way through the states that is there to cover something.
type Path struct {
	ID    string     `json:"id"`
	Title prose.Text `json:"title"`
	// Steps lead from where visitors begin; the last is what the path is about.
	Steps []Transition `json:"steps"`
	// Refused: the last step must not be possible, and must leave the state as it is.
	Refused bool `json:"refused,omitempty"`
}

// Access is whether a state may open a page, and where it is sent if not.
type Access struct {
	State string `json:"state"`
	Page  string `json:"page"`
	May   bool   `json:"may"`
	To    string `json:"to,omitempty"`
}

// States are the cases of a site's states: who may open what, and the paths that cover states, transitions, pairs of transitions in
// a row, and events where they must be refused (state transition testing: Chow, Testing software design modeled by finite-state
// machines, 1978).
type States struct {
	States      []string     `json:"states"`
	Events      []Event      `json:"events"`
	Transitions []Transition `json:"transitions"`
	Access      []Access     `json:"access"`
	All         []Path       `json:"all_states"`
	Each        []Path       `json:"all_transitions"`
	Invalid     []Path       `json:"invalid_transitions"`
	Pairs       []Path       `json:"pairs"`
	// Unreached are states that no path leads to.
	Unreached []string `json:"unreached,omitempty"`
	words     map[Event]prose.Text
}

// StatesOf computes them from the site document and the states that forms ask for; words say what a step of a journey does.
// Visitors begin in the first state.
func StatesOf(site *spec.Site, forms []*spec.Form, words func(*spec.JourneyStep) prose.Text) *States {
	s := &States{words: map[Event]prose.Text{}}
	m := &Matrix{site: site}
	for _, one := range site.States {
		s.States = append(s.States, one.ID)
		for _, p := range site.Pages {
			e := m.Expect(one.ID, Page{ID: p.ID, Path: p.Path})
			s.Access = append(s.Access, Access{State: one.ID, Page: p.Path, May: e.Opens, To: e.To})
		}
	}
	if len(s.States) == 0 {
		return s
	}
	s.read(site, forms, words)
	s.paths()
	return s
}

// read takes the transitions from the journeys. A form that asks for a state is an event of that state.
func (s *States) read(site *spec.Site, forms []*spec.Form, words func(*spec.JourneyStep) prose.Text) {
	wanted := map[string]string{}
	for _, f := range forms {
		wanted[f.Form] = f.State
	}
	for _, j := range site.Journeys {
		at := s.States[0]
		for i := range j.Steps {
			step := &j.Steps[i]
			event := eventOf(step)
			s.words[event] = words(step)
			if state := wanted[step.Submit]; state != "" && slices.Contains(s.States, state) {
				at = state
			}
			to := step.Then
			if to == "" {
				to = at
			}
			t := Transition{at, event, to, s.words[event]}
			if !slices.ContainsFunc(s.Transitions, func(other Transition) bool { return other.is(&t) }) && slices.Contains(s.States, to) {
				s.Transitions = append(s.Transitions, t)
			}
			if !slices.Contains(s.Events, event) {
				s.Events = append(s.Events, event)
			}
			at = to
		}
	}
}

// reach is the shortest way to each state.
func (s *States) reach() map[string][]Transition {
	ways := map[string][]Transition{s.States[0]: {}}
	for queue := []string{s.States[0]}; len(queue) > 0; queue = queue[1:] {
		for _, t := range s.Transitions {
			if _, known := ways[t.To]; t.From == queue[0] && !known {
				ways[t.To] = append(slices.Clone(ways[t.From]), t)
				queue = append(queue, t.To)
			}
		}
	}
	return ways
}

// name is a transition's; it tells where it leads only if that is not clear.
func (s *States) name(t Transition) string {
	name := t.From + "," + t.Event.id()
	if slices.ContainsFunc(s.Transitions, func(other Transition) bool { return !other.is(&t) && other.From == t.From && other.Event == t.Event }) {
		name += ">" + t.To
	}
	return name
}

func (s *States) paths() {
	ways := s.reach()
	for _, state := range s.States {
		way, reached := ways[state]
		if !reached {
			s.Unreached = append(s.Unreached, state)
			continue
		}
		s.All = append(s.All, Path{ID: "state:" + state, Title: phrases.ReachState.With("state", state), Steps: way})
		for _, event := range s.Events {
			known := slices.ContainsFunc(s.Transitions, func(t Transition) bool { return t.From == state && t.Event == event })
			if known || event.Kind == WaitFor {
				continue // a mail is no step of the visitor's that could be refused
			}
			s.Invalid = append(s.Invalid, Path{ID: "invalid:" + state + "," + event.id(), Title: phrases.RefusedEvent.With("event", s.words[event], "state", state), Steps: append(slices.Clone(way), Transition{state, event, state, s.words[event]}), Refused: true})
		}
	}
	for _, t := range s.Transitions {
		way, reached := ways[t.From]
		if !reached {
			continue
		}
		path := append(slices.Clone(way), t)
		s.Each = append(s.Each, Path{ID: "transition:" + s.name(t), Title: phrases.EventAs.With("event", t.Words, "state", t.From), Steps: path})
		for _, next := range s.Transitions {
			if next.From == t.To {
				s.Pairs = append(s.Pairs, Path{ID: "pair:" + s.name(t) + "," + s.name(next), Title: phrases.EventThen.With("event", t.Words, "next", next.Words), Steps: append(slices.Clone(path), next)})
			}
		}
	}
}
