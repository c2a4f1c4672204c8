package people

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
	"vereda/store"
)

// rosterColumns are what the columns of a roster may be called.
var rosterColumns = map[string][]string{
	"id": {"id", "identifier"}, "name": {"name", "full name", "student", "member"}, "first": {"first name", "given name", "forename"}, "last": {"last name", "surname", "family name"},
	"called": {"called", "nickname", "known as"}, "birth": {"birth", "birth date", "date of birth", "born", "birthday", "dob"}, "weight": {"weight", "weight kg", "kg"}, "jacket": {"jacket", "gi"},
	"ladder": {"ladder"}, "rank": {"rank", "belt", "grade"}, "stripes": {"stripes"}, "since": {"rank since", "since", "promoted"}, "joined": {"joined", "member since", "start"},
	"email": {"email", "e-mail", "mail"}, "guardian": {"guardian", "parent"}, "guardian email": {"guardian email", "parent email", "guardian e-mail"}, "guardian phone": {"guardian phone", "parent phone", "phone"}, "language": {"language"}, "role": {"role"},
}

// RosterRow is one row of a roster and what will become of it.
type RosterRow struct {
	Line    int            `json:"line"`
	Name    string         `json:"name"`
	Do      string         `json:"do" enum:"add,change,same,leave,ask,wrong"`
	Summary say.Sentence   `json:"summary" doc:"What will happen"`
	Wrong   []say.Sentence `json:"wrong" doc:"What is wrong, and the fix"`
	Like    []state.Named  `json:"like" doc:"Who is here already and may be the same person"`
	Rank    string         `json:"rank"`
	person  academy.Person
}

// RosterPreview is what a roster would bring, row by row.
type RosterPreview struct {
	Rows    []RosterRow  `json:"rows"`
	Summary say.Sentence `json:"summary"`
	Ready   bool         `json:"ready" doc:"Nothing is wrong and nothing is left to decide"`
}

// RosterDecision says of a row whom it is: somebody who is here, somebody new, or nobody to be taken.
type RosterDecision struct {
	Line int    `json:"line"`
	As   string `json:"as" maxLength:"100" doc:"new, leave, or the identifier of somebody here"`
}

// PreviewRoster says what a roster would bring. Nothing is written.
func (a *Service) PreviewRoster(ctx context.Context, u state.User, file exchange.TextFile, decisions []RosterDecision) (RosterPreview, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return RosterPreview{}, err
	}
	return f.readRoster(ctx, file, decisions)
}

// TakeRoster keeps a roster: all of it or nothing. Taken again it changes nothing. It is read while others go on, and read again
// where the records changed meanwhile.
func (a *Service) TakeRoster(ctx context.Context, u state.User, file exchange.TextFile, decisions []RosterDecision) (string, error) {
	var p RosterPreview
	return state.KeepComputed(ctx, a.State, u, "the roster",
		func(f *snapshot) int64 { return f.Revision },
		func(f *snapshot) (err error) {
			if p, err = f.readRoster(ctx, file, decisions); err != nil {
				return err
			}
			return p.complete()
		},
		func(f *snapshot, b *state.Change) error {
			added, changed := 0, 0
			for _, r := range p.Rows {
				switch r.Do {
				case "add":
					added++
				case "change":
					changed++
				default:
					continue
				}
				if err := b.PutPerson(f.Snapshot, r.person); err != nil {
					return err
				}
			}
			if added+changed == 0 {
				return state.Invalid("file", "everybody in it is here already, as it says: there is nothing to import")
			}
			b.Summary = say.F("Imported a roster: %d added, %d changed", added, changed)
			return nil
		})
}

// complete says which line is wrong, or waits for a decision.
func (p RosterPreview) complete() error {
	if p.Ready {
		return nil
	}
	for _, r := range p.Rows {
		if r.Do == "wrong" {
			return state.Invalid("file", "line %d, %s: %s", r.Line, r.Name, r.Wrong[0])
		}
		if r.Do == "ask" {
			return state.Invalid("decisions", "line %d, %s: say whether they are %s", r.Line, r.Name, r.Like[0].Name)
		}
	}
	return nil
}

