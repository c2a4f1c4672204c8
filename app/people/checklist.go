package people

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/exchange"
)

var checkList = eventList{map[string][]string{
	"student": {"student", "name", "member", "full name", "person"}, "day": {"day", "date", "on"}, "technique": {"technique"}, "side": {"side"}, "result": {"result", "met", "passed"}, "rung": {"rung", "level"}, "coach": {"coach", "by", "examiner"},
}, []string{"student", "day", "technique", "result"}, "student, date, technique, side, result (met or not met), rung and coach", (*snapshot).checkRow}

// PreviewChecks says what a list of past checks would bring. Nothing is written.
func (a *Service) PreviewChecks(ctx context.Context, u state.User, file exchange.TextFile) (AttendancePreview, error) {
	return a.previewList(ctx, u, file, checkList)
}

// TakeChecks keeps a list of past checks: all of it or nothing. Taken again it adds nothing.
func (a *Service) TakeChecks(ctx context.Context, u state.User, file exchange.TextFile) (int, error) {
	return a.takeList(ctx, u, file, checkList)
}

// imported is said of a check of which only the result is known.
const imported = "Taken over from a list: what was seen at each key point is not known."

func (f *snapshot) checkRow(s exchange.Sheet, r exchange.SheetRow, byName map[string][]academy.Person) AttendanceRow {
	row, p, on := f.rowOf(s, r, byName)
	if row.Wrong != "" {
		return row
	}
	name := s.Get(r, "technique")
	t, ok := f.Library.Technique(name)
	if !ok {
		for _, x := range f.Library.Techniques() {
			if library.Fold(x.Name) == library.Fold(name) || slices.ContainsFunc(x.Aliases, func(a string) bool { return library.Fold(a) == library.Fold(name) }) {
				t, ok = x, true
				break
			}
		}
	}
	side := library.Side(strings.ToLower(strings.TrimSpace(s.Get(r, "side"))))
	met, known := resultWords[strings.ToLower(strings.TrimSpace(s.Get(r, "result")))]
	rung := curriculum.Rung(strings.ToLower(strings.TrimSpace(s.Get(r, "rung"))))
	by := ""
	if coach := s.Get(r, "coach"); coach != "" {
		if all := append(slices.Clone(byName[library.Fold(coach)]), byName[coach]...); len(all) > 0 {
			by = all[0].ID
		}
	}
	switch {
	case !ok:
		row.Wrong = say.F("%.80q is not in the library: write its name or an alias as it is there", name)
	case side == "" && len(t.Sides()) > 1:
		row.Wrong = say.F("%s is checked on a side: write left or right", t.Name)
	case !slices.Contains(t.Sides(), side):
		row.Wrong = say.F("%.40q is not a side of %s", side, t.Name)
	case !known:
		row.Wrong = say.F("%.40q: say met or not met", s.Get(r, "result"))
	case rung != "" && rung != curriculum.Passed && rung != curriculum.Live && rung != curriculum.Teaches:
		row.Wrong = say.F("%.40q: say passed, live or teaches, or leave it out", rung)
	}
	if row.Wrong != "" {
		return row
	}
	if rung == "" {
		rung = curriculum.Passed
	}
	v := ledger.Verdict{Met: met, Reasons: []say.Sentence{imported}}
	if met {
		v.Rung = rung
	}
	sum := sha256.Sum256([]byte(strings.Join([]string{"check", p.ID, t.ID, string(side), on.String(), fmt.Sprint(met), string(v.Rung), by}, " ")))
	e, err := academy.NewEvent("past-"+hex.EncodeToString(sum[:12]), academy.CheckEvent, on, academy.Check{Technique: t.ID, Side: side, Observation: ledger.Observation{Points: map[string]ledger.Seen{}}, Verdict: &v, By: by})
	if err != nil {
		row.Wrong = say.OfError(err)
		return row
	}
	e.Student = p.ID
	row.event, row.Summary = e, "Adds it"
	row.Class = say.Raw(t.Name)
	if side != "" {
		row.Class = say.F("%s, %s", t.Name, side)
	}
	row.had = slices.ContainsFunc(f.Checks(p.ID), func(c state.Checked) bool {
		return c.ID == e.ID || c.On == on && f.Library.Now(c.Technique) == t.ID && c.Side == side && c.Met == met && c.By == by
	})
	return row
}

var resultWords = map[string]bool{"met": true, "yes": true, "passed": true, "true": true, "1": true, "not met": false, "no": false, "failed": false, "false": false, "0": false, "not yet": false}

// partOf reads whether somebody came late or left early.
func partOf(words string) string {
	switch strings.ToLower(strings.TrimSpace(words)) {
	case "late", "came late":
		return academy.CameLate
	case "early", "left early":
		return academy.LeftEarly
	}
	return ""
}

// AttendanceCSV is everybody's attendance as the list that can be imported.
func (a *Service) AttendanceCSV(ctx context.Context, u state.User) ([]byte, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	rows := [][]string{{"student", "date", "class", "part"}}
	for s := range f.Sessions {
		for _, p := range s.Here() {
			if f.Person[p.Student].Student {
				rows = append(rows, []string{p.Student, s.On.String(), s.Class, p.Part})
			}
		}
	}
	return exchange.WriteCSV(rows)
}

// ChecksCSV is everybody's checks as the list that can be imported.
func (a *Service) ChecksCSV(ctx context.Context, u state.User) ([]byte, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	rows := [][]string{{"student", "date", "technique", "side", "result", "rung", "coach"}}
	for _, p := range f.Students() {
		for _, c := range f.Checks(p.ID) {
			result := "not met"
			if c.Met {
				result = "met"
			}
			rows = append(rows, []string{p.ID, c.On.String(), f.Library.Now(c.Technique), string(c.Side), result, string(c.Rung), c.By})
		}
	}
	return exchange.WriteCSV(rows)
}
