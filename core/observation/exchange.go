package observation

import "strings"

// IsJSON tells whether an answer says that it is JSON.
func (x *Exchange) IsJSON() bool {
	for _, h := range x.ResponseHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			kind, _, _ := strings.Cut(strings.ToLower(h.Value), ";")
			kind = strings.TrimSpace(kind)
			return kind == "application/json" || strings.HasSuffix(kind, "+json")
		}
	}
	return false
}
