package web

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"mime/multipart"
	"net/textproto"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// multipartBody writes pairs as multipart/form-data (RFC 7578). shown is the same for the record, with files told in words.
func multipartBody(pairs []oracle.Pair) (contentType, body, shown string, err error) {
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
				content = contentOf(*p.File)
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

func headerOf(p oracle.Pair) textproto.MIMEHeader {
	h := textproto.MIMEHeader{}
	disposition := fmt.Sprintf(`form-data; name="%s"`, quoted.Replace(p.Name))
	if p.File != nil {
		disposition += fmt.Sprintf(`; filename="%s"`, quoted.Replace(p.File.Name))
		h.Set("Content-Type", p.File.Type)
	}
	h.Set("Content-Disposition", disposition)
	return h
}

// contentOf makes a file of exactly its size that begins as its type does: pictures can be read, what follows fills them up.
func contentOf(a spec.Attachment) []byte {
	var b bytes.Buffer
	dot := image.NewPaletted(image.Rect(0, 0, 1, 1), color.Palette{color.Black, color.White})
	switch a.Type {
	case "image/png":
		_ = png.Encode(&b, dot) // a buffer takes all
	case "image/jpeg":
		_ = jpeg.Encode(&b, dot, nil)
	case "image/gif":
		_ = gif.Encode(&b, dot, nil)
	case "application/pdf":
		b.WriteString("%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n")
	case "application/zip":
		b.WriteString("PK\x05\x06")
	}
	fill := byte(0)
	if strings.HasPrefix(a.Type, "text/") {
		fill = 'm'
	}
	out := bytes.Repeat([]byte{fill}, a.Size)
	copy(out, b.Bytes())
	return out
}
