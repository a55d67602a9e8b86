package design

import (
	"slices"
	"strconv"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// Sizes of files, in bytes.
const (
	// maxFileSize is the largest that is made.
	maxFileSize = 16 << 20
)

// files are uploads by type and by size.
func files(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind != spec.Upload {
		return
	}
	usual := testcase.UsualFileOf(f)
	of := func(size int) testcase.Recipe {
		return testcase.Recipe{Make: testcase.File, Text: usual.Text, Length: size}
	}
	mark := func(size int) testcase.Mark {
		return testcase.Mark{Scale: testcase.Sizes, At: float64(size), Label: strconv.Itoa(size)}
	}
	b.AddFieldCase(testcase.Quick, f, "blank", phrases.NoFile.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, f.ID, "blank"), testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: testcase.Sizes, At: -1e12, Label: "none"})
	b.AddFieldCase(testcase.Quick, f, "valid", phrases.UsualFile.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, f.ID, testcase.ValidPoint), usual, testcase.Mark{Scale: testcase.Sizes, At: float64(usual.Length), Label: "usual"})
	b.AddFieldCase(testcase.Thorough, f, "guess.name", phrases.OddFileName.Text(), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, "name"), testcase.Recipe{Make: testcase.File, Text: strings.Replace(usual.Text, "leaf", "Zoë's  leaf (1)", 1), Length: usual.Length}, testcase.Mark{Scale: "guessed", At: 0, Label: "name"})
	r := testcase.RuleOf(f, spec.RuleFile)
	if r == nil {
		return
	}
	id := testcase.LocalID(r)
	if most := r.Rule.File.Max; most > 0 && most < maxFileSize {
		for _, p := range testcase.UpperBoundaries {
			if n := most + p.Offset; n > 0 {
				b.AddFieldCase(p.Depth, f, id+"."+p.Role(), phrases.BytesAtPoint.With("n", n, "point", boundaryTitle(p)), testcase.Boundaries, coversBoundary(p, r), of(n), mark(n))
			}
		}
		if far := most * 10; far <= maxFileSize {
			b.AddFieldCase(testcase.Standard, f, id+".max.far", phrases.BytesFarAbove.With("n", far), testcase.Boundaries, testcase.Covering(testcase.CoversBoundary, r.ID, testcase.MaxFarPoint), of(far), mark(far))
		}
	} else if most >= maxFileSize {
		b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID, Why: phrases.FilesTooLarge.With("n", most, "most", maxFileSize)})
	}
	types(b, f, r)
}

// types takes each type that is allowed, and one that is not.
func types(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	id := testcase.LocalID(r)
	size := testcase.UsualFileOf(f).Length
	for i, t := range r.Rule.File.Types {
		text, ok := testcase.FileOf("leaf", t)
		if !ok {
			b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID + " " + t, Why: phrases.NoFileOfType.Text()})
			continue
		}
		b.AddFieldCase(testcase.Standard, f, id+".type."+strings.NewReplacer("/", "_", ".", "", "*", "any").Replace(t), prose.Text(t), testcase.EachChoice, testcase.Covering(testcase.CoversPartition, f.ID, "type "+t), testcase.Recipe{Make: testcase.File, Text: text, Length: size}, testcase.Mark{Scale: "type", At: float64(i), Label: t, Given: true})
	}
	if len(r.Rule.File.Types) == 0 {
		return
	}
	i := slices.IndexFunc(testcase.FileTypes, func(t testcase.FileType) bool {
		return t.Ending != ".bin" && !r.Rule.File.Admits(spec.Attachment{Name: "leaf" + t.Ending, Type: t.Kind})
	})
	if i < 0 {
		b.Omitted = append(b.Omitted, testcase.Omission{About: r.ID, Why: phrases.EveryTypeAllowed.Text()})
		return
	}
	b.AddFieldCase(testcase.Quick, f, id+".other_type", phrases.FileOfAnotherType.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint), testcase.Recipe{Make: testcase.File, Text: "leaf" + testcase.FileTypes[i].Ending + ", " + testcase.FileTypes[i].Kind, Length: size}, testcase.Mark{Scale: "type", At: 1e6, Label: testcase.FileTypes[i].Ending})
}
