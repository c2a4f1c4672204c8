package library

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/exchange"
)

// Decision says what to do with one row of an import: take it as it is, leave
// it out, or merge it into a record of the library.
type Decision struct {
	Item string   `json:"item"`
	Do   string   `json:"do" enum:"take,leave,merge"`
	Into string   `json:"into,omitempty"`
	Take []string `json:"take,omitempty" doc:"Sections of which the incoming words are taken"`
}

// LibraryImport is some files with what was decided about them. Sending it
// again changes nothing.
type LibraryImport struct {
	Files     []exchange.TextFile `json:"files"`
	Decisions []Decision          `json:"decisions"`
}

// ImportRow is one record of an import and what will happen to it.
type ImportRow struct {
	Item       string         `json:"item"`
	File       string         `json:"file"`
	Kind       string         `json:"kind"`
	ID         string         `json:"id"`
	Name       string         `json:"name"`
	What       string         `json:"what" enum:"new,changed,same,wrong" doc:"Against what the library has"`
	Summary    say.Sentence   `json:"summary" doc:"What will happen to it"`
	Changes    []say.Sentence `json:"changes" doc:"Fields that differ from the record of the same identifier"`
	Wrong      []say.Sentence `json:"wrong" doc:"Why it cannot be imported, with the fix"`
	Warnings   []say.Sentence `json:"warnings" doc:"Worth a look, but taken all the same"`
	Duplicates []LikelyPair   `json:"duplicates"`
	Decision   *Decision      `json:"decision,omitempty"`
	Open       bool           `json:"open" doc:"A person must decide first"`
}

// ImportPreview is what an import would do, row by row.
type ImportPreview struct {
	Rows     []ImportRow    `json:"rows"`
	Problems []say.Sentence `json:"problems" doc:"What would be wrong with the library afterwards"`
	Ready    bool           `json:"ready" doc:"It can be taken: nothing is open and nothing wrong"`
	Summary  say.Sentence   `json:"summary"`
}

// PreviewImport says what an import would do. Nothing is written.
func (a *Service) PreviewImport(ctx context.Context, u state.User, in LibraryImport) (ImportPreview, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ImportPreview{}, err
	}
	p, _, err := a.lookThrough(f, u, in)
	return p, err
}

// TakeImport keeps an import: all of it, or nothing when a row is still open or
// wrong. One undo takes all of it back.
func (a *Service) TakeImport(ctx context.Context, u state.User, in LibraryImport) (string, error) {
	for _, x := range exchange.Attachments(in.Files) {
		if _, err := a.Attach(ctx, u, bytes.NewReader(x.Text)); err != nil {
			return "", err
		}
	}
	var after *incoming
	return state.KeepComputed(ctx, a.State, u, "The library", (*snapshot).importedInto, func(f *snapshot) error {
		p, n, err := a.lookThrough(f, u, in)
		if err == nil && !p.Ready {
			err = state.Invalid("decisions", "%s", p.Summary)
		}
		after = n
		return err
	}, func(f *snapshot, b *state.Change) error { return after.write(f, b) })
}

// importedInto is what an import is decided on: the library, and what speaks of it.
func (f *snapshot) importedInto() uint64 {
	return f.Fingerprint(documents.Position, documents.Technique, documents.VariantSet, documents.ForkTable, documents.Curriculum, documents.Unit)
}

// incoming is the library as an import would leave it.
type incoming struct {
	positions  map[string]library.Position
	techniques map[string]library.Technique
	sets       map[string]library.VariantSet
	tables     map[string]library.ForkTable
	touched    []string // kind/id, in the order of the rows
}

