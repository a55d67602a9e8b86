package database

import (
	"fmt"
	"slices"
	"strings"
)

// position holds the last transaction seen, by replication domain.
type position map[uint32]uint64

func (p position) clone() position {
	out := position{}
	for k, v := range p {
		out[k] = v
	}
	return out
}

// text writes a position as MariaDB does: domain-server-sequence; of the server only the sequence counts.
func (p position) text() string {
	parts := []string{}
	for domain, seq := range p {
		parts = append(parts, fmt.Sprintf("%d-1-%d", domain, seq))
	}
	slices.Sort(parts)
	return strings.Join(parts, ",")
}

func parsePosition(text string) (position, error) {
	out := position{}
	for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' }) {
		var domain, server uint32
		var seq uint64
		if _, err := fmt.Sscanf(strings.TrimSpace(one), "%d-%d-%d", &domain, &server, &seq); err != nil {
			return nil, fmt.Errorf("the binary log's position %q cannot be read", text)
		}
		out[domain] = seq
	}
	return out, nil
}

// reached tells whether all of another position lies behind.
func (p position) reached(other position) bool {
	for domain, seq := range other {
		if p[domain] < seq {
			return false
		}
	}
	return true
}
