package seasons

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/exchange"
)

// TimetablePage is what a season is laid over.
type TimetablePage struct {
	Tracks  []TrackLine  `json:"tracks"`
	Usual   season.Rules `json:"usual" doc:"The rules a new track begins with"`
	Classes []ClassLine  `json:"classes" doc:"In the order of the week"`
	Coaches []CoachLine  `json:"coaches"`
	Signoff []string     `json:"signoffs" doc:"Words for sign-offs in use"`
	Others  []OtherLine  `json:"others" doc:"People who are no coaches"`
}

// ClassLine is a weekly class and the version it is at.
type ClassLine struct {
	academy.Class
	Version int `json:"version" doc:"To be sent with a change of it"`
}

// TrackLine is a track and what hangs on it.
type TrackLine struct {
	academy.Track
	Asks    []say.Sentence `json:"asks" doc:"Its rules in words"`
	Version int            `json:"version" doc:"To be sent with a change of it"`
	Classes int            `json:"classes"`
	Units   int            `json:"units"`
	Assumes []state.Named  `json:"assumes"`
	Warning say.Sentence   `json:"warning,omitempty" doc:"What gates keep out of it because of its least age"`
}

// OtherLine is somebody who is no coach.
type OtherLine struct {
	state.Named
	Version int `json:"version" doc:"To be sent with a change of it"`
}

// CoachLine is a coach's terms.
type CoachLine struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Version int           `json:"version" doc:"To be sent with a change of it"`
	Email   string        `json:"email,omitempty"`
	Terms   academy.Terms `json:"terms"`
}

// Timetable lists tracks, weekly classes and coaches.
func (a *Service) Timetable(ctx context.Context, u state.User) (TimetablePage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TimetablePage{}, err
	}
	page := TimetablePage{Usual: season.UsualRules, Tracks: []TrackLine{}, Classes: []ClassLine{}, Coaches: []CoachLine{}, Signoff: f.signoffWords(), Others: []OtherLine{}}
	for _, c := range f.Classes {
		page.Classes = append(page.Classes, ClassLine{c, f.Version(documents.Class, c.ID)})
	}
	for _, t := range f.Tracks {
		l := TrackLine{Asks: asks(t), Track: t, Version: f.Version(documents.Track, t.ID), Assumes: []state.Named{}, Warning: f.GateWarning(t)}
		for _, c := range f.Classes {
			if c.Track == t.ID {
				l.Classes++
			}
		}
		for _, x := range f.Units {
			if slices.Contains(x.Tracks, t.ID) {
				l.Units++
			}
			if slices.Contains(t.Assumed, x.ID) {
				l.Assumes = append(l.Assumes, state.Named{ID: x.ID, Name: x.Name})
			}
		}
		page.Tracks = append(page.Tracks, l)
	}
	slices.SortFunc(page.Tracks, func(x, y TrackLine) int { return cmp.Compare(x.Name, y.Name) })
	for _, p := range f.Active() {
		if p.Coach == nil {
			page.Others = append(page.Others, OtherLine{state.Named{ID: p.ID, Name: p.Name}, f.Version(documents.Person, p.ID)})
			continue
		}
		t := *p.Coach
		if t.Out == nil {
			t.Out = []academy.Span{}
		}
		page.Coaches = append(page.Coaches, CoachLine{p.ID, p.Name, f.Version(documents.Person, p.ID), p.Email, t})
	}
	return page, nil
}

// signoffWords are the sign-offs of the academy's list, and those that units ask for and coaches hold besides.
func (f *snapshot) signoffWords() []string {
	words := append([]string{}, f.Settings.Signoffs...)
	for _, u := range f.Units {
		if u.Signoff != "" {
			words = append(words, u.Signoff)
		}
	}
	for _, p := range f.Active() {
		if p.Coach != nil {
			words = append(words, p.Coach.Signoffs...)
		}
	}
	slices.Sort(words)
	return slices.Compact(words)
}

// SaveTrack keeps a track; without an identifier it is a new one.
func (a *Service) SaveTrack(ctx context.Context, u state.User, t academy.Track, version int) (id, change string, err error) {
	change, err = state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if id, err = f.keptAs(b, documents.Track, t.ID, t.Name, version); err != nil {
			return err
		}
		if err := state.InvalidAll(f.CheckTrack(t)); err != nil {
			return err
		}
		kept := t
		kept.ID = id
		return b.Put(documents.Track, id, kept)
	})
	return id, change, err
}