func (f *snapshot) asIncoming() *incoming {
	n := &incoming{positions: map[string]library.Position{}, techniques: map[string]library.Technique{}, sets: map[string]library.VariantSet{}, tables: map[string]library.ForkTable{}}
	for _, x := range f.Library.Positions() {
		n.positions[x.ID] = x
	}
	for _, x := range f.Library.Techniques() {
		n.techniques[x.ID] = x
	}
	for _, x := range f.Library.VariantSets() {
		n.sets[x.ID] = x
	}
	for _, x := range f.Library.ForkTables() {
		n.tables[x.ID] = x
	}
	return n
}

func values[T any](m map[string]T) []T {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	all := make([]T, len(keys))
	for i, k := range keys {
		all[i] = m[k]
	}
	return all
}

func (n *incoming) library() *library.Library {
	return library.New(values(n.positions), values(n.techniques)).With(values(n.sets), values(n.tables))
}

// lookThrough reads the files, row by row, and works out the library they
// would leave.
func (a *Service) lookThrough(f *snapshot, u state.User, in LibraryImport) (ImportPreview, *incoming, error) {
	p := ImportPreview{Rows: []ImportRow{}, Problems: []say.Sentence{}}
	n := f.asIncoming()
	decided := map[string]Decision{}
	for _, d := range in.Decisions {
		if err := checkSections(d.Take); err != nil {
			return p, nil, err
		}
		decided[d.Item] = d
	}
	likeness := f.Library.Likeness()
	used := map[string]string{}
	for i, file := range exchange.ReadFolder(in.Files) {
		row := f.importRow(i, file, likeness)
		if row.What != "wrong" {
			key := row.Kind + "/" + row.ID
			if first := used[key]; first != "" {
				row.What, row.Wrong = "wrong", append(row.Wrong, say.F("the %s %q is in this import twice, also in %s: leave one of them out", say.Word(row.Kind), row.ID, first))
			}
			used[key] = row.File
		}
		if d, ok := decided[row.Item]; ok {
			row.Decision = &d
		}
		f.settle(&row)
		if err := n.take(f, row, file.Record); err != nil {
			return p, nil, err
		}
		p.Rows = append(p.Rows, row)
	}
	a.judgeImport(f, u, in, n, &p)
	return p, n, nil
}

// importRow compares one record with what the library has.
func (f *snapshot) importRow(i int, file exchange.ReadFile, likeness *library.Likeness) ImportRow {
	row := ImportRow{Item: fmt.Sprintf("%d:%s", i+1, file.Name), File: file.Name, What: "wrong", Changes: []say.Sentence{}, Wrong: []say.Sentence{}, Warnings: []say.Sentence{}, Duplicates: []LikelyPair{}}
	if len(file.Wrong) > 0 {
		row.Wrong = append(row.Wrong, say.Raws(file.Wrong)...)
		return row
	}
	switch r := file.Record; {
	case r.Technique != nil:
		row.Kind, row.ID, row.Name = documents.Technique, r.Technique.ID, r.Technique.Name
		had, known := f.Library.Technique(r.Technique.ID)
		row.compare(known, had, *r.Technique)
		switch {
		case known && had.ID != r.Technique.ID:
			row.What, row.Changes = "same", []say.Sentence{}
			row.Summary = say.F("Was merged into %s before: nothing to do", had.Name)
		case !known:
			for _, d := range likeness.Of(*r.Technique) {
				row.Duplicates = append(row.Duplicates, f.pair(*r.Technique, d))
			}
		}
	case r.Position != nil:
		row.Kind, row.ID, row.Name = documents.Position, r.Position.ID, r.Position.Name
		had, known := f.Library.Position(r.Position.ID)
		row.compare(known, had, *r.Position)
	case r.Set != nil:
		row.Kind, row.ID, row.Name = documents.VariantSet, r.Set.ID, r.Set.Name
		had, known := find(f.Library.VariantSets(), func(s library.VariantSet) bool { return s.ID == r.Set.ID })
		row.compare(known, had, *r.Set)
	case r.Table != nil:
		row.Kind, row.ID, row.Name = documents.ForkTable, r.Table.ID, r.Table.Name
		had, known := f.Library.ForkTable(r.Table.ID)
		row.compare(known, had, *r.Table)
	}
	return row
}

