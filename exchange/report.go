package exchange

import (
	"bytes"
	"cmp"
	"html/template"
	"math"

	"github.com/go-pdf/fpdf"

	"vereda/core/calendar"
	"vereda/core/say"
)

// Report is a document of tables: for paper, or to be read elsewhere.
type Report struct {
	Academy, Title, Sub string
	Made                calendar.Day
	Sections            []ReportSection
	Foot                string
	In                  say.Language // in which it is written; English when empty
}

// ReportSection is a heading with words, a table, or both. The first column is the widest; those of numbers stand right.
type ReportSection struct {
	Name  string
	Words []string
	Head  []string
	Rows  [][]string
	Right []bool // which columns are numbers
}

var reportPage = template.Must(template.New("report").Funcs(template.FuncMap{"right": func(s ReportSection, i int) bool { return i < len(s.Right) && s.Right[i] }}).Parse(`<!doctype html>
<html lang="{{.Lang}}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{.Title}}</title>
<style>
@page { size: A4; margin: 14mm }
body { font: 10.5pt/1.4 "IBM Plex Sans", "Noto Sans", system-ui, sans-serif; color: #1c2826; max-width: 190mm; margin: 0 auto; padding: 12px }
h1 { font-size: 18pt; margin: 0 }
h2 { font-size: 12.5pt; margin: 14px 0 4px; border-bottom: 1px solid #1c2826; break-after: avoid }
table { border-collapse: collapse; width: 100% }
th { text-align: left; font-size: 9pt } td, th { padding: 2px 8px 2px 0; border-bottom: 1px solid #ddd6c8; vertical-align: top }
tr { break-inside: avoid } .right { text-align: right; font-variant-numeric: tabular-nums } .small { font-size: 9pt; font-style: italic }
@media print { body { padding: 0; max-width: none } }
</style>
</head>
<body>
<h1>{{.Title}}</h1>
<p>{{.Under}}</p>
{{range $s := .Sections}}<h2>{{.Name}}</h2>
{{range .Words}}<p>{{.}}</p>
{{end}}{{if .Rows}}<table>{{if .Head}}<thead><tr>{{range $i, $h := .Head}}<th{{if right $s $i}} class="right"{{end}}>{{$h}}</th>{{end}}</tr></thead>{{end}}
<tbody>{{range .Rows}}<tr>{{range $i, $c := .}}<td{{if right $s $i}} class="right"{{end}}>{{$c}}</td>{{end}}</tr>
{{end}}</tbody></table>
{{end}}{{end}}<p class="small">{{.Foot}}</p>
</body>
</html>
`))

// Under is the line under the title: whose it is, of what, and when it was made.
func (r Report) Under() string {
	return say.F("%s · %s · made on %s", r.Academy, r.Sub, r.Made).In(r.In)
}

// Lang is its language, for those who read it aloud.
func (r Report) Lang() say.Language { return cmp.Or(r.In, say.English) }

// WriteReportHTML writes a report as a document that needs nothing else.
func WriteReportHTML(r Report) ([]byte, error) {
	var out bytes.Buffer
	err := reportPage.Execute(&out, r)
	return out.Bytes(), err
}

// WriteReportPDF writes a report as PDF, on A4.
func WriteReportPDF(r Report) ([]byte, error) {
	pdf := newPaper("P", r.Title)
	pdf.SetMargins(14, 14, 14)
	pdf.SetAutoPageBreak(true, 14)
	pdf.AddPage()
	text := func(style string, size float64, words string) {
		pdf.SetFont(textFont, style, size)
		pdf.MultiCell(0, size*0.46, printable(words), "", "L", false)
	}
	text("B", 17, r.Title)
	text("", 10, r.Under())
	for _, s := range r.Sections {
		pdf.Ln(3)
		pdf.SetFont(textFont, "B", 12)
		pdf.CellFormat(0, 7, printable(s.Name), "B", 1, "L", false, 0, "")
		for _, w := range s.Words {
			text("", 10, w)
		}
		writeTable(pdf, s)
	}
	pdf.Ln(3)
	text("I", 8.5, r.Foot)
	return output(pdf)
}

const reportWidth = 182.0 // millimetres between the margins

// writeTable draws a table whose columns are as wide as what stands in them, the widest giving way where they do not fit.
func writeTable(pdf *fpdf.Fpdf, s ReportSection) {
	if len(s.Rows) == 0 {
		return
	}
	const size, line = 9.0, 4.4
	pdf.SetFont(textFont, "", size)
	wide := make([]float64, len(s.Rows[0]))
	for _, row := range append([][]string{s.Head}, s.Rows...) {
		for i, c := range row {
			if i < len(wide) {
				wide[i] = max(wide[i], pdf.GetStringWidth(printable(c))+3)
			}
		}
	}
	sum, widest := 0.0, 0
	for i, w := range wide {
		sum += w
		if w > wide[widest] {
			widest = i
		}
	}
	if sum > reportWidth {
		wide[widest] = max(30, wide[widest]-(sum-reportWidth))
	}
	draw := func(row []string, style string) {
		pdf.SetFont(textFont, style, size)
		lines := make([][]string, len(row))
		high := 1
		for i, c := range row {
			lines[i] = pdf.SplitText(printable(c), math.Max(5, wide[i]-2))
			high = max(high, len(lines[i]))
		}
		_, page := pdf.GetPageSize()
		if pdf.GetY()+float64(high)*line > page-14 {
			pdf.AddPage()
		}
		y := pdf.GetY()
		x := 14.0
		for i := range row {
			align := "L"
			if i < len(s.Right) && s.Right[i] {
				align = "R"
			}
			for n, words := range lines[i] {
				pdf.SetXY(x, y+float64(n)*line)
				pdf.CellFormat(wide[i], line, words, "", 0, align, false, 0, "")
			}
			x += wide[i]
		}
		pdf.SetDrawColor(221, 214, 200)
		pdf.Line(14, y+float64(high)*line, 14+reportWidth, y+float64(high)*line)
		pdf.SetXY(14, y+float64(high)*line)
	}
	if len(s.Head) == len(wide) {
		draw(s.Head, "B")
	}
	for _, row := range s.Rows {
		draw(row, "")
	}
}