// keptAs is the identifier a record is kept under, and says what is done. version is the one it was
// read at; a record without an identifier is new and gets one of its name.
func (f *snapshot) keptAs(b *state.Change, kind, given, name string, version int) (string, error) {
	if given == "" {
		b.Summary = say.F("Added the %s %s", say.Word(kind), name)
		return freshID(name, func(id string) bool { return f.Version(kind, id) != 0 }), nil
	}
	b.Summary = say.F("Changed the %s %s", say.Word(kind), name)
	switch f.Version(kind, given) {
	case 0:
		return "", state.NotFound(say.Word(kind), given)
	case version:
		return given, nil
	}
	return "", &state.ConflictError{Thing: say.Raw(name)}
}

// freshID makes an identifier of a name.
func freshID(name string, taken func(string) bool) string {
	base := cmp.Or(library.Identifier(name), "new")
	base = strings.Trim(base[:min(len(base), 50)], "-")
	id := base
	for n := 2; taken(id); n++ {
		id = base + "-" + strconv.Itoa(n)
	}
	return id
}

// Always stands in place of a day where something was never otherwise.
const Always = "always"

// SaveClass keeps a weekly class; without an identifier it is a new one. Other hours hold since a day, and the days before
// keep those they had. Where no day is named that is today for a class that has met, or was planned to; Always says that it was never otherwise.
func (a *Service) SaveClass(ctx context.Context, u state.User, c academy.Class, version int, since string) (id, change string, err error) {
	change, err = state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if id, err = f.keptAs(b, documents.Class, c.ID, c.Name, version); err != nil {
			return err
		}
		kept := c
		kept.ID, kept.Before = id, nil
		if had, there := f.Class(id); there && since != Always && (since != "" || f.met(had)) {
			day := f.Today()
			if since != "" {
				if day, err = calendar.ParseDay(since); err != nil {
					return state.Invalid("since", "%v", err)
				}
			}
			kept.Before = had.Before
			if c.Hours != had.Hours {
				had.From = kept.From
				kept.Before = had.MovedOn(day, c.Hours).Before
			}
		}
		if err := state.InvalidAll(f.CheckClass(kept)); err != nil {
			return err
		}
		return b.Put(documents.Class, id, kept)
	})
	return id, change, err
}

// met says whether a class has a past that other hours would rewrite: something on record, or a season whose first day is over.
func (f *snapshot) met(c academy.Class) bool {
	return len(f.SessionsOf(c.ID)) > 0 || slices.ContainsFunc(f.Seasons, func(s academy.Season) bool { return s.Start < f.Today() })
}

// RemoveClass takes a weekly class out of the timetable. It refuses while a season
// that is not over plans something in it, or classes of it are on record.
func (a *Service) RemoveClass(ctx context.Context, u state.User, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		c, ok := f.Class(id)
		if !ok {
			return state.NotFound("class", id)
		}
		if slices.ContainsFunc(f.SessionsOf(id), func(x *state.Session) bool { return x.Report != nil || len(x.Here()) > 0 }) {
			return state.Invalid("class", "%s has classes on record: close it in the seasons to come instead", c.Name)
		}
		for _, s := range f.Seasons {
			if plan := s.Stands(); plan != nil && s.Start+calendar.Day(7*s.Weeks) > f.Today() {
				for _, x := range plan.Placements {
					if x.Class == id {
						return state.Invalid("class", "%s plans %s in week %d: plan the season without it first", s.Name, c.Name, x.Week)
					}
				}
			}
		}
		writes := map[documents.Ref]any{{Kind: documents.Class, ID: id}: nil}
		for _, p := range f.People {
			if p.Coach != nil && slices.Contains(p.Coach.Available, id) {
				terms := *p.Coach
				terms.Available = slices.DeleteFunc(slices.Clone(terms.Available), func(class string) bool { return class == id })
				p.Coach = &terms
				writes[documents.Ref{Kind: documents.Person, ID: p.ID}] = p
			}
		}
		if err := f.Hanging(writes); err != nil {
			return state.Invalid("class", "%s stays: %v, or close it in the seasons to come instead", c.Name, err)
		}
		b.Summary = say.F("Deleted the class %s", c.Name)
		for _, value := range writes {
			if p, ok := value.(academy.Person); ok {
				if err := b.PutPerson(f.Snapshot, p); err != nil {
					return err
				}
			}
		}
		return b.Put(documents.Class, id, nil)
	})
}

