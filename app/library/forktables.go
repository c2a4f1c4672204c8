package library

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// TableLine is a fork table as a list shows one.
type TableLine struct {
	ID             string        `json:"id"`
	Name           string        `json:"name"`
	At             library.Place `json:"at"`
	Position       string        `json:"position"`
	Rows           int           `json:"rows"`
	Situations     int           `json:"situations"`
	Open           int           `json:"open" doc:"Situations without an answer"`
	Contradictions int           `json:"contradictions" doc:"Situations with answers that contradict each other"`
}

// ForkTables lists the fork tables by name.
func (a *Service) ForkTables(ctx context.Context, u state.User) ([]TableLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []TableLine{}
	for _, t := range f.Library.ForkTables() {
		r := t.Report()
		all = append(all, TableLine{t.ID, t.Name, t.At, f.PositionName(t.At.Position), len(t.Rows), r.Situations, r.Situations - r.Answered, r.Contradicted})
	}
	return all, nil
}

// TablePage is a fork table with what can be said of it.
type TablePage struct {
	Table    library.ForkTable `json:"table"`
	Version  int               `json:"version"`
	Position string            `json:"position"`
	Answers  []state.Named     `json:"answers" doc:"What can answer here: techniques that start at this place, first, and those the rows name"`
	Verdict  TableVerdict      `json:"verdict"`
}

// TableVerdict is what the software says of a fork table as it stands.
type TableVerdict struct {
	Problems     []validation.Problem `json:"problems" doc:"What must be fixed before anything else can be said"`
	Findings     *TableFindings       `json:"findings,omitempty"`
	Minimal      []library.Row        `json:"minimal" doc:"The smallest table that means the same, ready to be taken over"`
	MinimalExact bool                 `json:"minimal_exact" doc:"Proven that there is no smaller one"`
	Smaller      bool                 `json:"smaller" doc:"It has fewer rows than the table"`
	Names        map[string]string    `json:"names"`
}

// TableFindings is a table's report as it is shown. Of what a large table has
// thousands of, the first are told and all are counted.
type TableFindings struct {
	Situations         int             `json:"situations"`
	Answered           int             `json:"answered"`
	Contradicted       int             `json:"contradicted"`
	Uncovered          [][]CueValues   `json:"uncovered" doc:"Patterns that cover exactly what has no answer"`
	UncoveredCount     int             `json:"uncovered_count"`
	Contradictions     []Contradiction `json:"contradictions"`
	ContradictionCount int             `json:"contradiction_count"`
	Unreachable        []string        `json:"unreachable" doc:"Rows that can never apply: stronger ones decide all they match"`
	Redundant          []string        `json:"redundant" doc:"Rows that could go: no situation's answer would change"`
}

// CueValues is one cue of a pattern with the values it may have.
type CueValues struct {
	Cue    string   `json:"cue"`
	Values []string `json:"values"`
}

// Contradiction is two rows of one priority that answer differently.
type Contradiction struct {
	Rows    []string    `json:"rows"`
	Pattern []CueValues `json:"pattern"`
}

// mostTold bounds how many patterns are written out.
const mostTold = 40

func findings(t library.ForkTable) *TableFindings {
	r := t.Report()
	out := &TableFindings{Situations: r.Situations, Answered: r.Answered, Contradicted: r.Contradicted, Uncovered: [][]CueValues{}, UncoveredCount: len(r.Uncovered),
		Contradictions: []Contradiction{}, ContradictionCount: len(r.Contradictions), Unreachable: r.Unreachable, Redundant: r.Redundant}
	words := func(p library.Pattern) []CueValues {
		all := []CueValues{}
		for _, a := range p {
			all = append(all, CueValues{a.Cue, a.Values})
		}
		return all
	}
	for _, p := range r.Uncovered[:min(mostTold, len(r.Uncovered))] {
		out.Uncovered = append(out.Uncovered, words(p))
	}
	for _, c := range r.Contradictions[:min(mostTold, len(r.Contradictions))] {
		out.Contradictions = append(out.Contradictions, Contradiction{c.Rows[:], words(c.Pattern)})
	}
	return out
}

