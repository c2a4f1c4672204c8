package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/spf13/cobra"

	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/mat"
	"vereda/core/rotation"
	"vereda/core/season"
	"vereda/core/testday"
	"vereda/core/tonight"
	"vereda/exchange"
)

// schemas are the documents the program reads and writes, each with its type.
var schemas = map[string]any{
	"bundle":               exchange.Bundle{},
	"table-check":          library.Table{},
	"table-check-answer":   tableAnswer{},
	"map-report-answer":    library.MapReport{},
	"audit-answer":         auditAnswer{},
	"season-plan":          season.Problem{},
	"season-plan-answer":   seasonAnswer{},
	"season-repair":        seasonRepair{},
	"season-repair-answer": repairAnswer{},
	"rotation":             rotation.Problem{},
	"rotation-answer":      rotationAnswer{},
	"stations":             rotation.Mat{},
	"stations-answer":      stationsAnswer{},
	"readiness":            ledger.Outlook{},
	"readiness-answer":     readinessAnswer{},
	"retention-fit":        retentionRecord{},
	"retention-fit-answer": ledger.RetentionFit{},
	"test-day":             testday.Problem{},
	"test-day-answer":      testday.Answer{},
	"tonight":              tonight.Problem{},
	"tonight-answer":       tonightAnswer{},
	"sheet-fit":            sheetProblem{},
	"sheet-fit-answer":     mat.Fitted{},
}

// schemasCommand writes the JSON Schemas of exchange/schema from the types, so
// that they cannot say anything else.
func schemasCommand() *cobra.Command {
	return &cobra.Command{Use: "schemas FOLDER", Short: "Write the JSON Schemas of the formats into a folder", Args: cobra.ExactArgs(1), RunE: func(_ *cobra.Command, args []string) error {
		for name, of := range schemas {
			text, err := schemaText(name, of)
			if err != nil {
				return err
			}
			if err := os.WriteFile(filepath.Join(args[0], name+".json"), text, 0o644); err != nil {
				return err
			}
		}
		return nil
	}}
}

func schemaText(name string, of any) ([]byte, error) {
	huma.DefaultArrayNullable = false // lists are empty, never missing
	registry := huma.NewMapRegistry("#/$defs/", func(t reflect.Type, hint string) string {
		for t.Kind() == reflect.Pointer {
			t = t.Elem()
		}
		path, name := t.PkgPath(), huma.DefaultSchemaNamer(t, hint)
		pkg := path[strings.LastIndexByte(path, '/')+1:]
		if core, ok := strings.CutPrefix(path, "vereda/core/"); ok { // the area of the job, whatever room in it
			pkg, _, _ = strings.Cut(core, "/")
		}
		if pkg == "main" || pkg == "vereda" { // this program's own, by either name
			return name
		}
		return pkg + "." + name
	})
	// A pattern is a list in the program and an object in a file.
	registry.RegisterTypeAlias(reflect.TypeFor[library.Pattern](), reflect.TypeFor[map[string][]string]())
	registry.RegisterTypeAlias(reflect.TypeFor[json.RawMessage](), reflect.TypeFor[map[string]any]())
	root := registry.Schema(reflect.TypeOf(of), true, name)
	text, err := json.MarshalIndent(map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": name, "$ref": root.Ref, "$defs": registry.Map()}, "", "  ")
	return append(text, '\n'), err
}
