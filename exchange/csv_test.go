package exchange_test

import (
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"pgregory.net/rapid"

	"vereda/exchange"
)

var columns = map[string][]string{"technique": {"Técnica"}, "rung": {"level asked"}}

func wide(text string, swap bool) []byte {
	var out []byte
	for _, u := range append([]uint16{0xfeff}, utf16.Encode([]rune(text))...) {
		lo, hi := byte(u), byte(u>>8)
		if swap {
			lo, hi = hi, lo
		}
		out = append(out, lo, hi)
	}
	return out
}

// However a spreadsheet writes it, the same list is read.
func TestListsAreReadHoweverTheyAreWritten(t *testing.T) {
	plain := "Técnica;Level Asked\r\nmeia-guarda;passed\r\n;\r\n\"two\nlines\";drilled\r\n"
	old, err := charmap.Windows1252.NewEncoder().String(plain)
	require.NoError(t, err)
	for name, text := range map[string][]byte{
		"utf-8": []byte(plain), "mark": []byte("\xef\xbb\xbf" + plain), "utf-16 little": wide(plain, false), "utf-16 big": wide(plain, true),
		"windows-1252": []byte(old), "tabs": []byte(strings.ReplaceAll(plain, ";", "\t")), "commas": []byte(strings.ReplaceAll(plain, ";", ",")),
	} {
		s, err := exchange.ReadCSV("list.csv", text, columns)
		require.NoError(t, err, name)
		require.Len(t, s.Rows, 2, "%s: an empty row is no row", name)
		assert.Equal(t, []string{"meia-guarda", "passed", "", "two\nlines"}, []string{s.Get(s.Rows[0], "technique"), s.Get(s.Rows[0], "rung"), s.Get(s.Rows[0], "weight"), s.Get(s.Rows[1], "technique")}, name)
		assert.Equal(t, []int{2, 4}, []int{s.Rows[0].Line, s.Rows[1].Line}, name)
		assert.False(t, s.Has("weight"))
	}
	_, err = exchange.ReadCSV("list.csv", nil, columns)
	assert.EqualError(t, err, "list.csv: it is empty: the first line names the columns")
}

// What is written comes back, and no cell is left that a spreadsheet would run.
func TestListsRoundTripAndRunNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cell := rapid.StringMatching(`[=+@-]?[a-zA-Zéß;," ]{0,8}[a-z]`)
		var rows [][]string
		for range rapid.IntRange(1, 5).Draw(t, "rows") {
			rows = append(rows, []string{strings.TrimSpace(cell.Draw(t, "technique")), strings.TrimSpace(cell.Draw(t, "rung"))})
		}
		text, err := exchange.WriteCSV(append([][]string{{"technique", "rung"}}, rows...))
		require.NoError(t, err)
		s, err := exchange.ReadCSV("list.csv", text, columns)
		require.NoError(t, err)
		require.Len(t, s.Rows, len(rows))
		for i, r := range s.Rows {
			assert.Equal(t, rows[i], []string{s.Get(r, "technique"), s.Get(r, "rung")})
		}
		for _, line := range strings.FieldsFunc(strings.TrimPrefix(string(text), "\xef\xbb\xbf"), func(r rune) bool { return r == '\n' }) {
			assert.NotContains(t, "=+-@", strings.TrimPrefix(line, `"`)[:1], line)
		}
	})
}

// Whatever is thrown at the reader, it answers or says what is wrong, and a
// cell asked for is never out of range.
func FuzzReadCSV(f *testing.F) {
	f.Add([]byte("technique,rung\na,passed\n"))
	f.Add([]byte("\xff\xfet\x00;\x00"))
	f.Add([]byte("technique\t\"rung\n\x80"))
	f.Fuzz(func(t *testing.T, text []byte) {
		s, err := exchange.ReadCSV("list.csv", text, columns)
		if err != nil {
			assert.True(t, strings.HasPrefix(err.Error(), "list.csv: "), err.Error())
			return
		}
		for _, r := range s.Rows {
			assert.Positive(t, r.Line)
			assert.LessOrEqual(t, len(s.Get(r, "technique"))+len(s.Get(r, "rung")), 3*len(text))
		}
	})
}
