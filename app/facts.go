package app

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/store"
)

// Kinds of documents.
const (
	docSettings   = "settings"
	docPosition   = "position"
	docTechnique  = "technique"
	docLadder     = "ladder"
	docCurriculum = "curriculum"
	docTrack      = "track"
	docClass      = "class"
	docUnit       = "unit"
	docPerson     = "person"
	docSeason     = "season"
	docNight      = "night"
	docSet        = "variant set"
	docTable      = "fork table"
)

// facts is everything known of one academy at one revision, as the core's
// types. It is read-only once made.
type facts struct {
	name      string
	revision  int64
	settings  academy.Settings
	lib       *library.Library
	positions []library.Position
	sets      []library.VariantSet
	tables    []library.ForkTable
	ladders   map[string]curriculum.Ladder
	curricula []curriculum.Curriculum
	tracks    map[string]academy.Track
	classes   []academy.Class
	units     []academy.Unit
	people    []academy.Person // by name
	person    map[string]academy.Person
	seasons   []academy.Season // by start
	nights    map[string]academy.Night
	versions  map[string]int             // kind/id
	bodies    map[string]json.RawMessage // kind/id, as kept: what undo compares with
	log       []store.Fact
	came      map[string]map[string]string // class on a day: student: fact
	byStudent map[string][]string          // student: classes on days
	moved     map[string]string            // student: the curriculum they were moved to last
	audits    *sync.Map                    // curriculum: what its audit said
	likely    *sync.Map                    // day: everybody's chances of coming
	taught    map[string]record
	checks    []check
	standings map[string][]ledger.Standing
	contents  store.Contents // what it was made of: the next reading takes over what is the same
	parsed    map[string]parsed
	layout    func() library.Layout // of the whole map, computed when it is first asked for
}

// parsed is a document's body as the core's type.
type parsed struct {
	version int
	changed time.Time
	value   any
}

// record is what a class reached, and the fact that says so.
type record struct {
	fact string
	on   calendar.Day
	academy.TaughtBody
}

// check is one check that stands.
type check struct {
	fact    string
	student string
	class   string
	on      calendar.Day
	order   int
	academy.CheckBody
}

// newFacts understands an academy's contents. Documents that had knows already
// are not read again.
func newFacts(c store.Contents, had *facts) (*facts, error) {
	f := &facts{audits: &sync.Map{}, likely: &sync.Map{}, name: c.Name, revision: c.Revision, ladders: map[string]curriculum.Ladder{}, tracks: map[string]academy.Track{}, person: map[string]academy.Person{}, nights: map[string]academy.Night{},
		versions: map[string]int{}, bodies: map[string]json.RawMessage{}, standings: c.Standings, contents: c, parsed: map[string]parsed{}}
	if had == nil {
		had = &facts{}
	}
	var techniques []library.Technique
	fresh := 0
	for _, d := range c.Documents {
		key := d.Kind + "/" + d.ID
		f.versions[key], f.bodies[key] = d.Version, d.Body
		p, ok := had.parsed[key]
		if !ok || p.version != d.Version || !p.changed.Equal(d.Changed) {
			value, err := parse(d)
			if err != nil {
				return nil, fmt.Errorf("%s %s cannot be read: %w", d.Kind, d.ID, err)
			}
			p = parsed{d.Version, d.Changed, value}
			if inLibrary(d.Kind) {
				fresh++
			}
		}
		f.parsed[key] = p
		f.take(d.ID, p.value, &techniques)
	}
	f.settings = f.settings.WithDefaults()
	if f.lib = had.lib; f.lib == nil || fresh > 0 || !sameLibrary(f, had, techniques) {
		f.lib = library.New(f.positions, techniques).With(f.sets, f.tables)
	}
	if f.layout = had.layout; f.lib != had.lib {
		f.layout = sync.OnceValue(f.lib.Map(nil).Layout)
	}
	slices.SortFunc(f.people, func(a, b academy.Person) int { return cmp.Compare(a.Name, b.Name) })
	slices.SortFunc(f.seasons, func(a, b academy.Season) int { return cmp.Compare(a.Start, b.Start) })
	slices.SortFunc(f.classes, func(a, b academy.Class) int {
		return cmp.Or(cmp.Compare(f.weekday(a), f.weekday(b)), cmp.Compare(a.Start, b.Start), cmp.Compare(a.ID, b.ID))
	})
	return f, f.replay(c.Facts)
}

