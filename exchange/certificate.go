package exchange

import (
	"fmt"
	"strings"

	"github.com/go-pdf/fpdf"

	"vereda/core/calendar"
)

// Certificate is what somebody is handed who was given a rank.
type Certificate struct {
	Academy, Name, Rank, Belt, Ladder, By string
	On                                    calendar.Day
}

// belts are the colours of the woven band, by the colour word of the belt.
var belts = map[string][3]int{"white": {244, 240, 228}, "grey": {150, 150, 148}, "yellow": {222, 184, 60}, "orange": {206, 122, 44}, "green": {72, 120, 78}, "blue": {52, 92, 140}, "purple": {104, 68, 122}, "brown": {104, 72, 48}, "black": {28, 40, 38}}

// WriteCertificates writes a page for each, A4 across: a surveyor's sheet with the path that leads up to the rank, and the belt's band
// woven along its edge.
func WriteCertificates(all []Certificate) ([]byte, error) {
	pdf := newPaper("L", "Certificates")
	pdf.SetAutoPageBreak(false, 0)
	for _, c := range all {
		pdf.AddPage()
		pdf.SetFillColor(246, 243, 236)
		pdf.Rect(0, 0, 297, 210, "F")
		pdf.SetDrawColor(28, 40, 38)
		pdf.SetLineWidth(0.3)
		pdf.Rect(14, 14, 269, 182, "D")
		band(pdf, c.Belt)
		climb(pdf)
		pdf.SetTextColor(28, 40, 38)
		pdf.SetFont(textFont, "", 15)
		pdf.SetXY(34, 30)
		pdf.CellFormat(230, 8, printable(c.Academy), "", 0, "L", false, 0, "")
		pdf.SetFont(textFont, "B", size(pdf, printable(c.Name), 46, 225))
		pdf.SetXY(34, 62)
		pdf.CellFormat(230, 20, printable(c.Name), "", 0, "L", false, 0, "")
		pdf.SetFont(textFont, "", 17)
		pdf.SetXY(34, 86)
		pdf.CellFormat(230, 9, printable("has come as far as"), "", 0, "L", false, 0, "")
		pdf.SetFont(textFont, "B", size(pdf, printable(c.Rank), 34, 225))
		pdf.SetXY(34, 98)
		pdf.CellFormat(230, 16, printable(c.Rank), "", 0, "L", false, 0, "")
		pdf.SetFont(textFont, "", 12)
		pdf.SetXY(34, 176)
		pdf.CellFormat(110, 7, printable(fmt.Sprintf("%s, %s", c.On.Time().Format("2 January 2006"), c.Ladder)), "T", 0, "L", false, 0, "")
		pdf.SetXY(170, 176)
		pdf.CellFormat(95, 7, printable(c.By), "T", 0, "L", false, 0, "")
	}
	return output(pdf)
}

// size is the largest letters up to most in which a text is no wider than wide millimetres.
func size(pdf *fpdf.Fpdf, text string, most, wide float64) float64 {
	for s := most; s > 14; s-- {
		pdf.SetFont(textFont, "B", s)
		if pdf.GetStringWidth(text) <= wide {
			return s
		}
	}
	return 14
}

// band weaves the belt's colour along the left edge; two words of a belt (grey-white) are two threads.
func band(pdf *fpdf.Fpdf, belt string) {
	threads := [][3]int{}
	for _, word := range strings.FieldsFunc(strings.ToLower(belt), func(r rune) bool { return r == '-' || r == ' ' || r == '/' }) {
		if c, ok := belts[word]; ok {
			threads = append(threads, c)
		}
	}
	if len(threads) == 0 {
		threads = append(threads, belts["white"])
	}
	for i := range 45 {
		c := threads[i%len(threads)]
		shade := 0
		if i%2 == 1 {
			shade = 14
		}
		pdf.SetFillColor(max(0, c[0]-shade), max(0, c[1]-shade), max(0, c[2]-shade))
		pdf.Rect(18, 18+float64(i)*174/45, 9, 174.0/45, "F")
	}
	pdf.Rect(18, 18, 9, 174, "D")
}

// climb draws the way up: measured marks along a line that climbs.
func climb(pdf *fpdf.Fpdf) {
	pdf.SetDrawColor(70, 104, 122)
	pdf.SetLineWidth(0.8)
	x, y := 34.0, 160.0
	marks := [][2]float64{{70, 154}, {98, 158}, {130, 144}, {162, 147}, {196, 132}, {228, 135}, {262, 120}}
	for _, p := range marks {
		pdf.Line(x, y, p[0], p[1])
		x, y = p[0], p[1]
	}
	pdf.SetFillColor(246, 243, 236)
	for _, p := range marks { // over the line, so that it does not cross them
		x, y = p[0], p[1]
		pdf.Polygon([]fpdf.PointType{{X: x, Y: y - 2.4}, {X: x + 2.4, Y: y}, {X: x, Y: y + 2.4}, {X: x - 2.4, Y: y}}, "FD")
	}
	pdf.SetDrawColor(28, 40, 38)
	pdf.SetLineWidth(0.3)
}