// rosterReader is one reading of a roster: who is here, by their names.
type rosterReader struct {
	*snapshot
	sheet  exchange.Sheet
	called map[string][]academy.Person // by folded name
	names  []library.PersonName        // of everybody, in the order of People
	taken  map[string]bool             // identifiers that rows before have got
}

// readRoster reads a roster among those who are here. Costs rows × people, each a few comparisons.
func (f *snapshot) readRoster(ctx context.Context, file exchange.TextFile, decisions []RosterDecision) (RosterPreview, error) {
	p := RosterPreview{Rows: []RosterRow{}, Ready: true}
	s, err := exchange.ReadCSV(file.Name, file.Text, rosterColumns)
	if err != nil {
		return p, state.Invalid("file", "%v", err)
	}
	if !s.Has("name") && !s.Has("last") && !s.Has("first") {
		return p, state.Invalid("file", "%s: no column is called name: call one name, or first name and last name", file.Name)
	}
	if len(s.Rows) > mostRoster {
		return p, state.Invalid("file", "%s: it holds %d lines, and %d can be read at once: send it in parts", file.Name, len(s.Rows), mostRoster)
	}
	as := map[int]string{}
	for _, d := range decisions {
		as[d.Line] = d.As
	}
	r := rosterReader{f, s, map[string][]academy.Person{}, make([]library.PersonName, len(f.People)), map[string]bool{}}
	for i, x := range f.People {
		r.names[i] = library.NewPersonName(x.Name)
	}
	for _, x := range f.AsWritten() {
		name := library.Fold(x.Name)
		r.called[name] = append(r.called[name], x)
	}
	count := map[string]int{}
	for _, line := range s.Rows {
		if err := ctx.Err(); err != nil {
			return p, err
		}
		row := r.row(line, as[line.Line])
		count[row.Do]++
		p.Ready = p.Ready && row.Do != "wrong" && row.Do != "ask"
		p.Rows = append(p.Rows, row)
	}
	if count["add"]+count["change"]+count["wrong"]+count["ask"] == 0 {
		p.Ready = false
	}
	p.Summary = say.F("%d to add, %d to change, %d the same", count["add"], count["change"], count["same"])
	for _, x := range []struct {
		do    string
		words say.Sentence
	}{{"leave", "%s, %d left out"}, {"ask", "%s, %d to decide"}, {"wrong", "%s, %d wrong"}} {
		if n := count[x.do]; n > 0 {
			p.Summary = say.F(x.words, p.Summary, n)
		}
	}
	return p, nil
}

// mostRoster is how many lines of people can be read at once.
const mostRoster = 5000

