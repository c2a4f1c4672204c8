package students

import (
	"cmp"
	"slices"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
)

const (
	mostPractise = 6 // of each kind
	mostDue      = 8
)

// own fills in what a student wants to know: where they stand by position, what faded, what to practise.
func (f *snapshot) own(page *StudentPage, p academy.Person, u state.User, on calendar.Day) {
	page.Positions, page.Cells, page.Due = []PositionHead{}, []PositionCell{}, []FadingLine{}
	page.Practise = Practise{Alone: []state.Named{}, Partner: []state.Named{}, Tables: []state.Named{}}
	for _, c := range f.positionRow(p, u, on).Cells {
		id := ""
		if all := f.Library.Positions(); c.At < len(all) {
			id = all[c.At].ID
		}
		at := slices.IndexFunc(page.Positions, func(h PositionHead) bool { return h.ID == id })
		if at < 0 {
			at = len(page.Positions)
			head := PositionHead{ID: id, Name: "Movements"}
			if x, ok := f.Library.Position(id); ok {
				head.Name, head.Family = say.Raw(x.Name), string(x.Family)
			}
			page.Positions = append(page.Positions, head)
		}
		c.At = at
		if c.Part == library.Defend {
			page.Positions[at].Defend = true
		} else {
			page.Positions[at].Attack = true
		}
		page.Cells = append(page.Cells, c)
	}
	for _, s := range f.Standings(p.ID) {
		if s.Due(on, f.Settings.Standing) {
			page.Due = append(page.Due, FadingLine{s.Technique, f.Library.Name(s.Technique), s.Side, s.Retention(on)})
		}
	}
	slices.SortStableFunc(page.Due, func(a, b FadingLine) int { return cmp.Compare(a.Share, b.Share) })
	page.Due = page.Due[:min(mostDue, len(page.Due))]
	f.practise(page, p, on)
}

// practise lists what can be worked on: alone the movements that are missing or that what is missing stands on; with a partner what they were shown.
func (f *snapshot) practise(page *StudentPage, p academy.Person, on calendar.Day) {
	add := func(to *[]state.Named, t library.Technique) {
		if len(*to) < mostPractise && !slices.ContainsFunc(*to, func(n state.Named) bool { return n.ID == t.ID }) && len(f.Refusals(p, t, on)) == 0 {
			*to = append(*to, state.Named{ID: t.ID, Name: t.Name})
		}
	}
	for _, g := range page.Readiness.Missing {
		t, ok := f.Library.Technique(g.Technique)
		if !ok {
			continue
		}
		if t.Kind == library.Movement {
			add(&page.Practise.Alone, t)
			continue
		}
		for _, before := range t.Prerequisites {
			if m, ok := f.Library.Technique(before.Technique); ok && m.Kind == library.Movement {
				add(&page.Practise.Alone, m)
			}
		}
		if g.Due || g.Has.Step() >= curriculum.Met.Step() {
			add(&page.Practise.Partner, t)
		}
	}
	for _, table := range f.Library.ForkTables() {
		if slices.ContainsFunc(page.Positions, func(h PositionHead) bool { return h.ID == table.At.Position }) {
			page.Practise.Tables = append(page.Practise.Tables, state.Named{ID: table.ID, Name: table.Name})
		}
	}
}
