package exchange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/sfnt"

	"vereda/core/calendar"
)

// A name is printed as it is written, whatever marks its letters carry.
func TestNamesArePrintedWithTheirMarks(t *testing.T) {
	letters, err := sfnt.Parse(gobold.TTF)
	require.NoError(t, err)
	for _, r := range "ŌřłŠžĞıñßæÅДмитрийΓιώργος→≥−½·—×" {
		i, err := letters.GlyphIndex(nil, r)
		require.NoError(t, err)
		assert.NotZero(t, i, "%c", r)
	}
	one := func(name string) []byte {
		pdf, err := WriteCertificates([]Certificate{{Academy: "Lantern Street", Name: name, Rank: "blue belt", Belt: "blue", On: calendar.MustDay("2026-11-24"), By: "Ines Falk", Ladder: "Adult"}})
		require.NoError(t, err)
		return pdf
	}
	assert.Contains(t, string(one("Ōren Vask")), "FontFile2", "the letters are inside the file")
}
