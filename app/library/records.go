package library

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
)

// RecordKind is a kind of record whose states can be read, as the interface names it: those of the library, and the settings.
type RecordKind string

// The kinds of records.
const (
	TechniqueRecord RecordKind = documents.Technique
	PositionRecord  RecordKind = documents.Position
	SetRecord       RecordKind = documents.VariantSet
	TableRecord     RecordKind = documents.ForkTable
	SettingsRecord  RecordKind = documents.Settings
)

// version says at which version a record is; 0 when it is not there.

// AddTechnique keeps a new technique. Its identifier is made of its name when it
// has none.
func (a *Service) AddTechnique(ctx context.Context, u state.User, t library.Technique) (id, change string, err error) {
	if t.ID == "" {
		t.ID = library.Identifier(t.Name)
	}
	change, err = a.KeepRecord(ctx, u, documents.Technique, t.ID, t.Name, 0, t, func(f *state.Snapshot) []validation.Problem {
		found := append(f.Library.Check(t), a.CheckMedia(u.Academy, t)...)
		if into := f.Library.Now(t.ID); into != t.ID {
			found = append(found, validation.Problem{Field: "id", What: say.F("%q was merged into %s: give this one another identifier", t.ID, f.Library.Name(into))})
		}
		return found
	})
	return t.ID, change, err
}

// SavePosition keeps a position; version 0 makes a new one.
func (a *Service) SavePosition(ctx context.Context, u state.User, p library.Position, version int) (id, change string, err error) {
	if p.ID == "" {
		p.ID = library.Identifier(p.Name)
	}
	change, err = a.KeepRecord(ctx, u, documents.Position, p.ID, p.Name, version, p, func(*state.Snapshot) []validation.Problem { return library.CheckPosition(p) })
	return p.ID, change, err
}

// SaveVariants keeps a variant set; version 0 makes a new one.
func (a *Service) SaveVariants(ctx context.Context, u state.User, s library.VariantSet, version int) (id, change string, err error) {
	if s.ID == "" {
		s.ID = library.Identifier(s.Name)
	}
	change, err = a.KeepRecord(ctx, u, documents.VariantSet, s.ID, s.Name, version, s, func(f *state.Snapshot) []validation.Problem { return f.Library.CheckVariants(s) })
	return s.ID, change, err
}

// PositionLine is a position with what starts from it.
type PositionLine struct {
	library.Position
	Version int `json:"version"`
	Attack  int `json:"attack" doc:"Techniques that start from the attacker's part"`
	Defend  int `json:"defend" doc:"Techniques that start from the defender's part"`
	Into    int `json:"into" doc:"Techniques that lead here"`
}

// Positions lists the positions by family.
func (a *Service) Positions(ctx context.Context, u state.User) ([]PositionLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []PositionLine{}
	at := map[string]int{}
	for i, p := range f.Library.Positions() {
		at[p.ID] = i
		if p.Aliases == nil {
			p.Aliases = []string{}
		}
		all = append(all, PositionLine{Position: p, Version: f.Version(documents.Position, p.ID)})
	}
	for _, t := range f.Library.Techniques() {
		if t.From != nil {
			if t.From.Part == library.Attack {
				all[at[t.From.Position]].Attack++
			} else {
				all[at[t.From.Position]].Defend++
			}
		}
		if t.To != nil {
			all[at[t.To.Position]].Into++
		}
	}
	return all, nil
}

// SetPage is a variant set with the names in it.
type SetPage struct {
	library.VariantSet
	Version int                 `json:"version"`
	Names   map[string]string   `json:"names"`
	Grid    library.VariantGrid `json:"grid" doc:"Without rows when the set names no choices"`
}

// VariantSets lists the variant sets by name.
func (a *Service) VariantSets(ctx context.Context, u state.User) ([]SetPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []SetPage{}
	for _, s := range f.Library.VariantSets() {
		p := SetPage{VariantSet: s, Version: f.Version(documents.VariantSet, s.ID), Names: map[string]string{}, Grid: s.Grid()}
		for _, v := range s.Variants {
			p.Names[v.Technique] = f.Library.Name(v.Technique)
		}
		all = append(all, p)
	}
	return all, nil
}

// DeleteRecord takes a record out of the library. What others speak of stays:
// the refusal says who does.
func (a *Service) DeleteRecord(ctx context.Context, u state.User, kind RecordKind, id string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		if f.Version(string(kind), id) == 0 || !documents.InLibrary(string(kind)) {
			return state.NotFound(say.Word(kind), id)
		}
		name, used := f.usesOf(kind, id)
		if len(used) > 0 {
			return state.Invalid("id", "%s is spoken of by %s: remove it there first, or merge it into another record", name, say.Few(used, 4))
		}
		b.Summary = say.F("Deleted %s", name)
		return b.Put(string(kind), id, nil)
	})
}

