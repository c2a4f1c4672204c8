package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"vereda/core/library"
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
	enc := json.NewEncoder(out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(answer)
}

// readJSON reads one document and nothing else; it refuses fields it does not know.
func readJSON(name string, in io.Reader, into any) error {
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return badInput{fmt.Errorf("%s: it cannot be opened: %w", name, errors.Unwrap(err))}
		}
		defer f.Close()
		in = f
	}
	text, err := io.ReadAll(in)
	if err != nil {
		return badInput{fmt.Errorf("%s: it cannot be read: %w", name, err)}
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
