package exchange

import (
	"fmt"
	"strconv"
	"strings"

	"vereda/core/library"
	"vereda/core/safety"
)

// libraryColumns are what the columns of a list of techniques or positions may be called.
var libraryColumns = map[string][]string{
	"name": {"technique", "position", "nome", "title"}, "aliases": {"also", "alias", "other names", "apelidos"}, "kind": {"type", "tipo", "category"}, "from": {"starts", "start", "de"}, "to": {"ends", "leads to", "end", "para"},
	"summary": {"description", "in a sentence", "descrição", "notes"}, "taught": {"side", "lado"}, "context": {"jacket", "gi"}, "risks": {"loads", "risk"}, "seconds": {"seconds per rep", "seconds a repetition"}, "minutes": {"teach minutes", "minutes to teach"},
	"points": {"key points", "steps", "details"}, "family": {"group", "família"}, "attacker": {"top", "attack"}, "defender": {"bottom", "defend"},
}

// readCSVLibrary reads a list of techniques, or, where it has a column for the family and none for the kind, of positions: a row each. A list holds
// what a list can; faults, forks and the rest are written afterwards. Positions are named by their name or identifier, the one who defends with "/defend".
func readCSVLibrary(f TextFile) []ReadFile {
	s, err := ReadCSV(f.Name, f.Text, libraryColumns)
	if err != nil {
		return []ReadFile{wrong(f.Name, err)}
	}
	positions := s.Has("family") && !s.Has("kind")
	switch {
	case !s.Has("name"):
		return []ReadFile{wrong(f.Name, Problems{f.Name + ": no column is called name: the first line names the columns, such as name, kind, from, to, summary"})}
	case !positions && !s.Has("kind"):
		return []ReadFile{wrong(f.Name, Problems{f.Name + ": no column is called kind (techniques) or family (positions): the first line names the columns"})}
	}
	var all []ReadFile
	for _, r := range s.Rows {
		at := fmt.Sprintf("%s, line %d", f.Name, r.Line)
		if positions {
			x := library.Position{ID: library.Identifier(s.Get(r, "name")), Name: s.Get(r, "name"), Family: library.Family(strings.ToLower(s.Get(r, "family"))), Aliases: list(s.Get(r, "aliases")), Attacker: s.Get(r, "attacker"), Defender: s.Get(r, "defender")}
			all = append(all, ReadFile{Name: at, Record: Record{Position: &x}})
			continue
		}
		t, found := techniqueOf(s, r)
		if len(found) > 0 {
			for i := range found {
				found[i] = at + ": " + found[i]
			}
			all = append(all, wrong(at, found))
			continue
		}
		all = append(all, ReadFile{Name: at, Record: Record{Technique: &t}})
	}
	if len(all) == 0 {
		return []ReadFile{wrong(f.Name, Problems{f.Name + ": there is no row under its columns"})}
	}
	return all
}

func techniqueOf(s Sheet, r SheetRow) (library.Technique, Problems) {
	var found Problems
	number := func(column string, usual int) int {
		text := s.Get(r, column)
		if text == "" {
			return usual
		}
		n, err := strconv.Atoi(text)
		if err != nil {
			found = append(found, fmt.Sprintf("%s: %q is no whole number", column, text))
		}
		return n
	}
	t := library.Technique{
		ID: library.Identifier(s.Get(r, "name")), Name: s.Get(r, "name"), Aliases: list(s.Get(r, "aliases")), Kind: library.Kind(strings.ToLower(s.Get(r, "kind"))), Summary: library.Text(s.Get(r, "summary")),
		From: placeOf(s.Get(r, "from")), Taught: library.Right, Context: library.Both, SecondsPerRep: number("seconds", 8), TeachMinutes: number("minutes", 8),
	}
	if t.Name == "" {
		found = append(found, "name: is empty: give the technique a name")
	}
	switch side := strings.ToLower(s.Get(r, "taught")); side {
	case "":
	case "none", "-", "no sides":
		t.Taught = ""
	default:
		t.Taught = library.Side(side)
	}
	switch gi := strings.ToLower(s.Get(r, "context")); gi {
	case "", "both", "either", "all":
	case "yes", "with":
		t.Context = library.Gi
	case "no", "nogi", "without":
		t.Context = library.NoGi
	default:
		t.Context = library.Context(gi)
	}
	if to := s.Get(r, "to"); strings.EqualFold(to, "finish") || to == "" && t.Kind == "submission" {
		t.Finish = true
	} else {
		t.To = placeOf(to)
	}
	for _, risk := range list(s.Get(r, "risks")) {
		t.Risks = append(t.Risks, safety.RiskClass(strings.ToLower(risk)))
	}
	for i, cue := range list(s.Get(r, "points")) {
		t.KeyPoints = append(t.KeyPoints, library.KeyPoint{ID: fmt.Sprintf("k%d", i+1), Cue: library.Text(cue)})
	}
	return t, found
}

// placeOf reads a place: a position by name or identifier, with /defend for the one who defends.
func placeOf(words string) *library.Place {
	if words == "" {
		return nil
	}
	position, part, _ := strings.Cut(words, "/")
	p := library.Place{Position: library.Identifier(strings.TrimSpace(position)), Part: library.Attack}
	if strings.HasPrefix(strings.ToLower(strings.TrimSpace(part)), "def") {
		p.Part = library.Defend
	}
	return &p
}

// list parts what stands between semicolons.
func list(words string) []string {
	var all []string
	for part := range strings.SplitSeq(words, ";") {
		if part = strings.TrimSpace(part); part != "" {
			all = append(all, part)
		}
	}
	return all
}
