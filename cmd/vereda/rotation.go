package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/spf13/cobra"

	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/validation"
)

// rotationAnswer is what vereda rotation writes for pairs and groups.
type rotationAnswer struct {
	rotation.Answer
	Elapsed int64 `json:"elapsed_ms"`
}

// stationsAnswer is what it writes for stations.
type stationsAnswer struct {
	rotation.Stationed
	Elapsed int64 `json:"elapsed_ms"`
}

func rotationCommand() *cobra.Command {
	return &cobra.Command{Use: "rotation FILE", Short: "Pairs and groups over some rounds, or groups that move between stations; - is standard input. Exit code 1 with the conditions in conflict when stations cannot be kept", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return rotate(args[0], c.InOrStdin(), c.OutOrStdout())
	}}
}

// rotate reads one of the two documents: the one with stations moves groups between them.
func rotate(name string, in io.Reader, out io.Writer) error {
	text, err := readInput(name, in)
	if err != nil {
		return err
	}
	var which struct {
		Stations json.RawMessage `json:"stations"`
	}
	if json.Unmarshal(text, &which) == nil && which.Stations != nil {
		return station(name, text, out)
	}
	var p rotation.Problem
	if err := readJSON("-", bytes.NewReader(text), &p); err != nil {
		return renamed(name, err)
	}
	if err := firstOf(name, p.Check()); err != nil {
		return err
	}
	start := time.Now()
	a := rotation.Rotate(p)
	return writeJSON(out, rotationAnswer{a, time.Since(start).Milliseconds()})
}

func station(name string, text []byte, out io.Writer) error {
	var m rotation.Mat
	if err := readJSON("-", bytes.NewReader(text), &m); err != nil {
		return renamed(name, err)
	}
	if err := firstOf(name, m.Check()); err != nil {
		return err
	}
	start := time.Now()
	plan, err := rotation.PlanStations(m)
	if conflict := new(rotation.Conflict); errors.As(err, &conflict) {
		return told(writeJSON(out, conflict))
	}
	if err != nil {
		return err
	}
	return writeJSON(out, stationsAnswer{plan, time.Since(start).Milliseconds()})
}

func firstOf(name string, found []validation.Problem) error {
	if len(found) > 0 {
		return badInput{fmt.Errorf("%s: %s", name, found[0])}
	}
	return nil
}

// renamed gives an error of what was read already the name of the file again.
func renamed(name string, err error) error {
	var bad badInput
	if name == "-" || !errors.As(err, &bad) {
		return err
	}
	return badInput{fmt.Errorf("%s%s", name, bad.Error()[1:])}
}

// sheetProblem is what vereda sheet fit reads.
type sheetProblem struct {
	Segments []mat.Segment `json:"segments" maxItems:"60"`
	Minutes  int           `json:"minutes" minimum:"0" maximum:"600"`
}

func sheetCommand() *cobra.Command {
	c := &cobra.Command{Use: "sheet", Short: "Class sheets, on files"}
	c.AddCommand(&cobra.Command{Use: "fit FILE", Short: "Fit segments to the minutes of a class; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return fitSheet(args[0], c.InOrStdin(), c.OutOrStdout())
	}})
	return c
}

func fitSheet(name string, in io.Reader, out io.Writer) error {
	var p sheetProblem
	if err := readJSON(name, in, &p); err != nil {
		return err
	}
	var found validation.Found
	found.Count("segments", len(p.Segments), 60)
	found.Between("minutes", p.Minutes, 0, 600, "minutes")
	seen := map[string]bool{}
	for i, s := range p.Segments {
		at := fmt.Sprintf("segments[%d]", i)
		if s.ID == "" || seen[s.ID] {
			found.Bad(at+".id", "%.60q: give each segment an identifier of its own", s.ID)
		}
		seen[s.ID] = true
		if s.Rank != mat.Must && s.Rank != mat.Should && s.Rank != mat.Could {
			found.Bad(at+".rank", "%.40q: say must, should or if there is time", s.Rank)
		}
		if s.Min < 1 || s.Min > s.Want || s.Want > s.Max || s.Max > 600 {
			found.Bad(at+".min", "least %d, wanted %d, most %d: they go upward, from 1 to 600", s.Min, s.Want, s.Max)
		}
	}
	if err := firstOf(name, found); err != nil {
		return err
	}
	return writeJSON(out, mat.Fit(p.Segments, p.Minutes))
}
