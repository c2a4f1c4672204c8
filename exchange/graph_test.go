package exchange_test

import (
	"encoding/xml"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/graph/encoding/dot"
	"gonum.org/v1/gonum/graph/multi"

	. "vereda/exchange"
)

// Another program's reader opens what we write, and counts the same.
func TestGraphsOpenElsewhere(t *testing.T) {
	b, err := Read(demo(t))
	require.NoError(t, err)
	lib := b.Library()
	arrows := 0
	for _, x := range lib.Techniques() {
		if x.From != nil {
			arrows++
		}
	}
	g := multi.NewDirectedGraph()
	require.NoError(t, dot.UnmarshalMulti(WriteDOT(lib), g))
	assert.Equal(t, 2*len(lib.Positions())+1, g.Nodes().Len())
	lines := 0
	for edges := g.Edges(); edges.Next(); {
		lines += edges.Edge().(multi.Edge).Len()
	}
	assert.Equal(t, arrows, lines)

	text, err := WriteGraphML(lib)
	require.NoError(t, err)
	var read struct {
		Nodes []struct {
			ID string `xml:"id,attr"`
		} `xml:"graph>node"`
		Edges []struct {
			Source string `xml:"source,attr"`
			Target string `xml:"target,attr"`
		} `xml:"graph>edge"`
	}
	require.NoError(t, xml.NewDecoder(strings.NewReader(string(text))).Decode(&read))
	known := map[string]bool{}
	for _, n := range read.Nodes {
		assert.False(t, known[n.ID], "%s twice", n.ID)
		known[n.ID] = true
	}
	require.Len(t, read.Edges, arrows)
	for _, e := range read.Edges {
		assert.True(t, known[e.Source] && known[e.Target])
	}
}
