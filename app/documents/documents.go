// Package documents is the one registry of the kinds of records an academy
// writes: how each is read, judged and named, and what it speaks of. Saving, undo, restore,
// import and deleting all ask it.
package documents

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"

	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/validation"
)

// Kinds of documents.
const (
	Settings   = "settings"
	Position   = "position"
	Technique  = "technique"
	VariantSet = "variant set"
	ForkTable  = "fork table"
	Ladder     = "ladder"
	Curriculum = "curriculum"
	Track      = "track"
	Class      = "class"
	Unit       = "unit"
	Person     = "person"
	Season     = "season"
	Session    = "class session"
	TestDay    = "test day"
)

// Ref is what one record says of another.
type Ref struct{ Kind, ID string }

// kind is how one kind is handled.
type kind struct {
	parse func(body []byte) (any, error)
	name  func(value any) say.Sentence
	check func(r *academy.Records, value any) []validation.Problem
	refs  func(value any) []Ref
}

// of makes a kind of functions on its type.
func of[T any](name func(T) say.Sentence, check func(*academy.Records, T) []validation.Problem, refs func(T) []Ref) kind {
	return kind{
		parse: func(body []byte) (any, error) {
			var x T
			err := json.Unmarshal(body, &x)
			return x, err
		},
		name:  func(v any) say.Sentence { return name(v.(T)) },
		check: func(r *academy.Records, v any) []validation.Problem { return check(r, v.(T)) },
		refs:  func(v any) []Ref { return refs(v.(T)) },
	}
}

var kinds = map[string]kind{
	Settings: of(func(academy.Settings) say.Sentence { return "the settings" }, (*academy.Records).CheckSettings, func(s academy.Settings) []Ref {
		var refs []Ref
		for _, g := range s.Gates {
			refs = append(append(refs, Ref{Technique, g.Technique}, Ref{Ladder, g.Ladder}), many(Track, g.Tracks)...)
		}
		for _, t := range s.Sheets {
			refs = append(refs, Ref{Track, t.Track})
		}
		return refs
	}),
	Position: of(func(p library.Position) say.Sentence { return say.Raw(p.Name) }, func(_ *academy.Records, p library.Position) []validation.Problem { return library.CheckPosition(p) }, none[library.Position]),
	Technique: of(func(t library.Technique) say.Sentence { return say.Raw(t.Name) }, func(r *academy.Records, t library.Technique) []validation.Problem { return r.Library.Check(t) }, func(t library.Technique) []Ref {
		refs := []Ref{}
		place := func(p *library.Place) {
			if p != nil {
				refs = append(refs, Ref{Position, p.Position})
			}
		}
		place(t.From)
		place(t.To)
		for _, id := range t.SavesFrom {
			refs = append(refs, Ref{Technique, id})
		}
		for _, p := range t.Prerequisites {
			refs = append(refs, Ref{Technique, p.Technique})
		}
		for _, f := range t.Forks {
			refs = append(refs, Ref{Technique, f.Answer})
			place(f.Leaves)
		}
		for _, k := range t.KeyPoints {
			for _, f := range k.Faults {
				place(f.LeadsTo)
			}
		}
		return refs
	}),
	VariantSet: of(func(s library.VariantSet) say.Sentence { return say.F("variants %s", s.Name) }, func(r *academy.Records, s library.VariantSet) []validation.Problem { return r.Library.CheckVariants(s) }, func(s library.VariantSet) []Ref {
		refs := []Ref{{Technique, s.House}}
		for _, v := range s.Variants {
			refs = append(refs, Ref{Technique, v.Technique})
		}
		return refs
	}),
	ForkTable: of(func(t library.ForkTable) say.Sentence { return say.F("fork table %s", t.Name) }, func(r *academy.Records, t library.ForkTable) []validation.Problem { return r.Library.CheckForkTable(t) }, func(t library.ForkTable) []Ref {
		refs := []Ref{{Position, t.At.Position}}
		for _, row := range t.Rows {
			refs = append(refs, Ref{Technique, row.Then})
		}
		return refs
	}),
	Ladder: of(func(l curriculum.Ladder) say.Sentence { return say.Raw(l.Name) }, (*academy.Records).CheckLadder, func(l curriculum.Ladder) []Ref {
		if l.Onward == nil {
			return nil
		}
		return []Ref{{Ladder, l.Onward.Ladder}}
	}),
	Curriculum: of(func(c curriculum.Curriculum) say.Sentence { return say.F("the curriculum for %s", c.Rank) }, (*academy.Records).CheckCurriculum, func(c curriculum.Curriculum) []Ref {
		refs := []Ref{{Ladder, c.Ladder}}
		for _, r := range c.Requirements {
			for _, t := range r.Options() {
				refs = append(refs, Ref{Technique, t})
			}
		}
		return refs
	}),
	Track: of(func(t academy.Track) say.Sentence { return say.Raw(t.Name) }, (*academy.Records).CheckTrack, func(t academy.Track) []Ref { return many(Unit, t.Assumed) }),
	Class: of(func(c academy.Class) say.Sentence { return say.Raw(c.Name) }, (*academy.Records).CheckClass, func(c academy.Class) []Ref { return []Ref{{Track, c.Track}} }),
	Unit: of(func(u academy.Unit) say.Sentence { return say.F("unit %s", u.Name) }, (*academy.Records).CheckUnit, func(u academy.Unit) []Ref {
		return slices.Concat(many(Technique, u.Techniques), []Ref{{Technique, u.Movement}}, many(Track, u.Tracks), many(Unit, u.Requires))
	}),
	Person: of(func(p academy.Person) say.Sentence { return say.Raw(p.Name) }, (*academy.Records).CheckPerson, func(p academy.Person) []Ref {
		refs := append(many(Person, p.NeverWith), Ref{Ladder, p.Ladder}, Ref{Curriculum, p.Curriculum})
		if p.Coach != nil {
			refs = append(refs, many(Class, p.Coach.Available)...)
		}
		return refs
	}),
	TestDay: of(func(d academy.TestDay) say.Sentence { return say.Raw(d.Name) }, (*academy.Records).CheckTestDay, none[academy.TestDay]),
	Season:  of(func(s academy.Season) say.Sentence { return say.Raw(s.Name) }, (*academy.Records).CheckSeason, seasonRefs),
	Session: of(func(n academy.ClassSession) say.Sentence { return say.F("the class %s", n.ID) }, (*academy.Records).CheckSession, func(n academy.ClassSession) []Ref {
		class, _, _ := academy.SplitOccurrence(n.ID)
		return append(append(itemRefs(n.Items), many(Unit, n.Makeups())...), Ref{Class, class}, Ref{Person, n.Lead})
	}),
}

