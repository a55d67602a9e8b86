package practice_test

import (
	"bytes"
	"html"
	"image"
	"image/png"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// picture is a PNG file of a size.
func picture(t testing.TB, size int) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 1, 1))))
	return append(b.Bytes(), make([]byte, size-b.Len())...)
}

var entry = regexp.MustCompile(`name="entry" value="([^"]+)"`)

// harvest fills the form in well, with changes, and sends it.
func (p *person) harvest(changes map[string]string, picture []byte) (status int, at, body string) {
	_, page := p.get("/harvests/new")
	form := map[string]string{"_token": token.FindStringSubmatch(page)[1], "entry": entry.FindStringSubmatch(page)[1], "crop": "plum", "weight": "2.125", "picked_on": "2024-09-02", "picked_at": "07:40", "bed": "007", "note": ""}
	for name, value := range changes {
		form[name] = value
	}
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	for name, value := range form {
		require.NoError(p.t, w.WriteField(name, value))
	}
	if picture != nil {
		part, err := w.CreateFormFile("picture", "bed.png")
		require.NoError(p.t, err)
		_, err = part.Write(picture)
		require.NoError(p.t, err)
	}
	require.NoError(p.t, w.Close())
	res, err := p.http.Post(p.address+"/harvests", w.FormDataContentType(), &b)
	require.NoError(p.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	return res.StatusCode, res.Request.URL.RequestURI(), string(text)
}

func TestLoggingAHarvest(t *testing.T) {
	t.Parallel()
	p := visit(t)
	status, at, body := p.harvest(map[string]string{"note": "two\r\nlines 🌱"}, picture(t, 1000))
	require.Equal(t, http.StatusOK, status)
	require.Equal(t, "/harvests", at)
	require.Contains(t, body, "Logged for bed 007.")
	require.Contains(t, body, `<td class="bed">007</td>`)
	require.Equal(t, "plum|2.125|2024-09-02|07:40:00|007|two\r\nlines 🌱|bed.png|1000", p.rowOf("harvests", "crop_code, weight_kg, picked_on, picked_at, bed, note, picture_name, picture_size"))
	_, _, body = p.harvest(map[string]string{"crop": "hony"}, nil)
	require.Contains(t, body, "Honey from bed 007: the bees thank you.")
	_, _, body = p.harvest(map[string]string{"weight": "100"}, nil)
	require.Contains(t, body, "What a harvest.")
	for name, c := range map[string]struct{ field, value, says string }{
		"no crop": {"crop", "", "Say what you picked."}, "other crop": {"crop", "x", "Choose one of the crops."}, "no weight": {"weight", " ", "Enter the weight."},
		"letters": {"weight", "1e2", "Enter a number."}, "nothing": {"weight", "0", "The weight lies between"}, "heavy": {"weight", "500.001", "The weight lies between"}, "four decimals": {"weight", "1.0001", "three decimals"},
		"no day": {"picked_on", "", "Enter the day."}, "which day": {"picked_on", "2023-02-29", "That is not a date."}, "a day to come": {"picked_on", time.Now().AddDate(0, 0, 2).Format("2006-01-02"), "up to today"},
		"hour": {"picked_at", "25:00", "That is not a time."}, "no bed": {"bed", "", "Enter the bed's number."}, "bed": {"bed", "7", "three digits"}, "note": {"note", strings.Repeat("n", 501), "at most 500"},
	} {
		status, _, body := p.harvest(map[string]string{c.field: c.value}, nil)
		require.Equal(t, http.StatusUnprocessableEntity, status, name)
		require.Contains(t, html.UnescapeString(body), c.says, name)
		require.Equal(t, 1, strings.Count(body, `class="error"`), name)
	}
	for name, file := range map[string][]byte{"large": picture(t, 200_001), "no picture": []byte("a text")} {
		status, _, body := p.harvest(nil, file)
		require.Equal(t, http.StatusUnprocessableEntity, status, name)
		require.Contains(t, body, "at most 200 kB", name)
	}
	status, _, _ = p.harvest(map[string]string{"_token": "x"}, nil)
	require.Equal(t, http.StatusForbidden, status)
}

// TestALargePictureLeavesNoFile behind among the temporary ones.
func TestALargePictureLeavesNoFile(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	p := visit(t)
	status, _, _ := p.harvest(nil, picture(t, 2_000_000))
	require.Equal(t, http.StatusUnprocessableEntity, status)
	left, err := filepath.Glob(filepath.Join(os.TempDir(), "multipart-*"))
	require.NoError(t, err)
	require.Empty(t, left)
}

// logged sends the form with one change and returns columns of the row.
func logged(p *person, field, value, columns string) string {
	p.harvest(map[string]string{field: value}, nil)
	return p.rowOf("harvests", columns)
}

var harvestFaults = map[string]func(p *person) bool{
	"harvest-weight-zero":    func(p *person) bool { return logged(p, "weight", "0", "weight_kg") == "0.000" },
	"harvest-weight-rounded": func(p *person) bool { return logged(p, "weight", "2.125", "weight_kg") == "2.100" },
	"harvest-tomorrow": func(p *person) bool {
		return logged(p, "picked_on", time.Now().AddDate(0, 0, 1).Format("2006-01-02"), "bed") == "007"
	},
	"harvest-leap-day":   func(p *person) bool { return logged(p, "picked_on", "2024-02-29", "bed") == "no row" },
	"harvest-hour-off":   func(p *person) bool { return logged(p, "picked_at", "07:40", "picked_at") == "08:40:00" },
	"harvest-bed-zeros":  func(p *person) bool { return logged(p, "bed", "007", "bed") == "7" },
	"harvest-note-line":  func(p *person) bool { return logged(p, "note", "a\r\nb", "note") == "a" },
	"harvest-note-wide":  func(p *person) bool { return logged(p, "note", "🌱", "note") == "?" },
	"harvest-note-empty": func(p *person) bool { return logged(p, "note", "", "note IS NULL") == "0" },
	"harvest-again": func(p *person) bool {
		_, page := p.get("/harvests/new")
		same := map[string]string{"entry": entry.FindStringSubmatch(page)[1]}
		first, _, _ := p.harvest(same, nil)
		second, _, _ := p.harvest(same, nil)
		return first == http.StatusOK && second == http.StatusOK
	},
	"harvest-note-lost": func(p *person) bool {
		_, _, body := p.harvest(map[string]string{"note": "kept dry", "bed": ""}, nil)
		return !strings.Contains(body, "kept dry")
	},
	"harvest-crop-label":    func(p *person) bool { return logged(p, "crop", "plum", "crop_code") == "Plums" },
	"harvest-crop-unlisted": func(p *person) bool { return logged(p, "crop", "kale", "crop_code") == "kale" },
	"harvest-picture-large": func(p *person) bool {
		p.harvest(nil, picture(p.t, 300_000))
		return p.rowOf("harvests", "picture_size") == "300000"
	},
	"harvest-reply-wrong": func(p *person) bool {
		_, _, body := p.harvest(map[string]string{"weight": "200"}, nil)
		return strings.Contains(body, "Logged for bed")
	},
}
