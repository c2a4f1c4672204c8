package library

import (
	"context"
	"fmt"
	"slices"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/drawing"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
)

// Library is the whole library of the user's academy, read-only.
func (a *Service) Library(ctx context.Context, u state.User) (*library.Library, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	return f.Library, nil
}

// Words are the lists a record of the library chooses from.
type Words struct {
	Families   []library.Family   `json:"families"`
	Facings    []string           `json:"facings" doc:"How two people in a position can face each other"`
	Kinds      []library.Kind     `json:"kinds"`
	Contexts   []library.Context  `json:"contexts"`
	Measures   []string           `json:"measures"`
	Depths     []string           `json:"depths"`
	Risks      []safety.RiskClass `json:"risks"`
	Defences   []library.Defence  `json:"defences"`
	Forms      []library.Form     `json:"forms"`
	Paces      []string           `json:"paces"`
	Resistance []string           `json:"resistance" doc:"Its grades from 0 to 4"`
	Media      []string           `json:"media" doc:"Kinds of files that can be attached"`
	Sections   []string           `json:"sections" doc:"Sections a merge can take from the one or the other"`
	Defers     say.Sentence       `json:"defers"`
}

// LibraryWords lists what records are written with.
func (a *Service) LibraryWords(ctx context.Context, u state.User) (Words, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return Words{}, err
	}
	return Words{library.Families, library.Facings, library.Kinds, []library.Context{library.Both, library.Gi, library.NoGi}, []string{"weight share", "grip depth", "distance", "angle"}, library.Depths,
		safety.Classes(), library.Defences, library.Forms, library.Paces, f.Settings.Resistance, library.MediaTypes, library.Sections, state.Defers}, nil
}

// Techniques searches the library.
func (a *Service) Techniques(ctx context.Context, u state.User, query string) ([]state.TechniqueLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []state.TechniqueLine{}
	for _, h := range f.Library.Search(query) {
		l := f.TechniqueLine(h.Technique)
		if h.Matched != h.Technique.Name {
			l.Matched = h.Matched
		}
		all = append(all, l)
	}
	return all, nil
}

// TechniquePage is a technique as it is read on one side.
type TechniquePage struct {
	Line      state.TechniqueLine  `json:"line"`
	Side      library.Side         `json:"side" doc:"The side it is shown for; empty when it has none"`
	Shown     library.Technique    `json:"shown" doc:"Written for that side, side tokens as words"`
	Written   library.Technique    `json:"written" doc:"As it is kept, with side tokens"`
	Version   int                  `json:"version"`
	Names     map[string]string    `json:"names" doc:"Names of techniques and positions it speaks of"`
	Cautions  []say.Sentence       `json:"cautions" doc:"The usual cautions of its risk classes"`
	Warnings  []validation.Problem `json:"warnings"`
	Defers    say.Sentence         `json:"defers,omitempty"`
	FromThere []state.Named        `json:"from_there" doc:"What starts where it ends"`
	Sets      []Choice             `json:"sets" doc:"Variant sets it is one of"`
	Tables    []state.Named        `json:"tables" doc:"Fork tables that answer with it"`
	Scenes    []drawing.Scene      `json:"scenes" doc:"Its drawings as they are seen on that side, in their order"`
}

// Choice is a variant set as one of its variants sees it.
type Choice struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	House  bool          `json:"house" doc:"This technique is the house choice"`
	Others []state.Named `json:"others"`
}

// Technique shows a technique on a side; the side it is taught on when none is
// asked for.
func (a *Service) Technique(ctx context.Context, u state.User, id string, side library.Side) (TechniquePage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TechniquePage{}, err
	}
	return f.techniquePage(id, side)
}

