package database

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
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
		parts := strings.Split(strings.TrimSpace(one), "-")
		if len(parts) != 3 {
			return nil, fmt.Errorf("the binary log's position %q cannot be read", text)
		}
		domain, wrong := strconv.ParseUint(parts[0], 10, 32)
		seq, wrongToo := strconv.ParseUint(parts[2], 10, 64)
		if err := errors.Join(wrong, wrongToo); err != nil {
			return nil, fmt.Errorf("the binary log's position %q cannot be read: %w", text, err)
		}
		out[uint32(domain)] = seq
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
