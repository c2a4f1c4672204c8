package exchange

import (
	"bytes"
	"strings"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/goregular"
)

// textFont is the letters of everything that is printed: Latin with all its marks, Greek and Cyrillic. They are
// inside the file, so that it reads the same everywhere.
const textFont = "text"

// newPaper begins a document of A4 pages, upright (P) or across (L).
func newPaper(orientation, title string) *fpdf.Fpdf {
	pdf := fpdf.New(orientation, "mm", "A4", "")
	pdf.AddUTF8FontFromBytes(textFont, "", goregular.TTF)
	pdf.AddUTF8FontFromBytes(textFont, "B", gobold.TTF)
	pdf.AddUTF8FontFromBytes(textFont, "I", goitalic.TTF)
	pdf.SetTitle(title, true)
	return pdf
}

// output is a finished document.
func output(pdf *fpdf.Fpdf) ([]byte, error) {
	var out bytes.Buffer
	err := pdf.Output(&out)
	return out.Bytes(), err
}

// printable replaces the signs that the letters do not have.
var printable = strings.NewReplacer("⇄", "<>", "✕", "×").Replace
