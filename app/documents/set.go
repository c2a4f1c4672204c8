package documents

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"sync"

	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// Set is everything an academy wrote at one revision, as the core's types. It
// is never changed once it is made.
type Set struct {
	academy.Records
	Positions []library.Position
	Sets      []library.VariantSet
	Tables    []library.ForkTable
	Layout    func() library.Layout // of the whole map, computed when it is first asked for
	Broken    []Broken              // records that cannot be read: set aside, named, to be fixed

	values map[Ref]record
}

// record is a document's body as its kind's type.
type record struct {
	version int
	value   any
}

// Broken is a record that cannot be read.
type Broken struct {
	Kind    string `json:"kind"`
	ID      string `json:"id"`
	Version int    `json:"-"`
	Why     string `json:"why" doc:"What keeps it from being read"`
}

// NewSet understands an academy's documents. Those that had knows already in the same version
// are not read again, and may come without a body. One that cannot be read is set aside.
func NewSet(all []store.Document, had *Set) *Set {
	if had == nil {
		had = &Set{}
	}
	s := &Set{values: make(map[Ref]record, len(all))}
	fresh := false
	for _, d := range all {
		key := Ref{d.Kind, d.ID}
		if r, ok := had.values[key]; ok && r.version == d.Version {
			s.values[key] = r
			continue
		}
		value, err := Parse(d.Kind, d.Body)
		if err != nil {
			s.Broken = append(s.Broken, Broken{d.Kind, d.ID, d.Version, err.Error()})
			continue
		}
		s.values[key] = record{d.Version, value}
		fresh = fresh || InLibrary(d.Kind)
	}
	s.arrange(had, fresh)
	return s
}

// With is the set after some records are written (nil takes one away), whatever is
// wrong with them then.
func (s *Set) With(writes map[Ref]any) *Set {
	after := &Set{values: make(map[Ref]record, len(s.values)+len(writes)), Broken: s.Broken}
	for k, v := range s.values {
		after.values[k] = v
	}
	fresh := false
	for k, v := range writes {
		delete(after.values, k)
		if v != nil {
			after.values[k] = record{s.values[k].version + 1, v}
		}
		after.Broken = slices.DeleteFunc(slices.Clone(after.Broken), func(b Broken) bool { return b.Kind == k.Kind && b.ID == k.ID })
		fresh = fresh || InLibrary(k.Kind)
	}
	after.arrange(s, fresh)
	return after
}

// arrange puts the records where the core looks for them.
func (s *Set) arrange(had *Set, fresh bool) {
	s.Ladders, s.Tracks, s.Person, s.ClassSessions = map[string]curriculum.Ladder{}, map[string]academy.Track{}, map[string]academy.Person{}, map[string]academy.ClassSession{}
	var techniques []library.Technique
	keys := make([]Ref, 0, len(s.values))
	for k := range s.values {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, func(a, b Ref) int { return cmp.Or(cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.ID, b.ID)) })
	for _, k := range keys {
		switch x := s.values[k].value.(type) {
		case academy.Settings:
			s.Settings = x
		case library.Position:
			s.Positions = append(s.Positions, x)
		case library.Technique:
			techniques = append(techniques, x)
		case library.VariantSet:
			s.Sets = append(s.Sets, x)
		case library.ForkTable:
			s.Tables = append(s.Tables, x)
		case curriculum.Ladder:
			s.Ladders[k.ID] = x
		case curriculum.Curriculum:
			s.Curricula = append(s.Curricula, x)
		case academy.Track:
			s.Tracks[k.ID] = x
		case academy.Class:
			s.Classes = append(s.Classes, x)
		case academy.Unit:
			s.Units = append(s.Units, x)
		case academy.Season:
			s.Seasons = append(s.Seasons, x)
		case academy.ClassSession:
			s.ClassSessions[k.ID] = x
		case academy.TestDay:
			s.TestDays = append(s.TestDays, x)
		case academy.Person:
			s.People = append(s.People, x)
			s.Person[k.ID] = x
		}
	}
	s.Settings = s.Settings.WithDefaults()
	s.Settings.Gates = s.resolved(s.Settings.Gates)
	same := had.Library != nil && !fresh && len(s.Positions) == len(had.Positions) && len(techniques) == len(had.Library.Techniques()) && len(s.Sets) == len(had.Sets) && len(s.Tables) == len(had.Tables)
	if s.Library, s.Layout = had.Library, had.Layout; !same {
		s.Library = library.New(s.Positions, techniques).With(s.Sets, s.Tables)
		s.Layout = sync.OnceValue(s.Library.Map(nil).Layout)
	}
	slices.SortFunc(s.People, func(a, b academy.Person) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.ID, b.ID)) })
	slices.SortFunc(s.TestDays, func(a, b academy.TestDay) int { return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.ID, b.ID)) })
	slices.SortFunc(s.Seasons, func(a, b academy.Season) int { return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.ID, b.ID)) })
	slices.SortFunc(s.Classes, func(a, b academy.Class) int {
		return cmp.Or(cmp.Compare(s.Weekday(a), s.Weekday(b)), cmp.Compare(a.Start, b.Start), cmp.Compare(a.ID, b.ID))
	})
}