func none[T any](T) []Ref { return nil }

func many(kind string, ids []string) []Ref {
	refs := make([]Ref, len(ids))
	for i, id := range ids {
		refs[i] = Ref{kind, id}
	}
	return refs
}

func itemRefs(items []season.Item) []Ref {
	refs := make([]Ref, len(items))
	for i, it := range items {
		refs[i] = Ref{Unit, it.Unit}
	}
	return refs
}

// seasonRefs is what a season plans and wants. Who led a class that is over may
// have left since, so coaches are not among them.
func seasonRefs(s academy.Season) []Ref {
	var refs []Ref
	for _, plan := range s.Plans() {
		for _, x := range plan.Placements {
			refs = append(append(refs, itemRefs(x.Items)...), Ref{Class, x.Class})
		}
	}
	for _, b := range s.Barred {
		refs = append(refs, Ref{Unit, b.Unit})
	}
	for _, w := range s.Wanted {
		refs = append(refs, Ref{Unit, w.Unit})
	}
	for _, d := range s.Dates {
		refs = append(append(refs, many(Unit, d.Seen)...), many(Unit, d.Kept)...)
		refs = append(refs, many(Class, d.Classes)...)
		if d.Track != "" {
			refs = append(refs, Ref{Track, d.Track})
		}
	}
	return refs
}

// FreeID is an identifier that is free: the one wished for, or with a number behind it; instead is taken where nothing was wished.
func FreeID(wish, instead string, taken func(string) bool) string {
	wish = cmp.Or(wish, instead)
	id := wish
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", wish, n)
	}
	return id
}

// InLibrary says whether a kind is one of the library's.
func InLibrary(name string) bool {
	return name == Technique || name == Position || name == VariantSet || name == ForkTable
}

// Known says whether there is such a kind.
func Known(name string) bool { _, ok := kinds[name]; return ok }

// Parse reads a record as its kind's type.
func Parse(name string, body []byte) (any, error) {
	k, ok := kinds[name]
	if !ok {
		return nil, fmt.Errorf("there is no kind of record %q", name)
	}
	return k.parse(body)
}

// Name is what a person calls a record; empty for a kind there is not.
func (s *Set) Name(name string, value any) say.Sentence {
	if c, ok := value.(curriculum.Curriculum); ok {
		if l := s.Ladders[c.Ladder]; l.Position(c.Rank) >= 0 {
			return say.F("the curriculum for %s", l.Ranks[l.Position(c.Rank)].Name)
		}
	}
	if k, ok := kinds[name]; ok {
		return k.name(value)
	}
	return ""
}

// References lists what a record speaks of, each once; nothing for a part left empty.
func References(name string, value any) []Ref {
	k, ok := kinds[name]
	if !ok {
		return nil
	}
	refs := slices.DeleteFunc(k.refs(value), func(r Ref) bool { return r.ID == "" })
	seen := map[Ref]bool{}
	return slices.DeleteFunc(refs, func(r Ref) bool {
		had := seen[r]
		seen[r] = true
		return had
	})
}

// SameJSON says whether two records are written the same but for white space; nothing is the same as
// nothing.
func SameJSON(a, b json.RawMessage) bool {
	if len(a) == 0 || len(b) == 0 {
		return len(a) == len(b)
	}
	var x, y bytes.Buffer
	return json.Compact(&x, a) == nil && json.Compact(&y, b) == nil && bytes.Equal(x.Bytes(), y.Bytes())
}
