package main

import (
	"io"
	"time"

	"github.com/spf13/cobra"

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