// ForkTable shows one fork table.
func (a *Service) ForkTable(ctx context.Context, u state.User, id string) (TablePage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TablePage{}, err
	}
	t, ok := f.Library.ForkTable(id)
	if !ok {
		return TablePage{}, state.NotFound("fork table", id)
	}
	return TablePage{Table: t, Version: f.Version(documents.ForkTable, id), Position: f.PositionName(t.At.Position), Answers: f.answersAt(t), Verdict: f.verdict(t)}, nil
}

// answersAt lists what a row of the table could answer.
func (f *snapshot) answersAt(t library.ForkTable) []state.Named {
	all := []state.Named{}
	for _, x := range f.Library.Techniques() {
		if x.From != nil && *x.From == t.At {
			all = append(all, state.Named{ID: x.ID, Name: x.Name})
		}
	}
	for _, r := range t.Rows {
		if r.Then != "" && !slices.ContainsFunc(all, func(n state.Named) bool { return n.ID == r.Then }) {
			all = append(all, state.Named{ID: r.Then, Name: f.Library.Name(r.Then)})
		}
	}
	return all
}

func (f *snapshot) verdict(t library.ForkTable) TableVerdict {
	v := TableVerdict{Problems: []validation.Problem{}, Minimal: []library.Row{}, Names: map[string]string{}}
	v.Problems = append(v.Problems, f.Library.CheckForkTable(t)...)
	for _, r := range t.Rows {
		v.Names[r.Then] = f.Library.Name(r.Then)
	}
	if len(t.Table.Check()) > 0 {
		return v
	}
	v.Findings = findings(t)
	rules, exact := t.Minimal()
	for i, r := range rules {
		v.Minimal = append(v.Minimal, library.Row{ID: fmt.Sprintf("r%d", i+1), When: r.When.Map(), Then: r.Then, Priority: 1})
	}
	v.MinimalExact, v.Smaller = exact, len(v.Minimal) < len(t.Rows)
	return v
}

// JudgeTable says what is to be said of a fork table that is being written.
func (a *Service) JudgeTable(ctx context.Context, u state.User, t library.ForkTable) (TableVerdict, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return TableVerdict{}, err
	}
	return f.verdict(t), nil
}

// SaveForkTable keeps a fork table; version 0 makes a new one.
func (a *Service) SaveForkTable(ctx context.Context, u state.User, t library.ForkTable, version int) (id, change string, err error) {
	if t.ID == "" {
		t.ID = library.Identifier(t.Name)
	}
	change, err = a.KeepRecord(ctx, u, documents.ForkTable, t.ID, t.Name, version, t, func(f *state.Snapshot) []validation.Problem { return f.Library.CheckForkTable(t) })
	return t.ID, change, err
}

// CueValue is one cue of a drawn situation.
type CueValue struct {
	Cue   string `json:"cue"`
	Value string `json:"value"`
}

// QuizQuestion is a drawn situation. The right answer stays on the server.
type QuizQuestion struct {
	Table     string        `json:"table"`
	Name      string        `json:"name"`
	Position  string        `json:"position"`
	Part      string        `json:"part"`
	Row       string        `json:"row"`
	Situation []CueValue    `json:"situation"`
	Choices   []state.Named `json:"choices"`
	Boxes     []int         `json:"boxes" doc:"How many rows lie in each box of the card file, 1 to 5"`
	Asked     int           `json:"asked"`
	Correct   int           `json:"correct"`
	Seconds   float64       `json:"seconds" doc:"Mean time of an answer"`
	Scheme    say.Sentence  `json:"scheme"`
}

// QuizScheme says how rows are drawn, and where that comes from.
const QuizScheme say.Sentence = "Five boxes: a right answer moves a row up one, a wrong one back to the first. A row in box b is drawn with weight 2^(5−b), so a missed one comes up to sixteen times as often as a known one (after Leitner's card file, 1972)."