// usesOf lists what speaks of a record.
func (f *snapshot) usesOf(kind RecordKind, id string) (name string, used []say.Sentence) {
	add := func(who say.Sentence) {
		if !slices.Contains(used, who) {
			used = append(used, who)
		}
	}
	place := func(who say.Sentence, p *library.Place) {
		if p != nil && p.Position == id {
			add(who)
		}
	}
	switch kind {
	case PositionRecord:
		for _, t := range f.Library.Techniques() {
			place(say.Raw(t.Name), t.From)
			place(say.Raw(t.Name), t.To)
			for _, x := range t.Forks {
				place(say.Raw(t.Name), x.Leaves)
			}
			for _, k := range t.KeyPoints {
				for _, x := range k.Faults {
					place(say.Raw(t.Name), x.LeadsTo)
				}
			}
		}
		for _, t := range f.Library.ForkTables() {
			place(say.F("fork table %s", t.Name), &t.At)
		}
		return f.PositionName(id), used
	case TechniqueRecord:
		f.usesOfTechnique(id, add)
		return f.Library.Name(id), used
	case SetRecord:
		for _, s := range f.Library.VariantSets() {
			if s.ID == id {
				name = s.Name
			}
		}
	case TableRecord:
		t, _ := f.Library.ForkTable(id)
		name = t.Name
	}
	return name, nil
}

func (f *snapshot) usesOfTechnique(id string, add func(who say.Sentence)) {
	for _, t := range f.Library.Techniques() {
		if slices.ContainsFunc(t.Prerequisites, func(p library.Prerequisite) bool { return p.Technique == id }) || slices.Contains(t.SavesFrom, id) || t.ID != id && slices.ContainsFunc(t.Forks, func(x library.Fork) bool { return x.Answer == id }) {
			add(say.Raw(t.Name))
		}
	}
	for _, s := range f.Library.VariantSets() {
		if slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == id }) {
			add(say.F("variants %s", s.Name))
		}
	}
	for _, t := range f.Library.ForkTables() {
		if slices.ContainsFunc(t.Rows, func(r library.Row) bool { return r.Then == id }) {
			add(say.F("fork table %s", t.Name))
		}
	}
	for _, c := range f.Curricula {
		if _, ok := c.Find(id); ok {
			add(say.F("the curriculum for %s", c.Rank))
		}
	}
	for _, x := range f.Units {
		if x.Movement == id || slices.Contains(x.Techniques, id) {
			add(say.F("unit %s", x.Name))
		}
	}
	for c := range f.AllChecks {
		if f.Library.Now(c.Technique) == id {
			add("checks on record")
			break
		}
	}
	for session := range f.Log.Sessions {
		has := func(it ledger.Item) bool { return f.Library.Now(it.Technique) == id }
		if session.Report != nil && (slices.ContainsFunc(session.Report.Items, has) || slices.ContainsFunc(session.Report.Makeups, func(m academy.Makeup) bool { return slices.ContainsFunc(m.Items, has) })) {
			add("classes on record")
			break
		}
	}
}

// Duplicates lists the likely duplicates of a technique of the library.
func (a *Service) Duplicates(ctx context.Context, u state.User, id string) ([]LikelyPair, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	t, ok := f.Library.Technique(id)
	if !ok {
		return nil, state.NotFound("technique", id)
	}
	all := []LikelyPair{}
	for _, d := range f.Library.Likeness().Of(t) {
		all = append(all, f.pair(t, d))
	}
	return all, nil
}

// LikelyPair is a likely duplicate, section by section beside what it is like.
type LikelyPair struct {
	library.Duplicate
	Sections []SectionPair `json:"sections"`
}

// SectionPair is one section of two records, in words.
type SectionPair struct {
	Section string `json:"section"`
	Here    string `json:"here" doc:"In the library's record"`
	There   string `json:"there" doc:"In the other one"`
	Same    bool   `json:"same"`
}

func (f *snapshot) pair(t library.Technique, d library.Duplicate) LikelyPair {
	here, _ := f.Library.Technique(d.Technique)
	p := LikelyPair{Duplicate: d, Sections: []SectionPair{}}
	for _, s := range library.Sections {
		x := SectionPair{Section: s, Here: f.sectionWords(here, s), There: f.sectionWords(t, s)}
		x.Same = x.Here == x.There
		p.Sections = append(p.Sections, x)
	}
	return p
}

