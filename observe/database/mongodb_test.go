package database_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/submission"
	"oddtick/internal/localdb/mongotest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
	"go.mongodb.org/mongo-driver/v2/bson"
	"go.mongodb.org/mongo-driver/v2/mongo"
	"go.mongodb.org/mongo-driver/v2/mongo/options"
)

// TestDocumentsAreWatched as rows: their paths are columns, and a look tells what was inserted, changed and deleted.
func TestDocumentsAreWatched(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	dsn, db := mongotest.DSN(t)
	holders := db.Collection("holders")
	_, err := holders.Indexes().CreateOne(ctx, mongo.IndexModel{Keys: bson.D{{Key: "login", Value: 1}}, Options: options.Index().SetUnique(true)})
	require.NoError(t, err)
	id := bson.NewObjectID()
	born := time.Date(2001, 2, 3, 0, 0, 0, 0, time.UTC)
	_, err = holders.InsertOne(ctx, bson.M{"_id": id, "login": "Fern", "plots": int32(3), "fee": 1.5, "agreed": true, "born": born, "address": bson.M{"town": "Ostlewick", "post": nil}, "tools": bson.A{"spade", "hoe"}})
	require.NoError(t, err)
	_, err = db.Collection("log").InsertOne(ctx, bson.M{"line": "x"})
	require.NoError(t, err)

	m, err := database.OpenDocuments(ctx, dsn, []string{"log"})
	require.NoError(t, err)
	defer m.Close()
	require.Equal(t, []string{"holders"}, m.Tables())
	require.NoError(t, m.Require("holders", "address.town"))
	require.ErrorContains(t, m.Require("holders", "logo"), "no column holders.logo; there are: _id, address.post, address.town, agreed")
	require.NoError(t, m.Begin(ctx))

	row, err := m.Find(ctx, "holders", observation.Cell{Column: "login", Value: "Fern"})
	require.NoError(t, err)
	require.Equal(t, "_id="+id.Hex()+" address.post=NULL address.town=Ostlewick agreed=true born=2001-02-03 00:00:00 fee=1.5 login=Fern plots=3 tools=[\"spade\",\"hoe\"]", inOneLine(row))
	row, err = m.Find(ctx, "holders", observation.Cell{Column: "login", Value: "Moss"})
	require.NoError(t, err)
	require.Nil(t, row)

	tables, err := m.Schema(ctx)
	require.NoError(t, err)
	require.Equal(t, []schema.Unique{{Name: "login_1", Columns: []string{"login"}}}, tables.Tables[0].Uniques)
	_, column := tables.Column("holders.born")
	require.Equal(t, schema.ClassDateTime, column.Class)

	same := func(a, b string) bool { return strings.EqualFold(a, b) }
	found, err := m.LookUp(ctx, submission.Lookup{Table: "holders", Column: "login", Value: "fern"}, same)
	require.NoError(t, err)
	require.True(t, found)
	found, err = m.LookUp(ctx, submission.Lookup{Table: "holders", Column: "login", Value: "fern", Same: map[string]string{"address.town": "Elsewhere"}}, same)
	require.NoError(t, err)
	require.False(t, found)

	require.NoError(t, m.Put(ctx, "holders", map[string]string{"login": "Moss", "plots": "2", "agreed": "false", "born": "2002-03-04 00:00:00", "address.town": "Fenny"}))
	var moss bson.M
	require.NoError(t, holders.FindOne(ctx, bson.M{"login": "Moss"}).Decode(&moss))
	require.EqualValues(t, 2, moss["plots"], "in the type that others have there")
	require.Equal(t, false, moss["agreed"])
	held, err := m.Holds(ctx, "holders", map[string]string{"login": "Moss", "plots": "2"})
	require.NoError(t, err)
	require.True(t, held)
	_, err = holders.UpdateOne(ctx, bson.M{"_id": id}, bson.M{"$set": bson.M{"plots": int32(4), "address.post": "F1", "note": "new"}})
	require.NoError(t, err)
	list, err := m.Changes(ctx)
	require.NoError(t, err)
	require.Len(t, list, 2)
	for _, c := range list {
		if c.Kind == observation.Changed {
			require.Equal(t, id.Hex(), c.Key)
			require.Contains(t, inOneLine(c.After), "address.post=F1")
			require.Contains(t, inOneLine(c.After), "note=new")
		}
	}
	again, err := m.Changes(ctx)
	require.NoError(t, err)
	require.Empty(t, again)

	done, err := m.Undo(ctx, list)
	require.NoError(t, err)
	require.Equal(t, &database.Undone{Deleted: 1, Restored: 1}, done)
	var fern bson.M
	require.NoError(t, holders.FindOne(ctx, bson.M{"_id": id}).Decode(&fern))
	require.EqualValues(t, 3, fern["plots"])
	require.NotContains(t, fern, "note")

	_, err = holders.DeleteOne(ctx, bson.M{"_id": id})
	require.NoError(t, err)
	_, err = m.Changes(ctx)
	require.NoError(t, err)
	done, err = m.Undo(ctx, []observation.Change{{Table: "holders", Kind: observation.Deleted, Key: id.Hex(), Before: row}})
	require.NoError(t, err)
	require.Equal(t, []string{"holders " + id.Hex() + ": documents that were deleted are not put back"}, done.Left)
}

func inOneLine(row []observation.Cell) string {
	var out []string
	for _, c := range row {
		if c.Null {
			c.Value = "NULL"
		}
		out = append(out, c.Column+"="+c.Value)
	}
	return strings.Join(out, " ")
}

// TestDSNsOfMongoDB lead to one server and one database of the site's.
func TestDSNsOfMongoDB(t *testing.T) {
	t.Parallel()
	to, err := database.TargetOf("", "mongodb://keeper:pw@127.0.0.1/fen?authSource=admin")
	require.NoError(t, err)
	require.Equal(t, database.Target{Kind: "mongodb", Host: "127.0.0.1", Port: "27017", Name: "fen"}, to)
	for dsn, says := range map[string]string{
		"mongodb://127.0.0.1":                             "names no database",
		"mongodb://127.0.0.1:1,10.0.0.1:2/fen":            "cannot be read",
		"mongodb+srv://cluster.test/fen":                  "cannot be read",
		"mongodb://127.0.0.1/admin":                       "the server's own",
		"mongodb://127.0.0.1/fen?tlsCAFile=/etc/passwd":   "the option tlsCAFile",
		"mongodb://127.0.0.1/fen?proxyHost=elsewhere.net": "the option proxyHost",
	} {
		require.ErrorContains(t, database.CheckDSN("mongodb", dsn), says, dsn)
	}
}