// row reads one row. Of what a cell leaves empty, what is known stays.
func (f rosterReader) row(r exchange.SheetRow, as string) RosterRow {
	get := func(column string) string { return f.sheet.Get(r, column) }
	taken := f.taken
	row := RosterRow{Line: r.Line, Wrong: []say.Sentence{}, Like: []state.Named{}}
	row.Name = cmp.Or(get("name"), strings.TrimSpace(get("first")+" "+get("last")))
	bad := func(format say.Sentence, args ...any) { row.Wrong = append(row.Wrong, say.F(format, args...)) }
	day := func(column string, to *calendar.Day) bool {
		text := get(column)
		if text == "" {
			return false
		}
		d, err := exchange.LooseDay(text)
		if err != nil {
			bad("%s: %v", column, err)
			return false
		}
		*to = d
		return true
	}
	was, known := academy.Person{}, false
	switch {
	case as != "" && as != "new" && as != "leave":
		if was, known = f.Written(as); !known {
			bad("%.64q is nobody here", as)
		}
	case as == "":
		was, known = f.whoIs(get("id"), row.Name, get("birth"), get("email"))
		if !known {
			row.Like = f.like(row.Name)
		}
	}
	p := was
	if !known {
		p = academy.Person{Student: true, Joined: f.Today(), RankSince: f.Today()}
	}
	p.Name = row.Name
	set := func(column string, to *string) {
		if v := get(column); v != "" {
			*to = v
		}
	}
	set("called", &p.Called)
	set("email", &p.Email)
	set("language", &p.Language)
	set("jacket", &p.Jacket)
	var birth calendar.Day
	if day("birth", &birth) {
		p.Birth = &birth
	}
	day("joined", &p.Joined)
	if !known && p.Joined != f.Today() {
		p.RankSince = p.Joined
	}
	day("since", &p.RankSince)
	if text := get("weight"); text != "" {
		if w, err := strconv.ParseFloat(strings.Replace(strings.TrimSuffix(strings.TrimSpace(text), "kg"), ",", ".", 1), 64); err != nil {
			bad("weight: %.20q is not a number of kilograms", text)
		} else {
			p.Weight = w
		}
	}
	if text := get("stripes"); text != "" {
		if n, err := strconv.Atoi(text); err != nil {
			bad("stripes: %.20q is not a whole number", text)
		} else {
			p.Stripes = n
		}
	}
	if g := (academy.Guardian{Name: get("guardian"), Email: get("guardian email"), Phone: get("guardian phone")}); g != (academy.Guardian{}) && g.Name != "" {
		p.Guardian = &g
	}
	switch role := strings.ToLower(get("role")); {
	case role == "", strings.Contains(role, "student"), strings.Contains(role, "member"):
	case strings.Contains(role, "coach"), strings.Contains(role, "instructor"):
		p.Student = false
		if p.Coach == nil {
			p.Coach = &academy.Terms{Available: []string{}, Signoffs: []string{}, MaxPerWeek: 3, Share: 0.2}
			for _, c := range f.Classes { // to be narrowed where coaches are
				p.Coach.Available = append(p.Coach.Available, c.ID)
			}
		}
	default:
		bad("role: %.40q: say student or coach", role)
	}
	if err := f.rosterRank(&p, get("ladder"), get("rank")); err != "" && !(known && get("rank") == "") {
		bad("%s", err)
	}
	row.Rank = f.RankOf(p).Name
	if !known {
		if p.ID = get("id"); p.ID == "" || library.Slug(p.ID) != p.ID || taken[p.ID] {
			p.ID = f.newPerson(p.Name, taken)
		}
	}
	taken[p.ID] = true
	for _, x := range f.CheckPerson(p) {
		bad("%s: %s", x.Field, x.What)
	}
	row.person = p
	switch {
	case as == "leave":
		row.Do, row.Summary, row.Wrong = "leave", "Left out", []say.Sentence{}
	case len(row.Wrong) > 0:
		row.Do, row.Summary = "wrong", row.Wrong[0]
	case known && store.SameAsJSON(f.withDecided(was), f.withDecided(p)):
		row.Do, row.Summary = "same", "Is here already, as it says"
	case known:
		row.Do, row.Summary = "change", say.F("Changes %s", was.Name)
	case len(row.Like) > 0 && as != "new":
		row.Do, row.Summary = "ask", say.F("May be %s", row.Like[0].Name)
	default:
		row.Do, row.Summary = "add", "Adds them"
		if row.Rank != "" {
			row.Summary = say.F("Adds them, %s", strings.ToLower(row.Rank))
		}
		if p.Coach != nil {
			row.Summary = say.F("%s, a coach for %d of the weekly classes: narrow that under Coaches", row.Summary, len(p.Coach.Available))
		}
	}
	return row
}

// withDecided puts the rank that was decided in the place of what a roster says: a roster promotes nobody.
func (f *snapshot) withDecided(p academy.Person) academy.Person {
	if len(f.Promotions(p.ID)) > 0 {
		had := f.Snapshot.Person[p.ID]
		p.Ladder, p.Rank, p.RankSince, p.Stripes = had.Ladder, had.Rank, had.RankSince, had.Stripes
	}
	return p
}

