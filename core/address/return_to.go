package address

import (
	"strings"

	whatwg "github.com/nlnwa/whatwg-url/url"
)

// someSite stands for a site whose address does not matter.
const someSite = "http://site.invalid/"

// Elsewhere tells whether a browser that is sent to an address by a site would leave the site's host (URL Standard, section 4.4). An
// address that cannot be read leads nowhere.
func Elsewhere(address string) bool {
	to, err := whatwg.ParseRef(someSite, address)
	return err == nil && to.Host() != "site.invalid"
}

// IsAddress tells whether a text is written as the address or path of a page.
func IsAddress(text string) bool {
	text = strings.TrimLeft(text, " \t\r\n")
	return strings.HasPrefix(text, "/") || strings.HasPrefix(text, `\`) || strings.HasPrefix(text, "%2") || strings.HasPrefix(text, "http:") || strings.HasPrefix(text, "https:")
}
