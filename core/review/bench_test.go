package review_test

import (
	"os"
	"path/filepath"
	"testing"

	"vereda/core/library"
	"vereda/core/review"
	"vereda/core/safety"
	"vereda/exchange"
)

// BenchmarkLibrary reads the library that ships.
func BenchmarkLibrary(b *testing.B) {
	var files []exchange.TextFile
	for _, folder := range []string{"techniques", "positions", "fork-tables", "variants"} {
		names, _ := filepath.Glob("../../demo/library/" + folder + "/*.md")
		for _, n := range names {
			text, err := os.ReadFile(n)
			if err != nil {
				b.Fatal(err)
			}
			files = append(files, exchange.TextFile{Name: n, Text: text})
		}
	}
	positions, techniques, sets, tables, err := exchange.LibraryOf(exchange.ReadFolder(files))
	if err != nil {
		b.Fatal(err)
	}
	lib := library.New(positions, techniques).With(sets, tables)
	b.Run("whole", func(b *testing.B) {
		for b.Loop() {
			review.Library(lib, safety.UsualGates())
		}
	})
	t, _ := lib.Technique("straight-arm-guard")
	b.Run("one", func(b *testing.B) {
		for b.Loop() {
			review.Technique(lib, safety.UsualGates(), t)
		}
	})
}