func find[T any](all []T, is func(T) bool) (T, bool) {
	for _, x := range all {
		if is(x) {
			return x, true
		}
	}
	var none T
	return none, false
}

func (r *ImportRow) compare(known bool, had, now any) {
	r.What = "new"
	if known {
		if r.Changes = say.Words(changedFields(had, now)); len(r.Changes) > 0 {
			r.What = "changed"
		} else {
			r.What = "same"
		}
	}
}

// settle says what will happen to a row, and whether somebody must decide
// first. A record the library has under the same identifier is rewritten unless it
// is left out; a likely duplicate waits for a decision; a wrong file must be left out.
func (f *snapshot) settle(row *ImportRow) {
	d := row.Decision
	if d != nil && d.Do == "merge" {
		if _, ok := f.Library.Technique(d.Into); !ok || row.Kind != documents.Technique || d.Into == row.ID {
			row.Wrong = append(row.Wrong, say.F("it cannot be merged into %q: choose a technique of the library", d.Into))
			row.What = "wrong"
		}
	}
	switch {
	case d != nil && d.Do == "leave":
		row.Summary = "Left out"
	case row.What == "wrong":
		row.Open, row.Summary = true, "Cannot be imported: fix the file, or leave it out"
	case row.Summary != "":
	case d != nil && d.Do == "merge":
		row.Summary = say.F("Merged into %s", f.Library.Name(d.Into))
	case row.What == "same":
		row.Summary = "Nothing to do: the library has it as it is"
	case row.What == "changed":
		row.Summary = say.F("Rewrites %s", say.Join(", ", row.Changes...))
	case len(row.Duplicates) > 0 && d == nil:
		row.Open, row.Summary = true, say.F("Likely the same as %s: decide", row.Duplicates[0].Name)
	default:
		row.Summary = "Added"
	}
}

// fate is what happens to a row once nothing of it is open: leave or merge where that was decided, and what it is otherwise.
func (r ImportRow) fate() string {
	if d := r.Decision; d != nil && (d.Do == "leave" || d.Do == "merge" && r.What != "same") {
		return d.Do
	}
	return r.What
}

// take puts a row's record into the library that would be left.
func (n *incoming) take(f *snapshot, row ImportRow, r exchange.Record) error {
	d := row.Decision
	if row.What == "wrong" || row.What == "same" || row.Open || d != nil && d.Do == "leave" {
		return nil
	}
	id := row.ID
	switch {
	case r.Technique != nil && d != nil && d.Do == "merge":
		id = f.Library.Now(d.Into)
		n.techniques[id] = library.Merge(n.techniques[id], *r.Technique, d.Take)
	case r.Technique != nil:
		n.techniques[id] = *r.Technique
	case r.Position != nil:
		n.positions[id] = *r.Position
	case r.Set != nil:
		n.sets[id] = *r.Set
	case r.Table != nil:
		n.tables[id] = *r.Table
	}
	if key := row.Kind + "/" + id; !slices.Contains(n.touched, key) {
		n.touched = append(n.touched, key)
	}
	return nil
}

