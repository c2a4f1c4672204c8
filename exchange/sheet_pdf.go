package exchange

import (
	"fmt"
	"strings"
)

// RankSheet is what one rank asks for, to be printed: as a booklet to learn from,
// or as a test sheet to mark.
type RankSheet struct {
	Academy string      `json:"academy"`
	Title   string      `json:"title"`
	Under   string      `json:"under"`
	Test    bool        `json:"test"`
	Items   []SheetItem `json:"items"`
	Defers  string      `json:"defers"`
}

// SheetItem is one requirement.
type SheetItem struct {
	Name     string      `json:"name"`
	Or       string      `json:"or,omitempty"`
	Asked    string      `json:"asked" doc:"The rung and sides"`
	Summary  string      `json:"summary"`
	Cautions []string    `json:"cautions"`
	Sides    []SheetSide `json:"sides"`
}

// SheetSide is one side of a technique as it is read there.
type SheetSide struct {
	Side   string       `json:"side"`
	Points []SheetPoint `json:"points"`
}

// SheetPoint is one key point.
type SheetPoint struct {
	Cue  string `json:"cue"`
	Gate bool   `json:"gate"`
}

// WriteSheetPDF writes a rank's sheet as PDF, A4.
func WriteSheetPDF(s RankSheet) ([]byte, error) {
	pdf := newPaper("P", s.Title)
	say := printable
	pdf.SetMargins(16, 16, 16)
	pdf.SetAutoPageBreak(true, 16)
	pdf.SetFooterFunc(func() {
		pdf.SetY(-12)
		pdf.SetFont(textFont, "", 8)
		pdf.CellFormat(0, 5, say(fmt.Sprintf("%s · %s · page %d", s.Academy, s.Title, pdf.PageNo())), "", 0, "C", false, 0, "")
	})
	pdf.AddPage()
	pdf.SetFont(textFont, "B", 18)
	pdf.MultiCell(0, 8, say(s.Title), "", "L", false)
	pdf.SetFont(textFont, "", 10)
	pdf.MultiCell(0, 5, say(s.Under), "", "L", false)
	if s.Test {
		pdf.MultiCell(0, 7, say("Student ______________________   Coach ______________________   Date ______________"), "", "L", false)
	}
	pdf.MultiCell(0, 5, say(s.Defers), "", "L", false)
	for i, item := range s.Items {
		pdf.Ln(2)
		pdf.SetFont(textFont, "B", 12)
		pdf.MultiCell(0, 6, say(fmt.Sprintf("%d. %s", i+1, item.Name)), "T", "L", false)
		pdf.SetFont(textFont, "", 9)
		asked := item.Asked
		if item.Or != "" {
			asked += "; or " + item.Or
		}
		pdf.MultiCell(0, 4.4, say(asked), "", "L", false)
		if !s.Test {
			pdf.MultiCell(0, 4.4, say(item.Summary), "", "L", false)
		}
		for _, side := range item.Sides {
			if side.Side != "" {
				pdf.SetFont(textFont, "B", 9)
				pdf.MultiCell(0, 4.6, say(side.Side+" side"), "", "L", false)
			}
			pdf.SetFont(textFont, "", 9)
			for n, p := range side.Points {
				gate := ""
				if p.Gate {
					gate = "  [gate]"
				}
				if s.Test {
					pdf.CellFormat(34, 4.6, say("seen [ ]  prompted [ ]  no [ ]"), "", 0, "L", false, 0, "")
					pdf.SetX(pdf.GetX() + 18)
				}
				pdf.MultiCell(0, 4.6, say(fmt.Sprintf("%d. %s%s", n+1, p.Cue, gate)), "", "L", false)
			}
		}
		if len(item.Cautions) > 0 {
			pdf.SetFont(textFont, "I", 8.5)
			pdf.MultiCell(0, 4.2, say("Caution: "+strings.Join(item.Cautions, " ")), "", "L", false)
		}
	}
	return output(pdf)
}
