package exchange

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"vereda/core/library"
)

// Sheet is a CSV file as it was read: its header, matched loosely, and its rows.
type Sheet struct {
	columns map[string]int
	Rows    []SheetRow
}

// SheetRow is one row with the line it stands in.
type SheetRow struct {
	Line  int
	cells []string
}

// formulaStarts begin what a spreadsheet would run.
const formulaStarts = "=+-@\t\r"

// Get is the cell under a column; empty where there is none. What WriteCSV
// defused is read as it was.
func (s Sheet) Get(r SheetRow, column string) string {
	i, ok := s.columns[column]
	if !ok || i >= len(r.cells) {
		return ""
	}
	cell := strings.TrimSpace(r.cells[i])
	if len(cell) > 1 && cell[0] == '\'' && strings.IndexByte(formulaStarts, cell[1]) >= 0 {
		cell = cell[1:]
	}
	return cell
}

// Has says whether there is such a column.
func (s Sheet) Has(column string) bool { _, ok := s.columns[column]; return ok }

// How much a list may hold. What is larger is refused before anything is compared.
const (
	MostRows    = 20000
	mostColumns = 200
	mostCell    = 4000 // characters
)

// ReadCSV reads a CSV file with comma, semicolon or tab between its cells; in
// UTF-8 with or without byte order mark, UTF-16 with one, or Windows-1252. names lists,
// for each column, what its header may be called; case, accents and marks do
// not matter.
func ReadCSV(file string, text []byte, names map[string][]string) (Sheet, error) {
	plain, err := decodeText(text)
	if err != nil {
		return Sheet{}, Problems{fmt.Sprintf("%s: %v", file, err)}
	}
	r := csv.NewReader(strings.NewReader(plain))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = separator(plain), -1, true
	header, err := r.Read()
	if errors.Is(err, io.EOF) {
		return Sheet{}, Problems{file + ": it is empty: the first line names the columns"}
	}
	if err != nil {
		return Sheet{}, Problems{fmt.Sprintf("%s: %v", file, err)}
	}
	if err := fitsIn(header); err != nil {
		return Sheet{}, Problems{fmt.Sprintf("%s, line 1: %v", file, err)}
	}
	s := Sheet{columns: map[string]int{}}
	column := map[string]string{}
	for name, called := range names {
		for _, other := range append([]string{name}, called...) {
			column[library.Fold(other)] = name
		}
	}
	for i, h := range header {
		if name, ok := column[library.Fold(h)]; ok {
			s.columns[name] = i
		}
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return s, nil
		}
		if err != nil {
			return s, Problems{fmt.Sprintf("%s: %v", file, err)}
		}
		line, _ := r.FieldPos(0)
		if err := fitsIn(cells); err != nil {
			return s, Problems{fmt.Sprintf("%s, line %d: %v", file, line, err)}
		}
		if len(s.Rows) == MostRows {
			return s, Problems{fmt.Sprintf("%s: it holds more than %d lines: send it in parts", file, MostRows)}
		}
		if strings.TrimSpace(strings.Join(cells, "")) != "" {
			s.Rows = append(s.Rows, SheetRow{line, cells})
		}
	}
}

// fitsIn says what is too much in a line.
func fitsIn(cells []string) error {
	if len(cells) > mostColumns {
		return fmt.Errorf("it has %d columns: keep it under %d", len(cells), mostColumns)
	}
	for i, cell := range cells {
		if len(cell) > mostCell {
			return fmt.Errorf("column %d holds %d characters: keep it under %d, and look for a quotation mark that is not closed", i+1, len(cell), mostCell)
		}
	}
	return nil
}

func decodeText(text []byte) (string, error) {
	switch {
	case bytes.HasPrefix(text, []byte("\xef\xbb\xbf")):
		return string(text[3:]), nil
	case bytes.HasPrefix(text, []byte("\xff\xfe")):
		return fromUTF16(text[2:], binary.LittleEndian), nil
	case bytes.HasPrefix(text, []byte("\xfe\xff")):
		return fromUTF16(text[2:], binary.BigEndian), nil
	case utf8.Valid(text):
		return string(text), nil
	}
	return charmap.Windows1252.NewDecoder().String(string(text))
}

func fromUTF16(text []byte, order binary.ByteOrder) string {
	units := make([]uint16, len(text)/2)
	for i := range units {
		units[i] = order.Uint16(text[2*i:])
	}
	return string(utf16.Decode(units))
}

// separator is whichever of the three stands most often in the first line.
func separator(text string) rune {
	first, _, _ := strings.Cut(text, "\n")
	best, most := ',', strings.Count(first, ",")
	for _, c := range []rune{';', '\t'} {
		if n := strings.Count(first, string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}

// WriteCSV writes rows as CSV with a byte order mark, as spreadsheets like it.
// A cell that a spreadsheet would run as a formula is defused with an apostrophe.
func WriteCSV(rows [][]string) ([]byte, error) {
	var out bytes.Buffer
	out.WriteString("\xef\xbb\xbf")
	w := csv.NewWriter(&out)
	for _, row := range rows {
		safe := make([]string, len(row))
		for i, cell := range row {
			safe[i] = cell
			if cell != "" && strings.IndexByte(formulaStarts, cell[0]) >= 0 {
				safe[i] = "'" + cell
			}
		}
		if err := w.Write(safe); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}