// judgeImport says whether the library that would be left holds together, and
// where it is only because of one row, tells it there.
func (a *Service) judgeImport(f *snapshot, u state.User, in LibraryImport, n *incoming, p *ImportPreview) {
	after := n.library()
	coming := map[string]bool{}
	for _, x := range exchange.Attachments(in.Files) {
		coming[x.Name] = true
	}
	for _, key := range n.touched {
		kind, id, _ := strings.Cut(key, "/")
		for _, problem := range checkIn(after, RecordKind(kind), id) {
			if !problem.Warn {
				p.Problems = append(p.Problems, say.F("%s %s: %s", say.Word(kind), id, problem))
				continue
			}
			for i, r := range p.Rows {
				if r.Kind == kind && r.ID == id {
					p.Rows[i].Warnings = append(r.Warnings, say.OfError(problem))
				}
			}
		}
		if t, ok := n.techniques[id]; ok && kind == documents.Technique {
			for i, problem := range a.EachMedia(u.Academy, t) {
				if !coming[t.Media[i].File] {
					p.Problems = append(p.Problems, say.F("%s %s: %s", say.Word(kind), id, problem))
				}
			}
		}
	}
	open, counts := 0, map[string]int{}
	for _, r := range p.Rows {
		if r.Open {
			open++
		}
		counts[r.fate()]++
	}
	p.Ready = open == 0 && len(p.Problems) == 0 && len(p.Rows) > 0
	switch {
	case len(p.Rows) == 0:
		p.Summary = "There is no record in these files: choose Markdown files, a zip of them, or a bundle."
	case open > 0:
		p.Summary = say.F("%d of %d rows wait for a decision.", open, len(p.Rows))
	case len(p.Problems) > 0:
		p.Summary = say.F("The library would not hold together: %s.", p.Problems[0])
	default:
		p.Summary = say.F("%d added, %d rewritten, %d merged, %d as they are, %d left out.", counts["new"], counts["changed"], counts["merge"], counts["same"], counts["leave"])
	}
}

func checkIn(lib *library.Library, kind RecordKind, id string) []validation.Problem {
	switch kind {
	case TechniqueRecord:
		t, _ := lib.Technique(id)
		return lib.Check(t)
	case PositionRecord:
		x, _ := lib.Position(id)
		return library.CheckPosition(x)
	case SetRecord:
		s, _ := find(lib.VariantSets(), func(s library.VariantSet) bool { return s.ID == id })
		return lib.CheckVariants(s)
	}
	t, _ := lib.ForkTable(id)
	return lib.CheckForkTable(t)
}

// write puts what changed into a batch.
func (n *incoming) write(f *snapshot, b *state.Change) error {
	for _, key := range n.touched {
		kind, id, _ := strings.Cut(key, "/")
		var body any
		switch RecordKind(kind) {
		case TechniqueRecord:
			body = n.techniques[id]
		case PositionRecord:
			body = n.positions[id]
		case SetRecord:
			body = n.sets[id]
		default:
			body = n.tables[id]
		}
		if err := b.Put(kind, id, body); err != nil {
			return err
		}
	}
	b.Summary = say.F("Imported %d records into the library", len(n.touched))
	return nil
}

// changedFields names the fields in which two records differ.
func changedFields(had, now any) []string {
	x, y := fieldsOf(had), fieldsOf(now)
	all := []string{}
	for k, v := range y {
		if x[k] != v {
			all = append(all, k)
		}
	}
	for k := range x {
		if _, ok := y[k]; !ok {
			all = append(all, k)
		}
	}
	slices.SortFunc(all, cmp.Compare)
	for i := range all {
		all[i] = strings.ReplaceAll(all[i], "_", " ")
	}
	return all
}

// fieldsOf is a record field by field, each as its JSON.
func fieldsOf(record any) map[string]string {
	raw := map[string]json.RawMessage{}
	if text, err := json.Marshal(record); err != nil || json.Unmarshal(text, &raw) != nil {
		return nil
	}
	all := map[string]string{}
	for k, v := range raw {
		all[k] = string(v)
	}
	return all
}

// ExportFolder writes the library as a zip of Markdown files, with the pictures
// it shows.
func (a *Service) ExportFolder(ctx context.Context, u state.User) ([]byte, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	folder, err := exchange.WriteFolder(f.Library)
	if err != nil {
		return nil, err
	}
	pictures, err := a.Attached(u.Academy, f.Library)
	if err != nil {
		return nil, err
	}
	for _, x := range pictures {
		folder = append(folder, exchange.TextFile{Name: exchange.AttachmentFolder + x.Digest, Text: x.Content})
	}
	return exchange.Zip(folder)
}
