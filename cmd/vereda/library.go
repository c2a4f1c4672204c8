package main

import (
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"vereda/core/library"
	"vereda/core/review"
	"vereda/core/safety"
	"vereda/core/validation"
	"vereda/exchange"
)

func libraryCommand() *cobra.Command {
	c := &cobra.Command{Use: "library", Short: "A library on files"}
	check := &cobra.Command{Use: "check DIR|BUNDLE", Short: "Read a library critically: sides that cannot be, answers that start elsewhere, what is unsafe or says nothing", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error { return checkLibrary(args[0], cmd.OutOrStdout()) }}
	c.AddCommand(check)
	return c
}

// libraryReview is what a library's check says.
type libraryReview struct {
	Techniques int              `json:"techniques"`
	Problems   []recordProblem  `json:"problems" doc:"What keeps a record from being used, or is worth a look in its form"`
	Counts     []review.Count   `json:"counts"`
	Findings   []review.Finding `json:"findings"`
}

type recordProblem struct {
	Record string `json:"record"`
	validation.Problem
}

// checkLibrary reviews a folder of Markdown records, under the gates an academy begins with, or a bundle with its own gates and its curricula.
func checkLibrary(path string, out io.Writer) error {
	info, err := os.Stat(path)
	if err != nil {
		return badInput{fmt.Errorf("%s: it cannot be opened: give a folder of Markdown records, or a bundle", path)}
	}
	var lib *library.Library
	gates := safety.UsualGates()
	found := []review.Finding{}
	if info.IsDir() {
		if lib, err = readFolder(path); err != nil {
			return badInput{err}
		}
	} else {
		b, err := readBundle(path, nil)
		if err != nil {
			return err
		}
		lib = b.Library()
		if len(b.Settings.Gates) > 0 {
			gates = b.Settings.Gates
		}
		found = append(found, review.Curricula(lib, b.Ladders, b.Curricula)...)
	}
	r := libraryReview{Techniques: len(lib.Techniques()), Problems: []recordProblem{}}
	for _, t := range lib.Techniques() {
		for _, p := range lib.Check(t) {
			r.Problems = append(r.Problems, recordProblem{t.ID, p})
		}
	}
	for _, t := range lib.ForkTables() {
		for _, p := range lib.CheckForkTable(t) {
			r.Problems = append(r.Problems, recordProblem{t.ID, p})
		}
	}
	r.Findings = append(review.Library(lib, gates), found...)
	r.Counts = review.Counts(r.Findings)
	return writeJSON(out, r)
}

func readFolder(path string) (*library.Library, error) {
	files, err := exchange.MarkdownIn(os.DirFS(path))
	if err != nil {
		return nil, err
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("%s: there is no Markdown file in it: give a folder that the library was exported to", path)
	}
	positions, techniques, sets, tables, err := exchange.LibraryOf(exchange.ReadFolder(files))
	if err != nil {
		return nil, err
	}
	return library.New(positions, techniques).With(sets, tables), nil
}