// sectionWords is a section of a technique as a person compares it.
func (f *snapshot) sectionWords(t library.Technique, section string) string {
	var lines []string
	add := func(format string, args ...any) { lines = append(lines, fmt.Sprintf(format, args...)) }
	switch section {
	case "summary":
		return t.Summary.Read()
	case "way":
		l := f.TechniqueLine(t)
		return fmt.Sprintf("%s: %s → %s", l.Kind, l.From, l.To)
	case "jacket":
		return strings.TrimSpace(string(t.Context) + ". " + t.ContextNote.Read())
	case "caution":
		return t.Caution.Read()
	case "key points":
		for i, k := range t.KeyPoints {
			gate := ""
			if k.Gate {
				gate = " (gate)"
			}
			add("%d. %s%s", i+1, k.Cue.Read(), gate)
		}
	case "forks":
		for _, x := range t.Forks {
			add("%s → %s", x.Reaction.Read(), f.Library.Name(x.Answer))
		}
	case "stands on":
		for _, p := range t.Prerequisites {
			add("%s: %s", f.Library.Name(p.Technique), p.Reason.Read())
		}
	case "bodies":
		for _, b := range t.Bodies {
			add("%s: %s", b.Body, b.Note.Read())
		}
	case "questions":
		for _, q := range t.Questions {
			add("%s", q.Read())
		}
	case "layers":
		for _, y := range t.Layers {
			add("%s: %s", y.Defence, y.Lesson.Read())
		}
	case "drawings":
		for _, d := range t.Drawings {
			add("%s", d.Shows.Read())
		}
	case "drills":
		for _, d := range t.Drills {
			add("%s (%s)", d.Name, d.Form)
		}
	}
	return strings.Join(lines, "\n")
}

// MergeTechniques makes one record of two: keep stays, drop goes, and whatever
// spoke of drop speaks of keep: curricula and units are rewritten, what happened is
// understood anew. One undo takes all of it back.
func (a *Service) MergeTechniques(ctx context.Context, u state.User, keep, drop string, take []string) (string, error) {
	return state.Decide(ctx, a.State, u, func(f *snapshot, b *state.Change) error {
		k, ok := f.Library.Technique(keep)
		d, found := f.Library.Technique(drop)
		switch {
		case !ok:
			return state.NotFound("technique", keep)
		case !found:
			return state.NotFound("technique", drop)
		case k.ID == d.ID:
			return state.Invalid("drop", "%s is that record already", d.Name)
		}
		if err := checkSections(take); err != nil {
			return err
		}
		for _, s := range f.Library.VariantSets() {
			in := func(id string) bool {
				return slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == id })
			}
			if len(s.Variants) == 2 && in(k.ID) && in(d.ID) {
				return state.Invalid("drop", "the two are the whole choice of %s: take that set out first", s.Name)
			}
		}
		b.Summary = say.F("Merged %s into %s", d.Name, k.Name)
		if err := b.Put(documents.Technique, k.ID, library.Merge(k, d, take)); err != nil {
			return err
		}
		if err := b.Put(documents.Technique, d.ID, nil); err != nil {
			return err
		}
		return f.follow(b, d.ID, k.ID)
	})
}

func checkSections(take []string) error {
	for _, s := range take {
		if !slices.Contains(library.Sections, s) {
			return state.Invalid("take", "%q is not a section: choose from %s", s, strings.Join(library.Sections, ", "))
		}
	}
	return nil
}

// follow rewrites what the academy's documents say of a technique that goes by
// another identifier now. Records of the library follow by themselves.
func (f *snapshot) follow(b *state.Change, from, to string) error {
	if s := f.Settings; slices.ContainsFunc(s.Gates, func(g safety.Gate) bool { return g.Technique == from }) {
		s.Gates = slices.Clone(s.Gates)
		for i := range s.Gates {
			if s.Gates[i].Technique == from {
				s.Gates[i].Technique = to
			}
		}
		if err := b.Put(documents.Settings, "settings", s); err != nil {
			return err
		}
	}
	for _, c := range f.Curricula {
		r, ok := c.Find(from)
		if !ok {
			continue
		}
		r.Technique = to
		i := slices.IndexFunc(c.Requirements, func(x curriculum.Requirement) bool { return x.Technique == from })
		c.Requirements = slices.Clone(c.Requirements)
		if j := slices.IndexFunc(c.Requirements, func(x curriculum.Requirement) bool { return x.Technique == to }); j >= 0 {
			had := &c.Requirements[j]
			if r.Rung.Step() > had.Rung.Step() {
				had.Rung = r.Rung
			}
			had.BothSides, had.Weight = had.BothSides || r.BothSides, max(had.Weight, r.Weight)
			c.Requirements = slices.Delete(c.Requirements, i, i+1)
		} else {
			c.Requirements[i] = r
		}
		if err := b.Put(documents.Curriculum, c.ID, c); err != nil {
			return err
		}
	}
	for _, x := range f.Units {
		if x.Movement != from && !slices.Contains(x.Techniques, from) {
			continue
		}
		if x.Movement == from {
			x.Movement = to
		}
		var techniques []string
		for _, t := range x.Techniques {
			if t == from {
				t = to
			}
			if !slices.Contains(techniques, t) {
				techniques = append(techniques, t)
			}
		}
		x.Techniques = techniques
		if err := b.Put(documents.Unit, x.ID, x); err != nil {
			return err
		}
	}
	return nil
}