func inLibrary(kind string) bool {
	return kind == docTechnique || kind == docPosition || kind == docSet || kind == docTable
}

// sameLibrary says whether nothing was taken out of the library: what was added
// or changed is known already.
func sameLibrary(f, had *facts, techniques []library.Technique) bool {
	return len(f.positions) == len(had.positions) && len(techniques) == len(had.lib.Techniques()) && len(f.sets) == len(had.sets) && len(f.tables) == len(had.tables)
}

// weekday counts from the academy's first day of the week, 1.
func (f *facts) weekday(c academy.Class) int { return (c.Weekday-f.settings.WeekStart+7)%7 + 1 }

// parse reads a document's body as the core's type; nil for a kind this
// program does not know.
func parse(d store.Document) (any, error) {
	switch d.Kind {
	case docSettings:
		return parsedAs[academy.Settings](d)
	case docPosition:
		return parsedAs[library.Position](d)
	case docTechnique:
		return parsedAs[library.Technique](d)
	case docSet:
		return parsedAs[library.VariantSet](d)
	case docTable:
		return parsedAs[library.ForkTable](d)
	case docLadder:
		return parsedAs[curriculum.Ladder](d)
	case docCurriculum:
		return parsedAs[curriculum.Curriculum](d)
	case docTrack:
		return parsedAs[academy.Track](d)
	case docClass:
		return parsedAs[academy.Class](d)
	case docUnit:
		return parsedAs[academy.Unit](d)
	case docSeason:
		return parsedAs[academy.Season](d)
	case docNight:
		return parsedAs[academy.Night](d)
	case docPerson:
		return parsedAs[academy.Person](d)
	}
	return nil, nil
}

func parsedAs[T any](d store.Document) (any, error) {
	var x T
	err := json.Unmarshal(d.Body, &x)
	return x, err
}

func (f *facts) take(id string, value any, techniques *[]library.Technique) {
	switch x := value.(type) {
	case academy.Settings:
		f.settings = x
	case library.Position:
		f.positions = append(f.positions, x)
	case library.Technique:
		*techniques = append(*techniques, x)
	case library.VariantSet:
		f.sets = append(f.sets, x)
	case library.ForkTable:
		f.tables = append(f.tables, x)
	case curriculum.Ladder:
		f.ladders[id] = x
	case curriculum.Curriculum:
		f.curricula = append(f.curricula, x)
	case academy.Track:
		f.tracks[id] = x
	case academy.Class:
		f.classes = append(f.classes, x)
	case academy.Unit:
		f.units = append(f.units, x)
	case academy.Season:
		f.seasons = append(f.seasons, x)
	case academy.Night:
		f.nights[id] = x
	case academy.Person:
		f.people = append(f.people, x)
		f.person[id] = x
	}
}

// replay takes in the log of facts: those that nothing replaces stand. What
// they say of a technique that was merged since, they say of the one it is now.
func (f *facts) replay(log []store.Fact) error {
	f.log = log
	f.came, f.byStudent, f.taught, f.checks, f.moved = map[string]map[string]string{}, map[string][]string{}, map[string]record{}, nil, map[string]string{}
	replaced := map[string]bool{}
	for _, x := range log {
		replaced[x.Replaces] = true
	}
	for order, x := range log {
		if replaced[x.ID] {
			continue
		}
		switch x.Kind {
		case academy.Attendance:
			if f.came[x.Class] == nil {
				f.came[x.Class] = map[string]string{}
			}
			if f.came[x.Class][x.Student] == "" {
				f.byStudent[x.Student] = append(f.byStudent[x.Student], x.Class)
			}
			f.came[x.Class][x.Student] = x.ID
		case academy.Taught:
			r := record{fact: x.ID, on: x.Day}
			if err := json.Unmarshal(x.Body, &r.TaughtBody); err != nil {
				return fmt.Errorf("fact %s cannot be read: %w", x.ID, err)
			}
			for i := range r.Items {
				r.Items[i].Technique = f.lib.Now(r.Items[i].Technique)
			}
			for i := range r.Faults {
				r.Faults[i].Technique = f.lib.Now(r.Faults[i].Technique)
			}
			f.taught[x.Class] = r
		case academy.Moved:
			var m academy.MovedBody
			if err := json.Unmarshal(x.Body, &m); err != nil {
				return fmt.Errorf("fact %s cannot be read: %w", x.ID, err)
			}
			f.moved[x.Student] = m.To
		case academy.Check:
			c := check{fact: x.ID, student: x.Student, class: x.Class, on: x.Day, order: order}
			if err := json.Unmarshal(x.Body, &c.CheckBody); err != nil {
				return fmt.Errorf("fact %s cannot be read: %w", x.ID, err)
			}
			c.Technique = f.lib.Now(c.Technique)
			f.checks = append(f.checks, c)
		}
	}
	return nil
}

