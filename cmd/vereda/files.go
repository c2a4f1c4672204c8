package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/exchange"
)

// badInput is what ends the program with exit code 2: one line that names the
// file, the place and the mend.
type badInput struct{ error }

// tableAnswer is what vereda table check writes.
type tableAnswer struct {
	library.TableReport
	Minimal      []library.Rule `json:"minimal"`
	MinimalExact bool           `json:"minimal_exact"`
}

func tableCommand() *cobra.Command {
	c := &cobra.Command{Use: "table", Short: "Fork tables, on files"}
	c.AddCommand(&cobra.Command{Use: "check FILE", Short: "What a fork table leaves open, contradicts and could do without; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return checkTable(args[0], c.InOrStdin(), c.OutOrStdout())
	}})
	return c
}

func checkTable(name string, in io.Reader, out io.Writer) error {
	var t library.Table
	if err := readJSON(name, in, &t); err != nil {
		return err
	}
	if bad := t.Check(); len(bad) > 0 {
		return badInput{fmt.Errorf("%s: %s", name, bad[0])}
	}
	answer := tableAnswer{TableReport: t.Report()}
	answer.Minimal, answer.MinimalExact = t.Minimal()
	return writeJSON(out, answer)
}

func writeJSON(out io.Writer, answer any) error {
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(answer)
}

func mapCommand() *cobra.Command {
	c := &cobra.Command{Use: "map", Short: "The map of positions and techniques of a bundle, on files"}
	var asks string
	report := &cobra.Command{Use: "report FILE", Short: "Dead ends, what hangs on one technique, dilemmas, circuits, funnels, unanswered reactions, and what would open; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		return reportMap(args[0], asks, c.InOrStdin(), c.OutOrStdout())
	}}
	report.Flags().StringVar(&asks, "curriculum", "", "only what this curriculum of the bundle asks for; the rest is ranked by what it would open")
	c.AddCommand(report,
		&cobra.Command{Use: "dot FILE", Short: "The map in the DOT language", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			b, err := readBundle(args[0], c.InOrStdin())
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(exchange.WriteDOT(b.Library()))
			return err
		}},
		&cobra.Command{Use: "graphml FILE", Short: "The map as GraphML", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			b, err := readBundle(args[0], c.InOrStdin())
			if err != nil {
				return err
			}
			text, err := exchange.WriteGraphML(b.Library())
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(text)
			return err
		}})
	return c
}

func readBundle(name string, in io.Reader) (exchange.Bundle, error) {
	text, err := readInput(name, in)
	if err != nil {
		return exchange.Bundle{}, err
	}
	b, err := exchange.Read(text)
	if err != nil {
		first, _, _ := strings.Cut(err.Error(), "\n")
		return b, badInput{fmt.Errorf("%s: %s", name, first)}
	}
	return b, nil
}

func reportMap(name, asks string, in io.Reader, out io.Writer) error {
	b, err := readBundle(name, in)
	if err != nil {
		return err
	}
	lib := b.Library()
	var keep func(library.Technique) bool
	var next []library.Technique
	if asks != "" {
		asked := map[string]bool{}
		for _, c := range b.Curricula {
			for _, r := range c.Requirements {
				asked[r.Technique] = asked[r.Technique] || c.ID == asks
			}
		}
		if !slices.ContainsFunc(b.Curricula, func(c curriculum.Curriculum) bool { return c.ID == asks }) {
			return badInput{fmt.Errorf("%s: curricula: there is no %q: choose one of the bundle's", name, asks)}
		}
		keep, next = func(t library.Technique) bool { return asked[t.ID] }, lib.Techniques()
	}
	return writeJSON(out, lib.Map(keep).Report(next))
}

// readInput reads a file, or standard input for -.
func readInput(name string, in io.Reader) ([]byte, error) {
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, badInput{fmt.Errorf("%s: it cannot be opened: %w", name, errors.Unwrap(err))}
		}
		defer f.Close()
		in = f
	}
	text, err := io.ReadAll(in)
	if err != nil {
		return nil, badInput{fmt.Errorf("%s: it cannot be read: %w", name, err)}
	}
	return text, nil
}

// readJSON reads one document and nothing else; it refuses fields it does not know.
func readJSON(name string, in io.Reader, into any) error {
	text, err := readInput(name, in)
	if err != nil {
		return err
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	err = dec.Decode(into)
	if err == nil {
		if _, more := dec.Token(); more == nil {
			err = errors.New("something follows the document: take it out")
		}
	}
	if err == nil {
		return nil
	}
	at := dec.InputOffset()
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		at = syntax.Offset
	}
	line := 1 + bytes.Count(text[:min(int(at), len(text))], []byte("\n"))
	return badInput{fmt.Errorf("%s: line %d: %s", name, line, strings.TrimPrefix(err.Error(), "json: "))}
}
