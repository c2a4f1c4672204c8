package main

import (
	"io"
	"time"

	"github.com/spf13/cobra"

	"vereda/core/ledger"
	"vereda/core/testday"
	"vereda/core/tonight"
)

// tonightAnswer is what vereda tonight writes.
type tonightAnswer struct {
	tonight.Answer
	Elapsed int64 `json:"elapsed_ms"`
}

func tonightCommand() *cobra.Command {
	return &cobra.Command{Use: "tonight FILE", Short: "Choose which checks are worth most in the minutes there are; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return chooseChecks(args[0], c.InOrStdin(), c.OutOrStdout())
	}}
}

func chooseChecks(name string, in io.Reader, out io.Writer) error {
	var p tonight.Problem
	if err := readJSON(name, in, &p); err != nil {
		return err
	}
	if err := firstOf(name, p.Problems()); err != nil {
		return err
	}
	start := time.Now()
	a := tonight.Choose(p)
	return writeJSON(out, tonightAnswer{a, time.Since(start).Milliseconds()})
}

// readinessAnswer is what vereda readiness writes.
type readinessAnswer struct {
	ledger.Likely
	Forward []ledger.Gain `json:"forward" doc:"What would bring the middle day forward, most first"`
	Elapsed int64         `json:"elapsed_ms"`
}

func readinessCommand() *cobra.Command {
	return &cobra.Command{Use: "readiness FILE", Short: "When somebody will likely have all that a rank asks for, as a range of days; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return foretell(args[0], c.InOrStdin(), c.OutOrStdout())
	}}
}

func foretell(name string, in io.Reader, out io.Writer) error {
	var o ledger.Outlook
	if err := readJSON(name, in, &o); err != nil {
		return err
	}
	if err := firstOf(name, o.Problems()); err != nil {
		return err
	}
	start := time.Now()
	a := readinessAnswer{Likely: ledger.Forecast(o), Forward: ledger.Forward(o)}
	if a.Forward == nil {
		a.Forward = []ledger.Gain{}
	}
	a.Elapsed = time.Since(start).Milliseconds()
	return writeJSON(out, a)
}

// retentionRecord is what vereda retention fit reads.
type retentionRecord struct {
	Courses []ledger.Course       `json:"courses"`
	Rules   *ledger.StandingRules `json:"rules,omitempty" required:"false" doc:"In use; the usual ones when left out"`
}

func retentionCommand() *cobra.Command {
	c := &cobra.Command{Use: "retention", Short: "How fast things fade, on files"}
	c.AddCommand(&cobra.Command{Use: "fit FILE", Short: "Fit half-life and growth to a record of checks; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return fitRetention(args[0], c.InOrStdin(), c.OutOrStdout())
	}})
	return c
}

func fitRetention(name string, in io.Reader, out io.Writer) error {
	var r retentionRecord
	if err := readJSON(name, in, &r); err != nil {
		return err
	}
	if err := firstOf(name, ledger.CourseProblems(r.Courses)); err != nil {
		return err
	}
	rules := ledger.DefaultStanding
	if r.Rules != nil {
		rules = *r.Rules
	}
	return writeJSON(out, ledger.FitRetention(r.Courses, rules))
}

func testDayCommand() *cobra.Command {
	return &cobra.Command{Use: "testday FILE", Short: "Plan a day of tests: who is examined by whom and when; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return planTestDay(args[0], c.InOrStdin(), c.OutOrStdout())
	}}
}

func planTestDay(name string, in io.Reader, out io.Writer) error {
	var p testday.Problem
	if err := readJSON(name, in, &p); err != nil {
		return err
	}
	if err := firstOf(name, p.Problems()); err != nil {
		return err
	}
	return writeJSON(out, testday.Plan(p))
}