// whoIs finds somebody here by identifier, or by name with the same birth date or address where they are told.
func (f rosterReader) whoIs(id, name, birth, email string) (academy.Person, bool) {
	if p, ok := f.Written(id); ok && id != "" {
		return p, true
	}
	var found []academy.Person
	for _, p := range f.called[library.Fold(name)] {
		if d, err := exchange.LooseDay(birth); err == nil && p.Birth != nil && *p.Birth != d {
			continue
		}
		if email != "" && p.Email != "" && !strings.EqualFold(email, p.Email) {
			continue
		}
		found = append(found, p)
	}
	if len(found) == 1 {
		return found[0], true
	}
	return academy.Person{}, false
}

// like lists who is here under nearly the same name.
func (f rosterReader) like(name string) []state.Named {
	all := []state.Named{}
	wanted := library.NewPersonName(name)
	for i, p := range f.People {
		if len(all) < mostLike && f.names[i].Near(wanted) {
			all = append(all, state.Named{ID: p.ID, Name: p.Name})
		}
	}
	return all
}

// mostLike is how many who may be meant are named.
const mostLike = 5

// rosterRank reads where somebody stands: a rank by its name or its belt, on the ladder that is named, else on the one for their age.
func (f *snapshot) rosterRank(p *academy.Person, ladder, rank string) say.Sentence {
	if rank == "" && p.Rank != "" || !p.Student && rank == "" {
		return ""
	}
	ids := make([]string, 0, len(f.Ladders))
	for id := range f.Ladders {
		ids = append(ids, id)
	}
	age, known := p.Age(f.Today())
	audience := "adult"
	if known && age < 16 {
		audience = "youth"
	}
	slices.SortFunc(ids, func(x, y string) int {
		fits := func(id string) int {
			if f.Ladders[id].Audience == audience {
				return 0
			}
			return 1
		}
		return cmp.Or(cmp.Compare(fits(x), fits(y)), cmp.Compare(x, y))
	})
	for _, id := range ids {
		l := f.Ladders[id]
		if ladder != "" && library.Fold(ladder) != library.Fold(l.Name) && ladder != id {
			continue
		}
		for i, r := range l.Ranks {
			if rank == "" && i == 0 || library.Fold(rank) == library.Fold(r.Name) || library.Fold(rank) == library.Fold(r.ID) || library.Fold(rank) == library.Fold(r.Belt) || library.Fold(strings.TrimSuffix(strings.ToLower(rank), " belt")) == library.Fold(r.Belt) {
				p.Ladder, p.Rank = id, r.ID
				return ""
			}
		}
	}
	if len(ids) == 0 {
		return "rank: there is no ladder yet: add one first"
	}
	return say.F("rank: %.40q is on no ladder here: write it as the ladder does, or add it there", rank)
}

// Roster is everybody as CSV: what PreviewRoster reads.
func (a *Service) Roster(ctx context.Context, u state.User) ([]byte, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	rows := [][]string{{"id", "name", "called", "birth", "weight", "jacket", "ladder", "rank", "stripes", "rank since", "joined", "email", "guardian", "guardian email", "guardian phone", "language", "role"}}
	for _, p := range f.Active() {
		if p.Guest != "" {
			continue
		}
		birth, weight, role, g := "", "", "student", academy.Guardian{}
		if p.Birth != nil {
			birth = p.Birth.String()
		}
		if p.Weight > 0 {
			weight = strconv.FormatFloat(p.Weight, 'f', -1, 64)
		}
		if p.Guardian != nil {
			g = *p.Guardian
		}
		if !p.Student {
			role = "coach"
		}
		stripes := ""
		if p.Stripes > 0 {
			stripes = strconv.Itoa(p.Stripes)
		}
		rows = append(rows, []string{p.ID, p.Name, p.Called, birth, weight, p.Jacket, f.Ladders[p.Ladder].Name, f.RankOf(p).Name, stripes, p.RankSince.String(), p.Joined.String(), p.Email, g.Name, g.Email, g.Phone, p.Language, role})
	}
	return exchange.WriteCSV(rows)
}
