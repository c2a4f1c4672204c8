package main

import (
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/spf13/cobra"

	"vereda/core/season"
	"vereda/core/season/explain"
	"vereda/core/season/repair"
	"vereda/core/season/search"
)

// seasonAnswer is what vereda season plan writes.
type seasonAnswer struct {
	season.Plan
	Reasons []explain.PlacedReason `json:"reasons" required:"false"`
	Elapsed int64                  `json:"elapsed_ms" required:"false"`
}

// seasonRepair is what vereda season repair reads.
type seasonRepair struct {
	Season    season.Problem      `json:"season"`
	Plan      seasonAnswer        `json:"plan" doc:"As season plan wrote it; placements are enough"`
	Changes   []repair.Disruption `json:"changes"`
	FirstWeek int                 `json:"first_week" minimum:"1" doc:"The first week that may move"`
}

// repairAnswer is what it writes.
type repairAnswer struct {
	repair.Repaired
	Elapsed int64 `json:"elapsed_ms"`
}

// conflictAnswer is written instead of either when the rules cannot all be kept.
type conflictAnswer struct {
	*search.Conflict
}

func seasonCommand() *cobra.Command {
	c := &cobra.Command{Use: "season", Short: "The season planner, on files"}
	c.AddCommand(&cobra.Command{Use: "plan FILE", Short: "Plan a season; - is standard input. Exit code 1 with the conditions in conflict when the rules cannot all be kept", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return planSeason(args[0], c.InOrStdin(), c.OutOrStdout())
	}}, &cobra.Command{Use: "repair FILE", Short: "Repair a plan after something changed; - is standard input. Exit code 1 as for plan", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return repairSeason(args[0], c.InOrStdin(), c.OutOrStdout())
	}})
	return c
}

// errConflict ends the program with exit code 1 after the answer is written.
var errConflict = errors.New("the conditions in the answer cannot all be kept")

func planSeason(name string, in io.Reader, out io.Writer) error {
	start := time.Now() // of whoever waits: reading is part of the wish
	var p season.Problem
	if err := readJSON(name, in, &p); err != nil {
		return err
	}
	if bad := p.Check(); len(bad) > 0 {
		return badInput{fmt.Errorf("%s: %s", name, bad[0])}
	}
	plan, err := search.SolveWithin(p, func() time.Duration { return time.Since(start) }, nil)
	if conflict := new(search.Conflict); errors.As(err, &conflict) {
		return told(writeJSON(out, conflictAnswer{conflict}))
	}
	if err != nil {
		return err
	}
	elapsed := time.Since(start).Milliseconds()
	return writeJSON(out, seasonAnswer{plan, explain.Reasons(p, plan), elapsed})
}

func repairSeason(name string, in io.Reader, out io.Writer) error {
	var r seasonRepair
	if err := readJSON(name, in, &r); err != nil {
		return err
	}
	if r.FirstWeek < 1 {
		return badInput{fmt.Errorf("%s: first_week: %d: weeks start at 1", name, r.FirstWeek)}
	}
	p, plan, err := repair.Disrupted(r.Season, r.Plan.Plan, r.Changes)
	if err != nil {
		return badInput{fmt.Errorf("%s: %w", name, err)}
	}
	if bad := p.Check(); len(bad) > 0 {
		return badInput{fmt.Errorf("%s: season: %s", name, bad[0])}
	}
	start := time.Now()
	mended, err := repair.Repair(p, plan, r.FirstWeek, r.Changes...)
	if conflict := new(search.Conflict); errors.As(err, &conflict) {
		return told(writeJSON(out, conflictAnswer{conflict}))
	}
	if err != nil {
		return err
	}
	return writeJSON(out, repairAnswer{mended, time.Since(start).Milliseconds()})
}

func told(err error) error {
	if err != nil {
		return err
	}
	return errConflict
}
