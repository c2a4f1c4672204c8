package classes

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
)

// Brief is a class on one page for a coach who did not plan it.
func (a *Service) Brief(ctx context.Context, u state.User, id string, in say.Language) (exchange.Brief, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return exchange.Brief{}, err
	}
	return f.brief(u, id, in)
}

// Briefs are some classes as one document in a language, as a snapshot knows them.
func Briefs(s *state.Snapshot, u state.User, sessions []string, in say.Language) ([]byte, error) {
	f := &snapshot{s}
	all := make([]exchange.Brief, len(sessions))
	for i, id := range sessions {
		var err error
		if all[i], err = f.brief(u, id, in); err != nil {
			return nil, err
		}
	}
	return exchange.WriteBriefsHTML(all)
}

func (f *snapshot) brief(u state.User, id string, in say.Language) (exchange.Brief, error) {
	page, err := f.sessionPage(u, id)
	if err != nil {
		return exchange.Brief{}, err
	}
	c, on, err := f.FindSession(id)
	if err != nil {
		return exchange.Brief{}, err
	}
	lesson := f.Lesson(f.SessionPlan(c, on).Items)
	b := exchange.Brief{Academy: f.Name, Class: c.Name, On: on, Start: c.Start, Minutes: c.Minutes, Mat: c.Mat, Lead: page.Summary.Lead, Note: page.LastNote, NoteBy: page.LastNoteBy.In(in), Cautions: say.TextsIn(in, page.Cautions), Defers: page.Defers.In(in), Why: say.TextsIn(in, page.Series.Why), In: in}
	for _, t := range lesson.Warmup {
		b.Movements = append(b.Movements, t.Name+": "+string(t.On(t.Taught).Summary))
	}
	for _, s := range page.Segments {
		line := exchange.BriefSegment{Minutes: s.Minutes, Name: s.Name.In(in)}
		if s.Repetitions > 0 {
			each := say.F("%d each", s.Repetitions)
			if s.Sides == 2 {
				each = say.F("%d each, each side", s.Repetitions)
			}
			line.Repetitions = each.In(in)
		}
		b.Segments = append(b.Segments, line)
	}
	for _, m := range page.Makeups {
		names := make([]string, len(m.People))
		for i, p := range m.People {
			names[i] = p.Name
		}
		b.Segments = append(b.Segments, exchange.BriefSegment{Minutes: m.Minutes, Name: say.F("Meanwhile, at a station: catch up %s, for %s", m.Name, strings.Join(names, ", ")).In(in)})
	}
	for _, t := range append(slices.Clone(lesson.Teach), lesson.Review...) {
		shown := t.On(t.Taught)
		i := slices.IndexFunc(page.Techniques, func(x TaughtTechnique) bool { return x.ID == t.ID })
		if i < 0 {
			continue
		}
		x := exchange.BriefTechnique{Name: t.Name, Kind: page.Techniques[i].Kind, Summary: string(shown.Summary), Gates: page.Techniques[i].Gates, Asks: page.Techniques[i].Asks, Forks: page.Techniques[i].Forks}
		for _, k := range shown.KeyPoints {
			x.Points = append(x.Points, string(k.Cue))
		}
		for _, fault := range page.Techniques[i].Faults[:min(3, len(page.Techniques[i].Faults))] {
			x.Watch = append(x.Watch, fmt.Sprintf("%s %s %s", fault.What, fault.Gives, fault.Correction))
		}
		for _, d := range shown.Drills {
			if d.Form == "set-up repetitions" || d.Form == "footwork" {
				x.SetUps = append(x.SetUps, d.Name+": "+string(d.How))
			}
		}
		for _, s := range f.Library.VariantSets() {
			if slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == t.ID }) {
				for _, v := range s.Variants {
					if v.Technique != t.ID {
						x.Variants = append(x.Variants, f.Library.Name(v.Technique))
					}
				}
			}
		}
		b.Techniques = append(b.Techniques, x)
	}
	return b, nil
}
