package exchange

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"strconv"
	"strings"

	"vereda/core/library"
)

// The map as a graph for other programs. Each part of a position is a node, a
// technique an edge; all finishes lead to the node "finish".

// finishNode is where every finish leads.
const finishNode = "finish"

func nodeID(p library.Place) string { return p.Position + "/" + string(p.Part) }

// edge is a technique between two nodes.
type edge struct {
	from, to string
	t        library.Technique
}

func edges(lib *library.Library) []edge {
	var all []edge
	for _, t := range lib.Techniques() {
		switch {
		case t.From == nil:
		case t.To != nil:
			all = append(all, edge{nodeID(*t.From), nodeID(*t.To), t})
		case t.Finish:
			all = append(all, edge{nodeID(*t.From), finishNode, t})
		}
	}
	return all
}

// WriteDOT writes the map of a library in the DOT language, a cluster for each
// family.
func WriteDOT(lib *library.Library) []byte {
	var out bytes.Buffer
	q := func(s string) string {
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`).Replace(s) + `"`
	}
	out.WriteString("digraph vereda {\n  rankdir=LR;\n  node [shape=box];\n")
	for i, f := range library.Families {
		fmt.Fprintf(&out, "  subgraph cluster_%d {\n    label=%s;\n", i, q(string(f)))
		for _, p := range lib.Positions() {
			if p.Family != f {
				continue
			}
			for _, part := range []library.Part{library.Attack, library.Defend} {
				fmt.Fprintf(&out, "    %s [label=%s];\n", q(nodeID(library.Place{Position: p.ID, Part: part})), q(p.Name+", "+string(part)))
			}
		}
		out.WriteString("  }\n")
	}
	fmt.Fprintf(&out, "  %s [shape=doublecircle];\n", q(finishNode))
	for _, e := range edges(lib) {
		fmt.Fprintf(&out, "  %s -> %s [label=%s, id=%s];\n", q(e.from), q(e.to), q(e.t.Name), q(e.t.ID))
	}
	out.WriteString("}\n")
	return out.Bytes()
}

type graphML struct {
	XMLName xml.Name     `xml:"http://graphml.graphdrawing.org/xmlns graphml"`
	Keys    []graphMLKey `xml:"key"`
	Graph   graphMLGraph `xml:"graph"`
}

type graphMLKey struct {
	ID   string `xml:"id,attr"`
	For  string `xml:"for,attr"`
	Name string `xml:"attr.name,attr"`
	Type string `xml:"attr.type,attr"`
}

type graphMLGraph struct {
	ID      string        `xml:"id,attr"`
	Default string        `xml:"edgedefault,attr"`
	Nodes   []graphMLNode `xml:"node"`
	Edges   []graphMLEdge `xml:"edge"`
}

type graphMLNode struct {
	ID   string        `xml:"id,attr"`
	Data []graphMLData `xml:"data"`
}

type graphMLEdge struct {
	ID     string        `xml:"id,attr"`
	Source string        `xml:"source,attr"`
	Target string        `xml:"target,attr"`
	Data   []graphMLData `xml:"data"`
}

type graphMLData struct {
	Key   string `xml:"key,attr"`
	Value string `xml:",chardata"`
}

// WriteGraphML writes the map of a library as GraphML.
func WriteGraphML(lib *library.Library) ([]byte, error) {
	g := graphML{Keys: []graphMLKey{{"name", "node", "name", "string"}, {"family", "node", "family", "string"}, {"part", "node", "part", "string"},
		{"technique", "edge", "name", "string"}, {"kind", "edge", "kind", "string"}, {"context", "edge", "context", "string"}, {"minutes", "edge", "teach_minutes", "int"}},
		Graph: graphMLGraph{ID: "vereda", Default: "directed"}}
	for _, p := range lib.Positions() {
		for _, part := range []library.Part{library.Attack, library.Defend} {
			g.Graph.Nodes = append(g.Graph.Nodes, graphMLNode{nodeID(library.Place{Position: p.ID, Part: part}), []graphMLData{{"name", p.Name}, {"family", string(p.Family)}, {"part", string(part)}}})
		}
	}
	g.Graph.Nodes = append(g.Graph.Nodes, graphMLNode{finishNode, []graphMLData{{"name", "Finish"}}})
	for _, e := range edges(lib) {
		g.Graph.Edges = append(g.Graph.Edges, graphMLEdge{e.t.ID, e.from, e.to, []graphMLData{{"technique", e.t.Name}, {"kind", string(e.t.Kind)}, {"context", string(e.t.Context)}, {"minutes", strconv.Itoa(e.t.TeachMinutes)}}})
	}
	text, err := xml.MarshalIndent(g, "", " ")
	return append([]byte(xml.Header), append(text, '\n')...), err
}