// Quiz draws the next question of a fork table for whoever asks. last is the
// row asked before.
func (a *Service) Quiz(ctx context.Context, u state.User, table, last string) (QuizQuestion, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return QuizQuestion{}, err
	}
	t, ok := f.Library.ForkTable(table)
	if !ok {
		return QuizQuestion{}, state.NotFound("fork table", table)
	}
	kept, err := a.Store.QuizBoxes(ctx, u.Academy, u.Person, table)
	if err != nil {
		return QuizQuestion{}, err
	}
	out := QuizQuestion{Table: t.ID, Name: t.Name, Position: f.PositionName(t.At.Position), Part: string(t.At.Part), Boxes: make([]int, library.Boxes), Scheme: QuizScheme}
	boxes, spent := map[string]int{}, time.Duration(0)
	for _, q := range kept {
		boxes[q.Row] = q.Box
		out.Asked, out.Correct, spent = out.Asked+q.Asked, out.Correct+q.Correct, spent+q.Spent
	}
	if out.Asked > 0 {
		out.Seconds = spent.Seconds() / float64(out.Asked)
	}
	for _, r := range t.Rows {
		out.Boxes[min(library.Boxes, max(1, boxes[r.ID]))-1]++
	}
	var others []string
	for _, n := range f.answersAt(t) {
		others = append(others, n.ID)
	}
	for _, x := range f.Library.Techniques() { // where little starts, the family lends wrong answers
		if len(others) < 3 && x.From != nil && f.family(x.From.Position) == f.family(t.At.Position) && !slices.Contains(others, x.ID) {
			others = append(others, x.ID)
		}
	}
	q, ok := t.Ask(boxes, others, last, uint64(a.Now().UnixNano()))
	if !ok {
		return QuizQuestion{}, state.Invalid("table", "%s decides no situation without contradiction: settle its rows first", t.Name)
	}
	out.Row, out.Situation, out.Choices = q.Row, cuesOf(t, q.Situation), []state.Named{}
	for _, c := range q.Choices {
		out.Choices = append(out.Choices, state.Named{ID: c, Name: f.Library.Name(c)})
	}
	return out, nil
}

// QuizAnswer is an answer to a drawn situation.
type QuizAnswer struct {
	Situation []CueValue `json:"situation"`
	Answer    string     `json:"answer" doc:"A technique's identifier, or the words of a free answer"`
	Free      bool       `json:"free,omitempty" doc:"The answer is in free words: names and aliases are searched"`
	Ms        int        `json:"ms" minimum:"0" maximum:"3600000" doc:"Time taken, in milliseconds"`
}

// QuizVerdict says whether an answer was right, and why.
type QuizVerdict struct {
	Right  bool        `json:"right"`
	Answer state.Named `json:"answer" doc:"The right one"`
	Given  string      `json:"given" doc:"What was understood"`
	Row    string      `json:"row"`
	Box    int         `json:"box" doc:"Where the row lies now"`
}

// AnswerQuiz judges an answer and moves the row that decides the situation.
func (a *Service) AnswerQuiz(ctx context.Context, u state.User, table string, in QuizAnswer) (QuizVerdict, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return QuizVerdict{}, err
	}
	t, ok := f.Library.ForkTable(table)
	if !ok {
		return QuizVerdict{}, state.NotFound("fork table", table)
	}
	s := library.Situation{}
	for _, c := range in.Situation {
		s[c.Cue] = c.Value
	}
	row, ok := t.Decides(s)
	if !ok {
		return QuizVerdict{}, state.Invalid("situation", "no row of %s decides this situation alone: the table was changed meanwhile, draw again", t.Name)
	}
	given := in.Answer
	if in.Free {
		given = f.bestMatch(in.Answer, t)
	}
	v := QuizVerdict{Right: given == row.Then, Answer: state.Named{ID: row.Then, Name: f.Library.Name(row.Then)}, Given: f.Library.Name(given), Row: row.ID}
	kept, err := a.Store.QuizBoxes(ctx, u.Academy, u.Person, table)
	if err != nil {
		return v, err
	}
	q := store.QuizBox{Row: row.ID}
	if i := slices.IndexFunc(kept, func(k store.QuizBox) bool { return k.Row == row.ID }); i >= 0 {
		q = kept[i]
	}
	q.Box = library.Next(q.Box, v.Right)
	q.Asked++
	if v.Right {
		q.Correct++
	}
	q.Spent += time.Duration(in.Ms) * time.Millisecond
	v.Box = q.Box
	return v, a.Store.KeepQuizBox(ctx, u.Academy, u.Person, table, q, a.Now().UTC())
}

