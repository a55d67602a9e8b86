// Package recorded reads requests as browsers record them: HTTP Archives (HAR 1.2) and command lines of curl. Cookies, authorisations and the values
// that were sent are not kept: what is read is where a request leads, how, and which fields it has.
package recorded

import (
	"encoding/json"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/address"
)

// MaxText is how many bytes a recording may have.
const MaxText = 24 << 20

// maxRequests is how many requests of a recording are offered.
const maxRequests = 200

// Request is one that sends something.
type Request struct {
	Method, URL string
	// Encoding is urlencoded, multipart or json.
	Encoding string
	Members  []Member
	// Status is that of the answer, 0 where none was recorded, and To where it leads.
	Status int
	To     string
}

// Member is a parameter or a member of a JSON object.
type Member struct {
	Name  string
	Value any // string, float64, bool, or []any of them
	File  bool
}

// String names a request by its method and path.
func (r *Request) String() string { return r.Method + " " + address.Path(r.URL) }

// Read reads a recording. Only requests that send fields are kept, the last ones where there are many.
func Read(text string) ([]Request, error) {
	if len(text) > MaxText {
		return nil, fmt.Errorf("the recording is larger than %d MB; record only the submission", MaxText>>20)
	}
	var all []Request
	var err error
	if trimmed := strings.TrimSpace(text); strings.HasPrefix(trimmed, "{") {
		all, err = archive(trimmed)
	} else {
		all, err = command(trimmed)
	}
	if err != nil {
		return nil, err
	}
	all = slices.DeleteFunc(all, func(r Request) bool { return len(r.Members) == 0 })
	if len(all) == 0 {
		return nil, fmt.Errorf("no request in it sends fields; record the submission of a form, or copy a request that sends something")
	}
	return all[max(0, len(all)-maxRequests):], nil
}

type nameValue struct{ Name, Value string }

// archive reads an HTTP Archive.
func archive(text string) (out []Request, err error) {
	var file struct {
		Log *struct {
			Entries []struct {
				Request struct {
					Method, URL string
					QueryString []nameValue
					PostData    *struct {
						MimeType, Text string
						Params         []nameValue
					}
				}
				Response struct {
					Status      int
					RedirectURL string
				}
			}
		}
	}
	if err := json.Unmarshal([]byte(text), &file); err != nil {
		return nil, fmt.Errorf("it is no HTTP Archive: %w", err)
	}
	if file.Log == nil {
		return nil, fmt.Errorf("it is JSON, but no HTTP Archive: there is no log")
	}
	for _, e := range file.Log.Entries {
		r := Request{Method: strings.ToUpper(e.Request.Method), URL: e.Request.URL, Status: e.Response.Status, To: e.Response.RedirectURL}
		post := e.Request.PostData
		switch {
		case post != nil && post.Text != "":
			r.body(post.MimeType, post.Text)
		case post != nil:
			r.Encoding = encoding(post.MimeType)
			for _, p := range post.Params {
				r.Members = append(r.Members, Member{Name: p.Name, Value: unescaped(p.Value)})
			}
		}
		out = append(out, r)
	}
	return out, nil
}

// unescaped is a parameter's value; browsers record it as it stands in the body.
func unescaped(value string) string {
	if text, err := url.QueryUnescape(value); err == nil {
		return text
	}
	return value
}

func encoding(contentType string) string {
	kind, _, _ := mime.ParseMediaType(contentType)
	switch {
	case strings.HasSuffix(kind, "json"):
		return "json"
	case kind == "multipart/form-data":
		return "multipart"
	}
	return "urlencoded"
}

// body reads what was sent.
func (r *Request) body(contentType, text string) {
	r.Encoding = encoding(contentType)
	switch r.Encoding {
	case "json":
		d := json.NewDecoder(strings.NewReader(text))
		if t, err := d.Token(); err != nil || t != json.Delim('{') {
			return
		}
		for d.More() { // in their order
			name, err := d.Token()
			if err != nil {
				return
			}
			var value any
			if d.Decode(&value) != nil {
				return
			}
			r.Members = append(r.Members, Member{Name: fmt.Sprint(name), Value: value})
		}
	case "multipart":
		_, params, _ := mime.ParseMediaType(contentType)
		parts := multipart.NewReader(strings.NewReader(text), params["boundary"])
		for {
			part, err := parts.NextPart()
			if err != nil {
				return
			}
			content, _ := io.ReadAll(part) // as much as there is
			r.Members = append(r.Members, Member{Name: part.FormName(), Value: string(content), File: part.FileName() != ""})
		}
	default:
		for _, pair := range strings.Split(text, "&") {
			name, value, _ := strings.Cut(pair, "=")
			if name = unescaped(name); name != "" {
				r.Members = append(r.Members, Member{Name: name, Value: unescaped(value)})
			}
		}
	}
}

