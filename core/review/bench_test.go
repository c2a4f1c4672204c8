package review_test

import (
	"os"
	"testing"

	"vereda/core/library"
	"vereda/core/review"
	"vereda/core/safety"
	"vereda/exchange"
)

// BenchmarkLibrary reads the library that ships.
func BenchmarkLibrary(b *testing.B) {
	files, err := exchange.MarkdownIn(os.DirFS("../../demo/library"))
	if err != nil {
		b.Fatal(err)
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