// SaveCoach keeps a coach's terms.
func (a *Service) SaveCoach(ctx context.Context, u state.User, id string, email string, t academy.Terms, version int) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Person[id]
		if !ok {
			return state.NotFound("person", id)
		}
		if f.Version(documents.Person, id) != version {
			return &state.ConflictError{Thing: say.Raw(p.Name)}
		}
		if err := state.InvalidAll(f.CheckTerms(t)); err != nil {
			return err
		}
		if email != "" && !academy.Address(email) {
			return state.Invalid("email", "%.80q is not one address such as name@example.net", email)
		}
		b.Summary = say.F("Changed the terms of %s", p.Name)
		if p.Coach == nil {
			b.Summary = say.F("Made %s a coach", p.Name)
		}
		p.Coach, p.Email = &t, email
		return b.PutPerson(f.Snapshot, p)
	})
}

// RemoveCoach ends somebody's coaching. It refuses while a plan has them lead
// something still to come.
func (a *Service) RemoveCoach(ctx context.Context, u state.User, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, ok := f.Person[id]
		if !ok || p.Coach == nil {
			return state.NotFound("coach", id)
		}
		for _, s := range f.Seasons {
			for _, plan := range s.Plans() {
				for _, x := range plan.Placements {
					if c, ok := f.Class(x.Class); ok && x.Lead == id && s.DayOf(x.Week, c) >= f.Today() {
						return state.Invalid("coach", "%s leads %s in week %d of %s: say they are away from then on, and repair the plan first", p.Name, c.Name, x.Week, s.Name)
					}
				}
			}
		}
		p.Coach = nil
		b.Summary = say.F("%s is no coach any more", p.Name)
		return b.PutPerson(f.Snapshot, p)
	})
}

// SetClosures says when a season is closed. was is what the form began with: where
// somebody else set them meanwhile, nothing is kept.
func (a *Service) SetClosures(ctx context.Context, u state.User, id string, closures, was []academy.Closure) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		s, err := f.FindSeason(id)
		if err != nil {
			return err
		}
		if !slices.Equal(s.Closures, was) {
			return &state.ConflictError{Thing: say.F("The closures of %s", s.Name)}
		}
		s.Closures = closures
		if err := state.InvalidAll(s.Check(f.Classes)); err != nil {
			return err
		}
		b.Summary = say.F("Set the closures of %s: %d", s.Name, len(closures))
		return b.Put(documents.Season, s.ID, s)
	})
}

// TimetableRow is one class an imported timetable would bring.
type TimetableRow struct {
	Line    int           `json:"line,omitempty"`
	Class   academy.Class `json:"class"`
	Summary string        `json:"summary" doc:"What will happen"`
	Wrong   string        `json:"wrong,omitempty" doc:"Why not, and the fix"`
}

// TimetablePreview is what an imported timetable would do, row by row.
type TimetablePreview struct {
	Rows  []TimetableRow `json:"rows"`
	Left  []string       `json:"left" doc:"What is left out, and why"`
	Wrong int            `json:"wrong"`
	New   int            `json:"new"`
}

var timetableColumns = map[string][]string{
	"name": {"name", "class", "title"}, "track": {"track"}, "weekday": {"weekday", "day"}, "start": {"start", "time", "from"},
	"minutes": {"minutes", "length", "duration"}, "teach": {"teach minutes", "teaching", "teach"}, "mat": {"mat", "room", "place"},
}

var weekdayWords = []string{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"}

// PreviewTimetable says what a timetable as CSV or iCalendar would bring. track
// is the one for classes whose track is not named.
func (a *Service) PreviewTimetable(ctx context.Context, u state.User, file exchange.TextFile, track string) (TimetablePreview, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TimetablePreview{}, err
	}
	return a.readTimetable(f, file, track)
}

