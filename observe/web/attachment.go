package web

import (
	"fmt"
	"mime/multipart"
	"net/textproto"
	"strings"

	"oddtick/core/submission"
	"oddtick/observe/attachment"
)

// multipartBody writes pairs as multipart/form-data (RFC 7578). shown is the same for the record, with files told in words.
func multipartBody(pairs []submission.Pair) (contentType, body, shown string, err error) {
	var sent, told strings.Builder
	w := multipart.NewWriter(&sent)
	record := multipart.NewWriter(&told)
	if err := record.SetBoundary(w.Boundary()); err != nil {
		return "", "", "", err
	}
	for _, p := range pairs {
		for _, to := range []*multipart.Writer{w, record} {
			content := []byte(crlf(p.Value))
			if p.File != nil && to == w {
				content = attachment.Content(*p.File)
			}
			part, err := to.CreatePart(headerOf(p))
			if err != nil {
				return "", "", "", err
			}
			if _, err := part.Write(content); err != nil {
				return "", "", "", err
			}
		}
	}
	if err := w.Close(); err != nil {
		return "", "", "", err
	}
	if err := record.Close(); err != nil {
		return "", "", "", err
	}
	return w.FormDataContentType(), sent.String(), told.String(), nil
}

// quoted escapes a name as browsers do (HTML Standard, multipart/form-data encoding algorithm).
var quoted = strings.NewReplacer("\n", "%0A", "\r", "%0D", `"`, "%22")

func headerOf(p submission.Pair) textproto.MIMEHeader {
	h := textproto.MIMEHeader{}
	disposition := fmt.Sprintf(`form-data; name="%s"`, quoted.Replace(p.Name))
	if p.File != nil {
		disposition += fmt.Sprintf(`; filename="%s"`, quoted.Replace(p.File.Name))
		h.Set("Content-Type", p.File.Type)
	}
	h.Set("Content-Disposition", disposition)
	return h
}