// bestMatch is the technique somebody means by some words: of the likeliest
// names one that starts at the table's place goes first.
func (f *snapshot) bestMatch(words string, t library.ForkTable) string {
	hits := f.Library.Search(words)
	if words == "" || len(hits) == 0 {
		return words
	}
	here := func(h library.Hit) int {
		if h.Technique.From != nil && *h.Technique.From == t.At {
			return 0
		}
		return 1
	}
	best := slices.MinFunc(hits, func(x, y library.Hit) int {
		return cmp.Or(here(x)-here(y), cmp.Compare(y.Score, x.Score))
	})
	return best.Technique.ID
}

// ReactionSheet is a sequence of situations for the partner on the mat.
type ReactionSheet struct {
	Table    string         `json:"table"`
	Name     string         `json:"name"`
	Position string         `json:"position"`
	Seed     int            `json:"seed" doc:"The same seed draws the same sheet"`
	Calls    []ReactionCall `json:"calls"`
	Counts   []RowCount     `json:"counts" doc:"How often each row comes up"`
	Cautions []say.Sentence `json:"cautions"`
	Defers   say.Sentence   `json:"defers"`
}

// ReactionCall is one situation: the partner makes it, the other one answers.
type ReactionCall struct {
	Row       string      `json:"row"`
	Situation []CueValue  `json:"situation"`
	Answer    state.Named `json:"answer"`
}

// RowCount is how often a row comes up.
type RowCount struct {
	Row   string `json:"row"`
	Then  string `json:"then"`
	Times int    `json:"times"`
}

// ReactionRound draws a sheet of n situations in which each row comes up
// fairly.
func (a *Service) ReactionRound(ctx context.Context, u state.User, table string, n, seed int) (ReactionSheet, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ReactionSheet{}, err
	}
	t, ok := f.Library.ForkTable(table)
	if !ok {
		return ReactionSheet{}, state.NotFound("fork table", table)
	}
	out := ReactionSheet{Table: t.ID, Name: t.Name, Position: f.PositionName(t.At.Position), Seed: seed, Calls: []ReactionCall{}, Counts: []RowCount{}, Cautions: []say.Sentence{}, Defers: state.Defers}
	times := map[string]int{}
	for _, c := range t.Table.ReactionRound(n, uint64(seed)) {
		times[c.Row]++
		out.Calls = append(out.Calls, ReactionCall{c.Row, cuesOf(t, c.Situation), state.Named{ID: c.Answer, Name: f.Library.Name(c.Answer)}})
	}
	for _, r := range t.Rows {
		if times[r.ID] > 0 {
			out.Counts = append(out.Counts, RowCount{r.ID, f.Library.Name(r.Then), times[r.ID]})
		}
	}
	out.Cautions = append(out.Cautions, f.cautionsOf(t)...)
	return out, nil
}

// cuesOf is a situation in the order of the table's cues.
func cuesOf(t library.ForkTable, s library.Situation) []CueValue {
	all := []CueValue{}
	for _, c := range t.Cues {
		all = append(all, CueValue{c.ID, s[c.ID]})
	}
	return all
}

// cautionsOf lists the usual cautions of everything a table answers with.
func (f *snapshot) cautionsOf(t library.ForkTable) []say.Sentence {
	var classes []safety.RiskClass
	for _, r := range t.Rows {
		x, _ := f.Library.Technique(r.Then)
		classes = append(classes, x.Risks...)
	}
	return safety.Cautions(classes)
}

func (f *snapshot) family(position string) library.Family {
	p, _ := f.Library.Position(position)
	return p.Family
}