// resolved names the ladder of gates by rank that name none: the adult one, where
// there is one alone. A green belt of the youth ladder is not farther than a blue one.
func (s *Set) resolved(gates []safety.Gate) []safety.Gate {
	var adult []string
	for id, l := range s.Ladders {
		if l.Audience == "adult" {
			adult = append(adult, id)
		}
	}
	gates = slices.Clone(gates)
	for i := range gates {
		if gates[i].MinRank > 0 && gates[i].Ladder == "" && len(adult) == 1 {
			gates[i].Ladder = adult[0]
		}
	}
	return gates
}

// WithPeople is the set with its people as they are given, in its order; their records stay as they are written.
func (s *Set) WithPeople(as func(academy.Person) academy.Person) *Set {
	after := *s
	after.People, after.Person = make([]academy.Person, len(s.People)), make(map[string]academy.Person, len(s.People))
	for i, p := range s.People {
		after.People[i] = as(p)
		after.Person[p.ID] = after.People[i]
	}
	return &after
}

// Weekday counts from the academy's first day of the week, 1.
func (s *Set) Weekday(c academy.Class) int { return (c.Weekday-s.Settings.WeekStart+7)%7 + 1 }

// Version says at which version a record is; 0 when it is not there.
func (s *Set) Version(kind, id string) int { return s.values[Ref{kind, id}].version }

// Value is a record as its kind's type; nil when it is not there.
func (s *Set) Value(kind, id string) any { return s.values[Ref{kind, id}].value }

// IsBroken says whether a record is set aside because it cannot be read.
func (s *Set) IsBroken(kind, id string) bool {
	return slices.ContainsFunc(s.Broken, func(b Broken) bool { return b.Kind == kind && b.ID == id })
}

// Fingerprint tells whether the records of some kinds are still those they were.
func (s *Set) Fingerprint(kinds ...string) uint64 {
	var sum uint64
	for key, r := range s.values {
		if slices.Contains(kinds, key.Kind) {
			h := fnv.New64a()
			fmt.Fprintf(h, "%s\x00%s\x00%d", key.Kind, key.ID, r.version)
			sum += h.Sum64() // in no order
		}
	}
	return sum
}

// Count is how many records there are.
func (s *Set) Count() int { return len(s.values) }

// has says whether a record is there; a technique that was merged is there under
// the name it goes by now.
func (s *Set) has(r Ref) bool {
	if r.Kind == Technique {
		_, ok := s.Library.Technique(r.ID)
		return ok
	}
	_, ok := s.values[r]
	return ok
}

// Uses names the records that speak of one, in order.
func (s *Set) Uses(of Ref) []say.Sentence { return s.usesIn(of, s) }

// usesIn is Uses with the names that the records have in another set.
func (s *Set) usesIn(of Ref, named *Set) []say.Sentence {
	var used []say.Sentence
	for key, r := range s.values {
		if key != of && slices.Contains(References(key.Kind, r.value), of) {
			used = append(used, named.Name(key.Kind, r.value))
		}
	}
	slices.SortFunc(used, func(a, b say.Sentence) int { return strings.Compare(a.String(), b.String()) })
	return slices.Compact(used)
}

// Check says what is wrong with a record among the others of the set.
func (s *Set) Check(kind, id string) []validation.Problem {
	r, ok := s.values[Ref{kind, id}]
	if !ok {
		return nil
	}
	return kinds[kind].check(&s.Records, r.value)
}

// Hanging says what would be wrong after some records are written: a record
// that speaks of what is not there, or one that was taken away and is still spoken of. Nil where
// nothing is.
func (s *Set) Hanging(writes map[Ref]any) error {
	after := s.With(writes)
	for key, value := range writes {
		if value == nil {
			if used := after.usesIn(key, s); len(used) > 0 && !after.has(key) {
				return say.Errorf("%s speaks of it now. Remove it there first", say.Few(used, 4))
			}
			continue
		}
		for _, r := range References(key.Kind, value) {
			if !after.has(r) {
				return say.Errorf("%s speaks of the %s %q, which is not there any more. Bring that back first", s.Name(key.Kind, value), say.Word(r.Kind), r.ID)
			}
		}
	}
	return nil
}
