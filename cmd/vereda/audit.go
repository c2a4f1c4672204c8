package main

import (
	"fmt"
	"io"
	"slices"

	"github.com/spf13/cobra"

	"vereda/core/curriculum"
	"vereda/core/say"
	"vereda/exchange"
)

// auditAnswer is what vereda audit writes.
type auditAnswer struct {
	Curricula []auditedCurriculum `json:"curricula" doc:"In the order of the ladders and their ranks"`
	Blocks    int                 `json:"blocks" doc:"Findings that keep a curriculum from being published, over all that are not retired"`
}

type auditedCurriculum struct {
	ID           string               `json:"id"`
	Ladder       string               `json:"ladder"`
	Rank         string               `json:"rank"`
	State        string               `json:"state" enum:"draft,published,retired"`
	Requirements int                  `json:"requirements"`
	Minutes      int                  `json:"minutes" doc:"What it takes, reviews not counted"`
	Findings     []curriculum.Finding `json:"findings" doc:"Worst first; what was accepted comes last"`
	BreaksOrder  []say.Sentence       `json:"breaks_order" doc:"What comes before something it stands on"`
}

// errBlocked ends the program with exit code 1 after the answer is written.
var errBlocked = fmt.Errorf("the audit holds findings that keep a curriculum from being published")

func auditCommand() *cobra.Command {
	var only string
	c := &cobra.Command{Use: "audit FILE", Short: "Where the curricula of a bundle do not hold together, and the repairs; - is standard input. Exit code 1 when something blocks", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return auditBundle(args[0], only, c.InOrStdin(), c.OutOrStdout())
	}}
	c.Flags().StringVar(&only, "curriculum", "", "this curriculum of the bundle alone")
	return c
}

// auditBundle judges everything but time, which needs a timetable and who comes.
func auditBundle(name, only string, in io.Reader, out io.Writer) error {
	b, err := readBundle(name, in)
	if err != nil {
		return err
	}
	if only != "" && !slices.ContainsFunc(b.Curricula, func(c curriculum.Curriculum) bool { return c.ID == only }) {
		return badInput{fmt.Errorf("%s: curricula: there is no %q: choose one of the bundle's", name, only)}
	}
	answer := audited(b, only)
	if err := writeJSON(out, answer); err != nil {
		return err
	}
	if answer.Blocks > 0 {
		return errBlocked
	}
	return nil
}

func audited(b exchange.Bundle, only string) auditAnswer {
	answer := auditAnswer{Curricula: []auditedCurriculum{}}
	lib, settings := b.Library(), b.Settings.WithDefaults()
	for _, l := range b.Ladders {
		for _, r := range l.Ranks {
			for _, c := range b.Curricula {
				if c.Ladder != l.ID || c.Rank != r.ID || only != "" && c.ID != only {
					continue
				}
				x := auditedCurriculum{ID: c.ID, Ladder: l.ID, Rank: r.ID, State: c.State, Requirements: len(c.Requirements), Findings: curriculum.Case{Curriculum: c, All: b.Curricula, Ladder: l, Library: lib, Gates: settings.Gates, RequiredCells: settings.RequiredCells}.Audit(), BreaksOrder: c.BreaksOrder(lib)}
				for _, q := range c.Requirements {
					x.Minutes += curriculum.NeedsOf(q, lib, 0).Minutes
				}
				for _, f := range x.Findings {
					if f.Severity == curriculum.Blocks && f.Accepted == "" && c.State != "retired" {
						answer.Blocks++
					}
				}
				if x.Findings == nil {
					x.Findings = []curriculum.Finding{}
				}
				if x.BreaksOrder == nil {
					x.BreaksOrder = []say.Sentence{}
				}
				answer.Curricula = append(answer.Curricula, x)
			}
		}
	}
	return answer
}
