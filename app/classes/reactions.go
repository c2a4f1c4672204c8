package classes

import (
	"hash/fnv"
	"slices"

	"vereda/core/library"
	"vereda/core/mat"
)

// ReactionDraw is the "add the reaction" segment of a technique: situations drawn from the fork table it belongs to, which the partner
// makes and the other one answers.
type ReactionDraw struct {
	Table     string         `json:"table"`
	Name      string         `json:"name"`
	Technique string         `json:"technique"`
	Calls     []ReactionLine `json:"calls"`
}

// ReactionLine is one call.
type ReactionLine struct {
	Situation string `json:"situation" doc:"What the partner does, cue by cue"`
	Answer    string `json:"answer"`
}

// callsDrawn is how many situations a sheet draws: about what a segment of six minutes takes.
const callsDrawn = 6

// reactions draws tonight's reaction rounds. The same class always draws the same.
func (f *snapshot) reactions(session string, lesson mat.Lesson) []ReactionDraw {
	all := []ReactionDraw{}
	hash := fnv.New64a()
	_, _ = hash.Write([]byte(session))
	for _, t := range lesson.Teach {
		for _, table := range f.Library.ForkTables() {
			if !belongs(t, table) || slices.ContainsFunc(all, func(d ReactionDraw) bool { return d.Table == table.ID }) {
				continue
			}
			draw := ReactionDraw{Table: table.ID, Name: table.Name, Technique: t.ID, Calls: []ReactionLine{}}
			for _, c := range table.ReactionRound(callsDrawn, hash.Sum64()) {
				line := ReactionLine{Answer: f.Library.Name(c.Answer)}
				for _, cue := range table.Cues {
					if line.Situation != "" {
						line.Situation += ", "
					}
					line.Situation += cue.ID + " " + c.Situation[cue.ID]
				}
				draw.Calls = append(draw.Calls, line)
			}
			if len(draw.Calls) > 0 {
				all = append(all, draw)
				break
			}
		}
	}
	return all
}

// belongs says whether a table decides about a technique: it answers with it, or stands where it leads.
func belongs(t library.Technique, table library.ForkTable) bool {
	answers := slices.ContainsFunc(table.Rows, func(r library.Row) bool { return r.Then == t.ID })
	return answers || t.To != nil && table.At == *t.To
}