// command reads a command line of curl.
func command(text string) ([]Request, error) {
	words, err := split(text)
	if err != nil {
		return nil, err
	}
	if len(words) == 0 || words[0] != "curl" {
		return nil, fmt.Errorf("it is neither an HTTP Archive, which begins with {, nor a command line of curl")
	}
	r := Request{}
	contentType, data, asJSON := "", []string{}, false
	var files []Member
	for i := 1; i < len(words); i++ {
		name, value, joined := strings.Cut(words[i], "=")
		if !strings.HasPrefix(name, "--") {
			name, joined = words[i], false
		}
		next := func() string {
			if joined {
				return value
			}
			if i+1 < len(words) {
				i++
				return words[i]
			}
			return ""
		}
		switch name {
		case "-X", "--request":
			r.Method = strings.ToUpper(next())
		case "-H", "--header":
			if key, text, _ := strings.Cut(next(), ":"); strings.EqualFold(key, "Content-Type") {
				contentType = strings.TrimSpace(text)
			}
		case "-d", "--data", "--data-raw", "--data-binary", "--data-ascii", "--data-urlencode":
			data = append(data, next())
		case "--json":
			data, asJSON = append(data, next()), true
		case "-F", "--form", "--form-string":
			key, text, _ := strings.Cut(next(), "=")
			files = append(files, Member{Name: key, Value: text, File: strings.HasPrefix(text, "@")})
		case "--url":
			r.URL = next()
		case "-b", "--cookie", "-u", "--user", "-A", "--user-agent", "-e", "--referer", "-o", "--output", "-x", "--proxy", "-m", "--max-time", "--connect-timeout", "--cacert", "--cert", "--key", "-c", "--cookie-jar":
			next()
		default:
			if !strings.HasPrefix(words[i], "-") && r.URL == "" {
				r.URL = words[i]
			}
		}
	}
	if r.URL == "" {
		return nil, fmt.Errorf("the command line names no address")
	}
	if r.Method == "" {
		r.Method = http.MethodPost
		if len(data) == 0 && len(files) == 0 {
			r.Method = http.MethodGet
		}
	}
	switch {
	case len(files) > 0:
		r.Encoding, r.Members = "multipart", files
	case len(data) > 0:
		if asJSON {
			contentType = "application/json"
		}
		text := strings.Join(data, "&")
		if strings.HasPrefix(strings.TrimSpace(text), "{") && contentType == "" {
			contentType = "application/json"
		}
		r.body(contentType, text)
	}
	return []Request{r}, nil
}

// split parts a command line into words, as the POSIX shell does (2.2), with $'…' of other shells. Nothing in it is expanded.
func split(text string) ([]string, error) {
	var words []string
	var word strings.Builder
	begun := false
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '\\' && i+1 < len(text):
			i++
			if text[i] == '\r' && i+1 < len(text) && text[i+1] == '\n' {
				i++
			}
			if text[i] != '\n' {
				word.WriteByte(text[i])
				begun = true
			}
		case c == '$' && i+1 < len(text) && text[i+1] == '\'':
			end := closing(text, i+2, '\'', true)
			if end < 0 {
				return nil, fmt.Errorf("a quote in the command line is not closed")
			}
			word.WriteString(escapes.Replace(text[i+2 : end]))
			begun, i = true, end
		case c == '\'', c == '"':
			end := closing(text, i+1, c, c == '"')
			if end < 0 {
				return nil, fmt.Errorf("a quote in the command line is not closed")
			}
			inner := text[i+1 : end]
			if c == '"' {
				inner = inDoubleQuotes.Replace(inner)
			}
			word.WriteString(inner)
			begun, i = true, end
		case c == ' ' || c == '\t' || c == '\n' || c == '\r':
			if begun {
				words = append(words, word.String())
				word.Reset()
				begun = false
			}
		default:
			word.WriteByte(c)
			begun = true
		}
	}
	if begun {
		words = append(words, word.String())
	}
	return words, nil
}

// closing is where a quote ends that began before from; -1 for nowhere.
func closing(text string, from int, quote byte, escaped bool) int {
	for i := from; i < len(text); i++ {
		switch {
		case text[i] == '\\' && escaped:
			i++
		case text[i] == quote:
			return i
		}
	}
	return -1
}

var (
	escapes        = strings.NewReplacer(`\\`, `\`, `\'`, `'`, `\"`, `"`, `\n`, "\n", `\r`, "\r", `\t`, "\t", `\u0021`, "!")
	inDoubleQuotes = strings.NewReplacer(`\\`, `\`, `\"`, `"`, `\$`, `$`, "\\`", "`", "\\\n", "")
)
