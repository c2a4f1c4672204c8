package exchange

import (
	"cmp"
	"fmt"
	"strings"

	"github.com/go-pdf/fpdf"

	"vereda/core/calendar"
	"vereda/core/say"
)

// Brief is a class on one page, for a coach who did not plan it.
type Brief struct {
	Academy, Class, Start, Mat, Lead string
	On                               calendar.Day
	Minutes                          int
	Note, NoteBy                     string
	Why                              []string
	Movements                        []string
	Segments                         []BriefSegment
	Techniques                       []BriefTechnique
	Cautions                         []string
	Defers                           string
	In                               say.Language // the document's own words; English when empty
}

// BriefSegment is one line of the class.
type BriefSegment struct {
	Minutes           int
	Name, Repetitions string
}

// BriefTechnique is what of a technique another coach needs.
type BriefTechnique struct {
	Name, Kind, Summary                                 string
	Points, Gates, SetUps, Watch, Asks, Forks, Variants []string
}

const shortened say.Sentence = "Shortened to one page: questions, reactions and variations stand on the sheet."

// Under is the line under the name of the class: where, when, how long and for whom.
func (b Brief) Under() string {
	who := say.Sentence("no coach yet")
	if b.Lead != "" {
		who = say.F("for %s", b.Lead)
	}
	return say.F("%s · %s, %s · %d minutes · %s · %s", b.Academy, b.On, b.Start, b.Minutes, b.Mat, who).In(b.In)
}

// Heading is a technique as the brief heads it.
func (b Brief) Heading(t BriefTechnique) string {
	if t.Kind == "review" {
		return say.F("%s (review)", t.Name).In(b.In)
	}
	return t.Name
}

// LastNote is what the coach before wrote.
func (b Brief) LastNote() string {
	return say.F("Last coach’s note: %s (%s)", b.Note, b.NoteBy).In(b.In)
}

// Day is its day, as one says it.
func (b Brief) Day() string { return b.On.Say().In(b.In) }

// Lang is its language, for those who read it aloud.
func (b Brief) Lang() say.Language { return cmp.Or(b.In, say.English) }

// Own is one of the document's own words in its language.
func (b Brief) Own(words string) string { return say.Word(words).In(b.In) }

// WriteBrief writes a brief as PDF: one page of A4, in letters as large as fit it; where even the smallest do not, what matters least is cut and the
// page says so.
func WriteBrief(b Brief) ([]byte, error) {
	size, short := fitBrief(newPaper("P", ""), b)
	pdf := newPaper("P", say.F("Brief: %s", b.Class).In(b.In))
	writeBrief(pdf, b, size, short)
	return output(pdf)
}

// fitBrief says in which size a brief takes one page, and whether something has to be left out for it. It is tried on scratch, a paper that is thrown
// away: the letters are read once for all tries, which is most of what one costs.
func fitBrief(scratch *fpdf.Fpdf, b Brief) (size float64, short bool) {
	for _, size := range []float64{11, 10.5, 10, 9.5, 9, 8.5, 8, 7.5} {
		before := scratch.PageCount()
		if writeBrief(scratch, b, size, false); scratch.PageCount() == before+1 {
			return size, false
		}
	}
	return 7.5, true
}

func writeBrief(pdf *fpdf.Fpdf, b Brief, size float64, short bool) {
	pdf.SetMargins(14, 12, 14)
	pdf.SetAutoPageBreak(true, 12)
	pdf.AddPage()
	line := size * 0.46
	text := func(style string, by float64, words string) {
		pdf.SetFont(textFont, style, size*by)
		pdf.MultiCell(0, line*by, printable(words), "", "L", false)
	}
	own := func(words say.Sentence) string { return words.In(b.In) }
	head := func(words string) {
		pdf.Ln(line * 0.4)
		pdf.SetFont(textFont, "B", size*1.1)
		pdf.MultiCell(0, line*1.25, printable(words), "B", "L", false)
	}
	list := func(name string, lines []string) {
		if len(lines) == 0 {
			return
		}
		pdf.SetFont(textFont, "B", size)
		pdf.CellFormat(28, line, printable(name), "", 0, "L", false, 0, "")
		pdf.SetFont(textFont, "", size)
		left, _, _, _ := pdf.GetMargins()
		pdf.SetLeftMargin(left + 28)
		pdf.MultiCell(0, line, printable(strings.Join(lines, "\n")), "", "L", false)
		pdf.SetLeftMargin(left)
		pdf.SetX(left)
	}
	text("B", 1.7, b.Class)
	text("", 1, b.Under())
	if b.Note != "" {
		text("I", 1, b.LastNote())
	}
	text("", 1, strings.Join(b.Why, " "))
	head(own("The class"))
	pdf.SetFont(textFont, "", size)
	for _, s := range b.Segments {
		pdf.CellFormat(12, line, fmt.Sprint(s.Minutes), "", 0, "R", false, 0, "")
		pdf.CellFormat(128, line, printable(" "+s.Name), "", 0, "L", false, 0, "")
		pdf.CellFormat(0, line, printable(s.Repetitions), "", 1, "R", false, 0, "")
	}
	if len(b.Movements) > 0 {
		head(own("The movement it stands on"))
		text("", 1, strings.Join(b.Movements, "\n"))
	}
	for _, t := range b.Techniques {
		head(b.Heading(t))
		if !short {
			text("", 1, t.Summary)
		}
		list(own("Key points"), withNumbers(t.Points))
		list(own("Gates"), t.Gates)
		list(own("More of these"), t.SetUps)
		list(own("Watch"), t.Watch)
		if !short {
			list(own("Ask"), t.Asks)
			list(own("If they react"), t.Forks)
			if len(t.Variants) > 0 {
				list(own("Only if time"), []string{strings.Join(t.Variants, ", ")})
			}
		}
	}
	if len(b.Cautions) > 0 {
		head(own("Cautions"))
		text("", 1, strings.Join(b.Cautions, " "))
		text("I", 0.85, b.Defers)
	}
	if short {
		text("I", 0.85, own(shortened))
	}
}

func withNumbers(lines []string) []string {
	out := make([]string, len(lines))
	for i, l := range lines {
		out[i] = fmt.Sprintf("%d. %s", i+1, l)
	}
	return out
}
