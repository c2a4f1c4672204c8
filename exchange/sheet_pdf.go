package exchange

import "vereda/core/say"

// RankSheet is what one rank asks for, to be printed: as a booklet to learn from,
// or as a test sheet to mark.
type RankSheet struct {
	Academy string       `json:"academy"`
	Title   say.Sentence `json:"title"`
	Under   say.Sentence `json:"under"`
	Test    bool         `json:"test"`
	Items   []SheetItem  `json:"items"`
	Defers  say.Sentence `json:"defers"`
}

// SheetItem is one requirement.
type SheetItem struct {
	Name     string         `json:"name"`
	Or       string         `json:"or,omitempty"`
	Asked    say.Sentence   `json:"asked" doc:"The rung and sides"`
	Summary  string         `json:"summary"`
	Cautions []say.Sentence `json:"cautions"`
	Sides    []SheetSide    `json:"sides"`
}

// SheetSide is one side of a technique as it is read there.
type SheetSide struct {
	Side   say.Sentence `json:"side"`
	Points []SheetPoint `json:"points"`
}

// SheetPoint is one key point.
type SheetPoint struct {
	Cue  string `json:"cue"`
	Gate bool   `json:"gate"`
}

// WriteSheetPDF writes a rank's sheet as PDF, A4, in a language.
func WriteSheetPDF(s RankSheet, in say.Language) ([]byte, error) {
	pdf := newPaper("P", s.Title.In(in))
	words := func(format say.Sentence, values ...any) string { return printable(say.F(format, values...).In(in)) }
	pdf.SetMargins(16, 16, 16)
	pdf.SetAutoPageBreak(true, 16)
	pdf.SetFooterFunc(func() {
		pdf.SetY(-12)
		pdf.SetFont(textFont, "", 8)
		pdf.CellFormat(0, 5, words("%s · %s · page %d", s.Academy, s.Title, pdf.PageNo()), "", 0, "C", false, 0, "")
	})
	pdf.AddPage()
	pdf.SetFont(textFont, "B", 18)
	pdf.MultiCell(0, 8, words("%s", s.Title), "", "L", false)
	pdf.SetFont(textFont, "", 10)
	pdf.MultiCell(0, 5, words("%s", s.Under), "", "L", false)
	if s.Test {
		pdf.MultiCell(0, 7, words("Student ______________________   Coach ______________________   Date ______________"), "", "L", false)
	}
	pdf.MultiCell(0, 5, words("%s", s.Defers), "", "L", false)
	for i, item := range s.Items {
		pdf.Ln(2)
		pdf.SetFont(textFont, "B", 12)
		pdf.MultiCell(0, 6, words("%d. %s", i+1, item.Name), "T", "L", false)
		pdf.SetFont(textFont, "", 9)
		asked := item.Asked
		if item.Or != "" {
			asked = say.F("%s; or %s", asked, item.Or)
		}
		pdf.MultiCell(0, 4.4, words("%s", asked), "", "L", false)
		if !s.Test {
			pdf.MultiCell(0, 4.4, printable(item.Summary), "", "L", false)
		}
		for _, side := range item.Sides {
			if side.Side != "" {
				pdf.SetFont(textFont, "B", 9)
				pdf.MultiCell(0, 4.6, words("%s side", side.Side), "", "L", false)
			}
			pdf.SetFont(textFont, "", 9)
			for n, p := range side.Points {
				point := words("%d. %s", n+1, p.Cue)
				if p.Gate {
					point += "  " + words("[gate]")
				}
				if s.Test {
					pdf.CellFormat(34, 4.6, words("seen [ ]  prompted [ ]  no [ ]"), "", 0, "L", false, 0, "")
					pdf.SetX(pdf.GetX() + 18)
				}
				pdf.MultiCell(0, 4.6, point, "", "L", false)
			}
		}
		if len(item.Cautions) > 0 {
			pdf.SetFont(textFont, "I", 8.5)
			pdf.MultiCell(0, 4.2, words("Caution: %s", say.Join(" ", item.Cautions...)), "", "L", false)
		}
	}
	return output(pdf)
}
