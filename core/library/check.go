package library

import (
	"fmt"
	"hash/fnv"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
)

// Check says what is wrong with a technique inside the library: empty fields,
// words outside the lists above, references to nothing. Problems with Warn set
// do not keep it from being used.
func (l *Library) Check(t Technique) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if strings.TrimSpace(t.Name) == "" {
		bad("name", "is empty: give the technique a name")
	}
	if !slices.Contains(Kinds, t.Kind) {
		bad("kind", "%q is not a kind: choose one of %s", t.Kind, join(Kinds))
	}
	if t.Context != Gi && t.Context != NoGi && t.Context != Both {
		bad("context", "%q is not a context: choose gi, no-gi or both", t.Context)
	}
	if t.Taught != "" && t.Taught != Left && t.Taught != Right {
		bad("taught", "%q is not a side: choose left, right, or leave it empty", t.Taught)
	}
	if t.Kind != Movement && t.From == nil {
		bad("from", "is empty: say from which position and part it starts")
	}
	if t.Kind != Movement && t.To == nil && !t.Finish {
		bad("to", "is empty: say where it leads, or mark it as a finish")
	}
	for field, place := range map[string]*Place{"from": t.From, "to": t.To} {
		if place != nil {
			l.checkPlace(field, *place, bad)
		}
	}
	if t.SecondsPerRep < 2 || t.SecondsPerRep > 300 {
		bad("seconds_per_rep", "%d is outside 2 to 300 seconds", t.SecondsPerRep)
	}
	if t.TeachMinutes < 1 || t.TeachMinutes > 90 {
		bad("teach_minutes", "%d is outside 1 to 90 minutes", t.TeachMinutes)
	}
	for _, r := range t.Risks {
		if !safety.Known(r) {
			bad("risks", "%q is not a risk class: choose from %s", r, join(safety.Classes()))
		}
	}
	if t.Finish && len(t.Risks) == 0 {
		bad("risks", "is empty: a finish loads a joint or the neck, say which")
	}
	if utf8.RuneCountInString(t.Name) > 120 {
		bad("name", "is longer than 120 letters: shorten it, or move words into the summary")
	}
	if !slug.MatchString(t.ID) {
		bad("id", "%q: small letters, digits and hyphens, at most 80", t.ID)
	}
	l.checkPoints(t, bad)
	checkLessons(t, bad)
	l.checkDrawings(t, bad, &found)
	for i, id := range t.SavesFrom {
		if x, ok := l.Technique(id); !ok {
			bad(fmt.Sprintf("saves_from[%d]", i), "technique %q is not in the library: add it first or take it out", id)
		} else if !x.Finish {
			bad(fmt.Sprintf("saves_from[%d]", i), "%s is no finish: nobody needs saving from it", x.Name)
		}
	}
	for i, p := range t.Prerequisites {
		if _, ok := l.Technique(p.Technique); !ok {
			bad(fmt.Sprintf("prerequisites[%d]", i), "technique %q is not in the library: add it first or remove it here", p.Technique)
		}
		if p.Technique == t.ID {
			bad(fmt.Sprintf("prerequisites[%d]", i), "a technique cannot stand on itself: remove it")
		}
	}
	t.eachText(func(field string, text *Text) {
		for _, p := range text.Problems() {
			p.Field = field
			found = append(found, p)
		}
	})
	slices.SortStableFunc(found, func(a, b validation.Problem) int { return strings.Compare(a.Field, b.Field) })
	return found
}

