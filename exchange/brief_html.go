package exchange

import (
	"bytes"
	"html/template"
)

// briefPage is briefs as a document of its own: one sheet of A4 each, with nothing fetched from anywhere.
var briefPage = template.Must(template.New("brief").Parse(`<!doctype html>
<html lang="{{range $i, $b := .}}{{if not $i}}{{$b.Lang}}{{end}}{{end}}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{range $i, $b := .}}{{if $i}}, {{end}}{{$b.Class}} {{$b.Day}}{{end}}</title>
<style>
@page { size: A4; margin: 12mm 14mm }
body { font: 11pt/1.35 "IBM Plex Sans", "Noto Sans", system-ui, sans-serif; color: #1c2826; margin: 0 auto; padding: 12px; max-width: 190mm }
article { break-after: page; padding-bottom: 20px }
article:last-child { break-after: auto }
h1 { font-size: 18pt; margin: 0 }
h2 { font-size: 12.5pt; margin: 10px 0 3px; border-bottom: 1px solid #1c2826 }
p { margin: 3px 0 }
table { border-collapse: collapse; width: 100% }
td { padding: 1px 6px 1px 0; vertical-align: top }
td.minutes { text-align: right; width: 2.5em; font-variant-numeric: tabular-nums }
td.right { text-align: right; white-space: nowrap }
dl { display: grid; grid-template-columns: 7.5em 1fr; gap: 2px 8px; margin: 4px 0 }
dt { font-weight: bold }
dd { margin: 0 }
dd ol, dd ul { margin: 0; padding-left: 1.2em }
.small { font-size: 9pt; font-style: italic }
@media print {
body { padding: 0; max-width: none }
article { font-size: var(--size); line-height: 1.22; padding: 0 }
article h1 { font-size: 1.6em } article h2 { font-size: 1.1em; margin: 4px 0 1px } article p { margin: 1px 0 }
article dl { gap: 0 8px; margin: 1px 0 } article td { padding: 0 6px 0 0 } .small { font-size: 0.85em }
dd ol, dd ul { list-style-position: inside; padding: 0 }
dd ol li, dd ul li { display: inline } dd li:not(:last-child)::after { content: " ·" }
}
@media (max-width: 480px) { dl { grid-template-columns: 1fr } }
</style>
</head>
<body>
{{range $b := .}}<article style="--size: {{.Size}}pt">
<h1>{{.Class}}</h1>
<p>{{.Under}}</p>
{{if .Note}}<p><em>{{.LastNote}}</em></p>{{end}}
{{range .Why}}<p>{{.}}</p>{{end}}
{{if .Segments}}<h2>{{.Own "The class"}}</h2>
<table>{{range .Segments}}<tr><td class="minutes">{{.Minutes}}</td><td>{{.Name}}</td><td class="right">{{.Repetitions}}</td></tr>{{end}}</table>{{end}}
{{if .Movements}}<h2>{{.Own "The movement it stands on"}}</h2>{{range .Movements}}<p>{{.}}</p>{{end}}{{end}}
{{range .Techniques}}<h2>{{$b.Heading .}}</h2>
{{if not $b.Short}}<p>{{.Summary}}</p>{{end}}
<dl>
{{if .Points}}<dt>{{$b.Own "Key points"}}</dt><dd><ol>{{range .Points}}<li>{{.}}</li>{{end}}</ol></dd>{{end}}
{{if .Gates}}<dt>{{$b.Own "Gates"}}</dt><dd><ul>{{range .Gates}}<li>{{.}}</li>{{end}}</ul></dd>{{end}}
{{if .SetUps}}<dt>{{$b.Own "More of these"}}</dt><dd><ul>{{range .SetUps}}<li>{{.}}</li>{{end}}</ul></dd>{{end}}
{{if .Watch}}<dt>{{$b.Own "Watch"}}</dt><dd><ul>{{range .Watch}}<li>{{.}}</li>{{end}}</ul></dd>{{end}}
{{if not $b.Short}}{{if .Asks}}<dt>{{$b.Own "Ask"}}</dt><dd><ul>{{range .Asks}}<li>{{.}}</li>{{end}}</ul></dd>{{end}}
{{if .Forks}}<dt>{{$b.Own "If they react"}}</dt><dd><ul>{{range .Forks}}<li>{{.}}</li>{{end}}</ul></dd>{{end}}
{{if .Variants}}<dt>{{$b.Own "Only if time"}}</dt><dd>{{range $i, $v := .Variants}}{{if $i}}, {{end}}{{$v}}{{end}}</dd>{{end}}{{end}}
</dl>{{end}}
{{if .Cautions}}<h2>{{.Own "Cautions"}}</h2><p>{{range .Cautions}}{{.}} {{end}}</p><p class="small">{{.Defers}}</p>{{end}}
{{if .Short}}<p class="small">{{.Own "Shortened to one page: questions, reactions and variations stand on the sheet."}}</p>{{end}}
</article>
{{end}}</body>
</html>
`))

// WriteBriefsHTML writes briefs as one document that needs nothing else, a printed page each.
func WriteBriefsHTML(all []Brief) ([]byte, error) {
	type sized struct {
		Brief
		Size  float64
		Short bool
	}
	pages := make([]sized, len(all))
	scratch := newPaper("P", "")
	for i, b := range all { // a little smaller than it fits its page on paper: browsers set lines wider
		size, short := fitBrief(scratch, b)
		pages[i] = sized{b, size * 0.92, short}
	}
	var out bytes.Buffer
	err := briefPage.Execute(&out, pages)
	return out.Bytes(), err
}
