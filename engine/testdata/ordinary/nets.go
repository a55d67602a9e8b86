package ordinary

import (
	"context"
	"net/http"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"go.mongodb.org/mongo-driver/v2/bson"
	"go.mongodb.org/mongo-driver/v2/mongo"
)

// NetsFaults are the faults of Nets, by the name of the check that each shows in.
var NetsFaults = map[string]string{"capitals": "outcome", "mesh-cut": "stored_data", "at-once": "outcome"}

// NetsDocument is the project of Nets.
func NetsDocument() []byte { return (&Family{Name: "nets"}).Document() }

// Nets is a site that keeps documents: nets, each with a tag that is new in any capitals, and with its mesh in an embedded document.
func Nets(db *mongo.Database, fault string) http.Handler {
	mux := http.NewServeMux()
	kept := db.Collection("nets")
	var mu sync.Mutex
	form := func(w http.ResponseWriter, r *http.Request, status int, tag, mesh string) {
		page(w, status, "Net", `<form method="post" action="/net" novalidate>`+textField(r, "tag", "Tag", tag)+strings.Replace(textField(r, "mesh", "Mesh", mesh), "<input", `<input type="number"`, 1)+
			`<p><label><input type="checkbox" name="tarred" value="on"`+chosen("checked", r.PostFormValue("tarred") != "")+`> Tarred</label></p><button>Hang</button></form>`)
	}
	mux.HandleFunc("GET /net", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, "", "") })
	mux.HandleFunc("GET /nets", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Nets", "<p>It hangs.</p>") })
	mux.HandleFunc("POST /net", func(w http.ResponseWriter, r *http.Request) {
		tag := strings.TrimSpace(r.PostFormValue("tag"))
		mesh, ok := whole(r.PostFormValue("mesh"), 10, 90)
		saidTag, saidMesh := "", ""
		if n := utf8.RuneCountInString(tag); n < 2 || n > 9 {
			saidTag = "A tag has 2 to 9 characters."
		}
		if !ok {
			saidMesh = "A mesh has 10 to 90 mm."
		}
		if saidTag+saidMesh == "" {
			if fault != "at-once" {
				mu.Lock()
				defer mu.Unlock()
			}
			cursor, err := kept.Find(context.Background(), bson.D{})
			must(err)
			var held []struct{ Tag string }
			must(cursor.All(context.Background(), &held))
			for _, h := range held {
				if h.Tag == tag || fault != "capitals" && strings.EqualFold(h.Tag, tag) {
					saidTag = "There is such a net."
				}
			}
		}
		if saidTag+saidMesh != "" {
			form(w, r, 422, saidTag, saidMesh)
			return
		}
		if fault == "mesh-cut" {
			mesh = min(mesh, 80)
		}
		_, err := kept.InsertOne(context.Background(), bson.M{"tag": tag, "mesh": bson.M{"mm": int32(mesh)}, "tarred": r.PostFormValue("tarred") != "", "made": bson.NewDateTimeFromTime(time.Now())})
		must(err)
		http.Redirect(w, r, "/nets", http.StatusSeeOther)
	})
	return mux
}