func (l *Library) checkPoints(t Technique, bad func(field string, format say.Sentence, args ...any)) {
	points, faults := map[string]bool{}, map[string]bool{}
	for i, k := range t.KeyPoints {
		at := fmt.Sprintf("key_points[%d]", i)
		if k.ID == "" || points[k.ID] {
			bad(at+".id", "%q is empty or used twice: give each key point an identifier of its own", k.ID)
		}
		points[k.ID] = true
		if strings.TrimSpace(string(k.Cue)) == "" {
			bad(at+".cue", "is empty: write the few words said on the mat")
		}
		if k.Measure != nil {
			if why := k.Measure.wrong(); why != "" {
				bad(at+".measure", "%s", why)
			}
		}
		for j, f := range k.Faults {
			at := fmt.Sprintf("%s.faults[%d]", at, j)
			if f.ID == "" || faults[f.ID] {
				bad(at+".id", "%q is empty or used twice: give each fault an identifier of its own", f.ID)
			}
			faults[f.ID] = true
			if strings.TrimSpace(string(f.What)) == "" {
				bad(at+".what", "is empty: say what people do wrong")
			}
			if f.LeadsTo != nil {
				l.checkPlace(at+".leads_to", *f.LeadsTo, bad)
			}
		}
	}
	forks := map[string]bool{}
	for i, f := range t.Forks {
		at := fmt.Sprintf("forks[%d]", i)
		if f.ID == "" || forks[f.ID] {
			bad(at+".id", "%q is empty or used twice: give each fork an identifier of its own", f.ID)
		}
		forks[f.ID] = true
		if strings.TrimSpace(string(f.Reaction)) == "" {
			bad(at+".reaction", "is empty: say what the partner does")
		}
		if f.Answer != "" {
			if _, ok := l.Technique(f.Answer); !ok {
				bad(at+".answer", "technique %q is not in the library: add it first or leave the answer open", f.Answer)
			}
		}
		if f.Leaves != nil {
			l.checkPlace(at+".leaves", *f.Leaves, bad)
		}
		for name, id := range map[string]string{"key_point": f.KeyPoint, "back_to": f.BackTo} {
			if id != "" && !points[id] {
				bad(at+"."+name, "key point %q is not one of this technique", id)
			}
		}
	}
}

// checkPlace says whether a place is one of the library.
func (l *Library) checkPlace(field string, place Place, bad func(field string, format say.Sentence, args ...any)) {
	if _, ok := l.positions[place.Position]; !ok {
		bad(field, "position %q is not in the library: add it first or choose another", place.Position)
	}
	if place.Part != Attack && place.Part != Defend {
		bad(field, "part %q is neither attack nor defend", place.Part)
	}
}

// CheckPosition says what is wrong with a position as it is written.
func CheckPosition(p Position) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if !slug.MatchString(p.ID) {
		bad("id", "%q: small letters, digits and hyphens, at most 80", p.ID)
	}
	if strings.TrimSpace(p.Name) == "" {
		bad("name", "is empty: give the position a name")
	}
	if !slices.Contains(Families, p.Family) {
		bad("family", "%q is not a family: choose one of %s", p.Family, join(Families))
	}
	if p.Facing != "" && !slices.Contains(Facings, p.Facing) {
		bad("facing", "%q: choose one of %s, or leave it out", p.Facing, strings.Join(Facings, ", "))
	}
	if strings.TrimSpace(p.Attacker) == "" {
		bad("attacker", "is empty: say what the one who has the better of it holds")
	}
	if strings.TrimSpace(p.Defender) == "" {
		bad("defender", "is empty: say what the other one keeps or wins back")
	}
	return found
}

// slug is what an identifier looks like.
var slug = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,79}$`)

// Slug makes an identifier of a name; empty when nothing of it can be used.
func Slug(name string) string {
	var b strings.Builder
	for _, r := range Fold(name) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			b.WriteRune(r)
		case r == ' ':
			b.WriteByte('-')
		}
	}
	s := strings.Trim(b.String(), "-")
	if len(s) > 70 {
		s = strings.Trim(s[:70], "-")
	}
	return s
}

// Identifier makes an identifier of a name in whatever script: a name of which Slug can use nothing
// gets one of its letters' numbers, the same for the same name.
func Identifier(name string) string {
	if s := Slug(name); s != "" || strings.TrimSpace(name) == "" {
		return s
	}
	h := fnv.New64a()
	h.Write([]byte(Fold(name)))
	return fmt.Sprintf("n%012x", h.Sum64()&0xffffffffffff)
}

func join[T ~string](words []T) string {
	parts := make([]string, len(words))
	for i, w := range words {
		parts[i] = string(w)
	}
	return strings.Join(parts, ", ")
}