func (a *Service) readTimetable(f *snapshot, file exchange.TextFile, track string) (TimetablePreview, error) {
	p := TimetablePreview{Rows: []TimetableRow{}, Left: []string{}}
	if strings.Contains(string(file.Text[:min(len(file.Text), 200)]), "BEGIN:VCALENDAR") {
		classes, left, err := exchange.ReadTimetableCalendar(file.Text, f.Zone, f.Today())
		if err != nil {
			return p, state.Invalid("file", "%v", err)
		}
		p.Left = append(p.Left, left...)
		for _, c := range classes {
			c.TeachMinutes = c.Minutes / 2
			p.row(f, 0, c, "", track)
		}
		return p, nil
	}
	s, err := exchange.ReadCSV(file.Name, file.Text, timetableColumns)
	if err != nil {
		return p, state.Invalid("file", "%v", err)
	}
	for _, r := range s.Rows {
		c := academy.Class{Name: s.Get(r, "name"), Hours: academy.Hours{Start: s.Get(r, "start"), Mat: s.Get(r, "mat")}}
		if len(c.Start) == 4 {
			c.Start = "0" + c.Start
		}
		day := strings.ToLower(s.Get(r, "weekday"))
		c.Weekday, _ = strconv.Atoi(day)
		for i, w := range weekdayWords {
			if len(day) >= 2 && strings.HasPrefix(w, day) {
				c.Weekday = i + 1
			}
		}
		c.Minutes, _ = strconv.Atoi(s.Get(r, "minutes"))
		if c.TeachMinutes, err = strconv.Atoi(s.Get(r, "teach")); err != nil {
			c.TeachMinutes = c.Minutes / 2
		}
		p.row(f, r.Line, c, s.Get(r, "track"), track)
	}
	return p, nil
}

func (p *TimetablePreview) row(f *snapshot, line int, c academy.Class, named, track string) {
	c.Track = track
	for _, t := range f.Tracks {
		if named != "" && (strings.EqualFold(t.Name, named) || t.ID == named) {
			c.Track, named = t.ID, ""
		}
	}
	row := TimetableRow{Line: line, Class: c, Summary: "Added"}
	if named != "" {
		row.Wrong = fmt.Sprintf("There is no track %q: add it first, or write another.", named)
	}
	for _, had := range f.Classes {
		if had.Name == c.Name && had.Weekday == c.Weekday && had.Start == c.Start {
			row.Class.ID, row.Summary = had.ID, "Is there already: changed to this"
			if had.Track == c.Track && had.Minutes == c.Minutes && had.TeachMinutes == c.TeachMinutes && had.Mat == c.Mat {
				row.Summary = "Is there already"
			}
		}
	}
	if found := f.CheckClass(c); row.Wrong == "" && len(found) > 0 {
		row.Wrong = found[0].Error()
	}
	switch {
	case row.Wrong != "":
		p.Wrong++
		row.Summary = ""
	case row.Class.ID == "":
		p.New++
	}
	p.Rows = append(p.Rows, row)
}

// TakeTimetable brings a timetable in, all of it or nothing. Taken twice it is
// the same as once.
func (a *Service) TakeTimetable(ctx context.Context, u state.User, file exchange.TextFile, track string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		p, err := a.readTimetable(f, file, track)
		if err != nil {
			return err
		}
		for _, r := range p.Rows {
			if r.Wrong != "" {
				return state.Invalid("file", "line %d, %s: %s", r.Line, r.Class.Name, r.Wrong)
			}
		}
		taken := map[string]bool{}
		for _, r := range p.Rows {
			c := r.Class
			if had, there := f.Class(c.ID); there {
				c.From, c.Until, c.Before = had.From, had.Until, had.MovedOn(f.Today(), c.Hours).Before
			}
			if c.ID == "" {
				c.ID = freshID(c.Name, func(x string) bool { _, had := f.Class(x); return had || taken[x] })
			}
			taken[c.ID] = true
			if err := b.Put(documents.Class, c.ID, c); err != nil {
				return err
			}
		}
		b.Summary = say.F("Brought in a timetable: %d classes", len(p.Rows))
		return nil
	})
}

// asks are the rules of a track in words.
func asks(t academy.Track) []say.Sentence {
	words := []say.Sentence{}
	for _, r := range t.Rules.Named() {
		words = append(words, r.Words)
	}
	return words
}
