package library

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/drawing"
	"vereda/core/say"
	"vereda/core/validation"
)

// Drawing is a picture of one moment, kept as the lines it is made from (see package drawing).
type Drawing struct {
	ID       string `json:"id"`
	KeyPoint string `json:"key_point,omitempty"`
	Shows    Text   `json:"shows" doc:"What is seen, in words, for those who do not see it"`
	Lines    Text   `json:"lines" maxLength:"4000" doc:"Who lies how, where which limb is, what moves: one line each"`
}

// DrawingProblems says what is wrong with one drawing of a technique, with its line, and where it disagrees with the positions and the key
// point it is drawn for.
func (l *Library) DrawingProblems(t Technique, d Drawing) []drawing.Problem {
	text := ""
	for _, k := range t.KeyPoints {
		if k.ID == d.KeyPoint {
			text = fmt.Sprintf("%s. %s. %s", k.Cue, k.Detail, k.Limb)
		}
	}
	var facings []string
	for _, place := range []*Place{t.From, t.To} {
		if place != nil {
			p, _ := l.Position(place.Position)
			facings = append(facings, p.Facing)
		}
	}
	if t.Taught == "" && strings.ContainsAny(string(d.Lines), "{}") {
		return []drawing.Problem{{Line: 1, What: "names a side, but the technique has none: say which side it is taught on, or leave the sides out"}}
	}
	return drawing.Check(string(d.Lines), text, facings...)
}

func (l *Library) checkDrawings(t Technique, bad func(field string, format say.Sentence, args ...any), found *[]validation.Problem) {
	known := map[string]bool{}
	for i, d := range t.Drawings {
		at := fmt.Sprintf("drawings[%d]", i)
		if d.ID == "" || known[d.ID] {
			bad(at+".id", "%q is empty or used twice: give each drawing an identifier of its own", d.ID)
		}
		known[d.ID] = true
		if strings.TrimSpace(string(d.Shows)) == "" {
			bad(at+".shows", "is empty: say in words what is seen")
		}
		if d.KeyPoint != "" && !t.hasPoint(d.KeyPoint) {
			bad(at+".key_point", "key point %q is not one of this technique", d.KeyPoint)
		}
		for _, p := range l.DrawingProblems(t, d) {
			*found = append(*found, validation.Problem{Field: at + ".lines", Warn: p.Warn, What: say.F("line %d: %s", p.Line, p.What)})
		}
	}
}

func (t Technique) hasPoint(id string) bool {
	return slices.ContainsFunc(t.KeyPoints, func(k KeyPoint) bool { return k.ID == id })
}