func (f *snapshot) techniquePage(id string, side library.Side) (TechniquePage, error) {
	t, ok := f.Library.Technique(id)
	if !ok {
		return TechniquePage{}, state.NotFound("technique", id)
	}
	if side == "" || t.Taught == "" {
		side = t.Taught
	}
	p := TechniquePage{Line: f.TechniqueLine(t), Side: side, Shown: t.On(side), Written: t, Version: f.Version(documents.Technique, t.ID),
		Names: map[string]string{}, Cautions: safety.Cautions(t.Risks), Warnings: []validation.Problem{}, FromThere: []state.Named{}, Sets: []Choice{}, Tables: []state.Named{}, Scenes: []drawing.Scene{}}
	if len(t.Risks) > 0 {
		p.Defers = state.Defers
	}
	for _, d := range p.Shown.Drawings {
		p.Scenes = append(p.Scenes, drawing.Draw(string(d.Lines)))
	}
	for _, id := range t.SavesFrom {
		p.Names[id] = f.Library.Name(id)
	}
	for _, x := range t.Prerequisites {
		p.Names[x.Technique] = f.Library.Name(x.Technique)
	}
	for _, x := range t.Forks {
		if x.Answer != "" {
			p.Names[x.Answer] = f.Library.Name(x.Answer)
		}
		if x.Leaves != nil {
			p.Names[x.Leaves.Position] = f.PositionName(x.Leaves.Position)
		}
	}
	for _, k := range t.KeyPoints {
		for _, x := range k.Faults {
			if x.LeadsTo != nil {
				p.Names[x.LeadsTo.Position] = f.PositionName(x.LeadsTo.Position)
			}
		}
	}
	for _, w := range f.Library.Check(t) {
		if w.Warn {
			p.Warnings = append(p.Warnings, w)
		}
	}
	for _, s := range f.Library.VariantSets() {
		if !slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == t.ID }) {
			continue
		}
		c := Choice{ID: s.ID, Name: s.Name, House: s.House == t.ID, Others: []state.Named{}}
		for _, v := range s.Variants {
			if v.Technique != t.ID {
				c.Others = append(c.Others, state.Named{ID: v.Technique, Name: f.Library.Name(v.Technique)})
			}
		}
		p.Sets = append(p.Sets, c)
	}
	for _, table := range f.Library.ForkTables() {
		if slices.ContainsFunc(table.Rows, func(r library.Row) bool { return r.Then == t.ID }) {
			p.Tables = append(p.Tables, state.Named{ID: table.ID, Name: table.Name})
		}
	}
	if t.To != nil {
		for _, next := range f.Library.Techniques() {
			if next.From != nil && *next.From == *t.To {
				p.FromThere = append(p.FromThere, state.Named{ID: next.ID, Name: next.Name})
			}
		}
	}
	return p, nil
}

// SaveTechnique keeps a technique as it was rewritten. version is the one it
// was read at; another one meanwhile refuses it.
func (a *Service) SaveTechnique(ctx context.Context, u state.User, t library.Technique, version int) (string, error) {
	if version == 0 {
		version = -1 // no version is 0: whoever sends it has read nothing
	}
	return a.KeepRecord(ctx, u, documents.Technique, t.ID, t.Name, version, t, func(f *state.Snapshot) []validation.Problem {
		return append(f.Library.Check(t), a.CheckMedia(u.Academy, t)...)
	})
}

// SaveKeyPoint rewrites one key point, its faults as they are.
func (a *Service) SaveKeyPoint(ctx context.Context, u state.User, technique string, k library.KeyPoint, version int) (string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return "", err
	}
	t, ok := f.Library.Technique(technique)
	if !ok {
		return "", state.NotFound("technique", technique)
	}
	i := slices.IndexFunc(t.KeyPoints, func(had library.KeyPoint) bool { return had.ID == k.ID })
	if i < 0 {
		return "", state.NotFound("key point", k.ID)
	}
	t.KeyPoints = slices.Clone(t.KeyPoints)
	k.Faults = t.KeyPoints[i].Faults
	t.KeyPoints[i] = k
	id, err := a.SaveTechnique(ctx, u, t, version)
	return id, state.OnlyField(err, fmt.Sprintf("key_points[%d].", i))
}
