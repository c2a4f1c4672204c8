package exchange

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
)

func TestReports(t *testing.T) {
	r := Report{Academy: "The hall", Title: "Ōren <Vask>", Sub: "toward Blue", Made: calendar.MustDay("2026-11-24"), Foot: "An estimate.",
		Sections: []ReportSection{{Name: "Standing", Words: []string{"Seventeen of a hundred."}, Head: []string{"Technique", "Share"}, Right: []bool{false, true}}}}
	for i := range 120 {
		r.Sections[0].Rows = append(r.Sections[0].Rows, []string{fmt.Sprintf("Technique %d, %s", i, strings.Repeat("with a long name ", i%9)), fmt.Sprint(i)})
	}
	html, err := WriteReportHTML(r)
	require.NoError(t, err)
	assert.Contains(t, string(html), "Ōren &lt;Vask&gt;")
	assert.Equal(t, 120, strings.Count(string(html), "<td class=\"right\">"))
	assert.NotContains(t, string(html), "src=", "it fetches nothing")
	pdf, err := WriteReportPDF(r)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(pdf), "%PDF-"))
	assert.Greater(t, strings.Count(string(pdf), "/Type /Page\n"), 2, "the table goes on on the next page")
}