// with is the same academy with some more facts.
func (f *facts) with(more []store.Fact) (*facts, error) {
	after := *f
	after.audits, after.likely = &sync.Map{}, &sync.Map{}
	return &after, after.replay(append(slices.Clone(f.log), more...))
}

// about lists the students a fact concerns, as this revision knows them.
func (f *facts) about(x store.Fact) []string {
	if x.Replaces != "" {
		if i := slices.IndexFunc(f.log, func(y store.Fact) bool { return y.ID == x.Replaces }); i >= 0 && x.Student == "" {
			x.Student = f.log[i].Student
		}
	}
	if x.Student != "" {
		return []string{x.Student}
	}
	var all []string
	for student := range f.came[x.Class] {
		all = append(all, student)
	}
	return all
}

// standingsOf computes a student's standings from the facts alone.
func (f *facts) standingsOf(student string) []ledger.Standing {
	var attended []ledger.Attended
	for _, class := range f.byStudent[student] {
		if r, ok := f.taught[class]; ok {
			attended = append(attended, ledger.Attended{On: r.on, Items: r.Items})
		}
	}
	var checked []ledger.Checked
	for _, c := range f.checks {
		if c.student == student {
			checked = append(checked, c.Stands(c.on, c.order))
		}
	}
	return ledger.Standings(f.lib, attended, checked)
}

func (f *facts) class(id string) (academy.Class, bool) {
	i := slices.IndexFunc(f.classes, func(c academy.Class) bool { return c.ID == id })
	if i < 0 {
		return academy.Class{}, false
	}
	return f.classes[i], true
}

func (f *facts) unit(id string) (academy.Unit, bool) {
	i := slices.IndexFunc(f.units, func(u academy.Unit) bool { return u.ID == id })
	if i < 0 {
		return academy.Unit{}, false
	}
	return f.units[i], true
}

func (f *facts) season(id string) (academy.Season, error) {
	i := slices.IndexFunc(f.seasons, func(s academy.Season) bool { return s.ID == id })
	if i < 0 {
		return academy.Season{}, &Missing{"season", id}
	}
	return f.seasons[i], nil
}

func (f *facts) curriculum(id string) (curriculum.Curriculum, error) {
	i := slices.IndexFunc(f.curricula, func(c curriculum.Curriculum) bool { return c.ID == id })
	if i < 0 {
		return curriculum.Curriculum{}, &Missing{"curriculum", id}
	}
	return f.curricula[i], nil
}

// nameOf is a person's name, or the word given for somebody unknown here.
func (f *facts) nameOf(person string) string {
	if p, ok := f.person[person]; ok {
		return p.Name
	}
	return person
}

// students lists those who train.
func (f *facts) students() []academy.Person {
	var all []academy.Person
	for _, p := range f.people {
		if p.Student {
			all = append(all, p)
		}
	}
	return all
}

// asks is the curriculum a student works on: the one their rank was started
// under, else the published one of the next rank.
func (f *facts) asks(p academy.Person) (curriculum.Curriculum, curriculum.Rank, bool) {
	next, ok := f.ladders[p.Ladder].Next(p.Rank)
	if !ok {
		return curriculum.Curriculum{}, next, false
	}
	best := curriculum.Curriculum{}
	for _, c := range f.curricula {
		if moved := f.moved[p.ID]; c.Ladder == p.Ladder && c.Rank == next.ID && c.ID == cmp.Or(f.startedUnder(moved, next.ID), p.Curriculum) {
			return c, next, true
		}
		if c.Ladder == p.Ladder && c.Rank == next.ID && c.State == "published" && c.Version > best.Version {
			best = c
		}
	}
	return best, next, best.ID != ""
}

// startedUnder is the curriculum a student was moved to, when it is one for
// their next rank; a move at an earlier rank does not count any more.
func (f *facts) startedUnder(moved, rank string) string {
	i := slices.IndexFunc(f.curricula, func(c curriculum.Curriculum) bool { return c.ID == moved && c.Rank == rank })
	if i < 0 {
		return ""
	}
	return moved
}
