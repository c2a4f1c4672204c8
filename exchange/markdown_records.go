package exchange

import (
	"fmt"
	"strconv"
	"strings"

	"vereda/core/library"
)

// Record is one record of the library: exactly one of its parts is set.
type Record struct {
	Position  *library.Position   `json:"position,omitempty"`
	Technique *library.Technique  `json:"technique,omitempty"`
	Set       *library.VariantSet `json:"variant_set,omitempty"`
	Table     *library.ForkTable  `json:"fork_table,omitempty"`
}

// Kinds of records, as the front matter names them.
const (
	positionRecord = "position"
	setRecord      = "variant set"
	tableRecord    = "fork table"
)

type positionHead struct {
	Record  string         `yaml:"record"`
	ID      string         `yaml:"id"`
	Name    line           `yaml:"name"`
	Family  library.Family `yaml:"family"`
	Aliases []string       `yaml:"aliases,omitempty,flow"`
	Facing  string         `yaml:"facing,omitempty"`
}

type setHead struct {
	Record   string `yaml:"record"`
	ID       string `yaml:"id"`
	Name     line   `yaml:"name"`
	Question line   `yaml:"question,omitempty"`
	House    line   `yaml:"house,omitempty"`
}

type tableHead struct {
	Record string `yaml:"record"`
	ID     string `yaml:"id"`
	Name   line   `yaml:"name"`
	At     string `yaml:"at"`
}

// WritePosition writes a position as Markdown.
func WritePosition(x library.Position) ([]byte, error) {
	var m markdown
	if err := m.head(positionHead{positionRecord, x.ID, line(x.Name), x.Family, x.Aliases, x.Facing}); err != nil {
		return nil, err
	}
	m.WriteString("\n## Attacker\n")
	m.prose(x.Attacker)
	m.WriteString("\n## Defender\n")
	m.prose(x.Defender)
	return m.Bytes(), nil
}

// WriteSet writes a variant set as Markdown.
func WriteSet(x library.VariantSet) ([]byte, error) {
	var m markdown
	if err := m.head(setHead{setRecord, x.ID, line(x.Name), line(x.Question), line(x.House)}); err != nil {
		return nil, err
	}
	m.prose(x.Reason)
	if len(x.Choices) > 0 {
		m.section("Choices")
	}
	for _, c := range x.Choices {
		fmt.Fprintf(&m, "- %s: %s\n", escape(c.Name, ":"), listOf(c.Options))
	}
	m.section("Variants")
	for _, v := range x.Variants {
		fmt.Fprintf(&m, "- %s\n", escape(v.Technique, ""))
		if len(v.At) > 0 {
			fmt.Fprintf(&m, "   - at: %s\n", listOf(v.At))
		}
		m.field("gains", v.Gains)
		m.field("costs", v.Costs)
	}
	return m.Bytes(), nil
}

// anyValue stands in a cell whose cue is left open.
const anyValue = "any"

// WriteTable writes a fork table as Markdown.
func WriteTable(x library.ForkTable) ([]byte, error) {
	var m markdown
	if err := m.head(tableHead{tableRecord, x.ID, line(x.Name), placeWord(&x.At)}); err != nil {
		return nil, err
	}
	m.prose(x.Note)
	m.section("Cues")
	for _, c := range x.Cues {
		fmt.Fprintf(&m, "- %s: %s\n", escape(c.ID, ":"), listOf(c.Values))
	}
	m.section("Rows")
	columns, rule := []string{"row"}, []string{"---"}
	for _, c := range x.Cues {
		columns, rule = append(columns, escape(c.ID, "|")), append(rule, "---")
	}
	row := func(cells []string) { fmt.Fprintf(&m, "| %s |\n", strings.Join(cells, " | ")) }
	row(append(columns, "then", "priority"))
	row(append(rule, "---", "---"))
	for _, r := range x.Rows {
		line := []string{escape(r.ID, "|")}
		for _, c := range x.Cues {
			if values, ok := r.When[c.ID]; ok {
				line = append(line, listOf(values))
			} else {
				line = append(line, anyValue)
			}
		}
		row(append(line, escape(r.Then, "|"), strconv.Itoa(r.Priority)))
	}
	return m.Bytes(), nil
}

func listOf(values []string) string {
	all := make([]string, len(values))
	for i, v := range values {
		if all[i] = escape(v, ",|"); all[i] == anyValue {
			all[i] = `\` + anyValue
		}
	}
	return strings.Join(all, ", ")
}

func readList(line string) []string {
	all := pieces(line, ',')
	for i := range all {
		all[i] = plain(all[i])
	}
	return all
}

// ReadRecord reads one Markdown file of the library. What the front matter
// calls its record says what it is; without that word it is a technique.
func ReadRecord(file string, text []byte) (Record, error) {
	head, lines, first, err := frontMatter(file, text)
	if err != nil {
		return Record{}, err
	}
	p := parse(file, lines, first)
	var out Record
	switch kind := recordOf(head); kind {
	case "", "technique":
		var t library.Technique
		t, err = readTechnique(file, head, p)
		out.Technique = &t
	case positionRecord:
		out.Position, err = readPosition(file, head, p)
	case setRecord:
		out.Set, err = readSet(file, head, p)
	case tableRecord:
		out.Table, err = readTable(file, head, p)
	default:
		return Record{}, Problems{fmt.Sprintf("%s: front matter: record %q is not a kind of record: write technique, position, variant set or fork table", file, kind)}
	}
	if err != nil {
		return Record{}, err
	}
	if len(p.found) > 0 {
		return Record{}, p.found
	}
	return out, nil
}

// recordOf reads the one word that says how the rest must be read.
func recordOf(head []byte) string {
	for line := range strings.SplitSeq(string(head), "\n") {
		if word, ok := strings.CutPrefix(line, "record:"); ok {
			return strings.Trim(word, " \t\"'")
		}
	}
	return ""
}

func readPosition(file string, head []byte, p *page) (*library.Position, error) {
	var h positionHead
	if err := readHead(file, head, &h); err != nil {
		return nil, err
	}
	out := &library.Position{ID: h.ID, Name: string(h.Name), Family: h.Family, Aliases: h.Aliases, Facing: h.Facing}
	for _, s := range p.sections {
		switch s.title {
		case "attacker":
			out.Attacker = plain(s.prose)
		case "defender":
			out.Defender = plain(s.prose)
		case "":
			if s.prose != "" {
				p.bad(s.line, "words before a section: a position has Attacker and Defender")
			}
		default:
			p.bad(s.line, "there is no section %q in a position: use Attacker and Defender", s.title)
		}
	}
	return out, nil
}

func readSet(file string, head []byte, p *page) (*library.VariantSet, error) {
	var h setHead
	if err := readHead(file, head, &h); err != nil {
		return nil, err
	}
	out := &library.VariantSet{ID: h.ID, Name: string(h.Name), Question: string(h.Question), House: string(h.House), Variants: []library.Variant{}}
	r := techniqueReader{page: p}
	for _, s := range p.sections {
		switch s.title {
		case "":
			out.Reason = plain(s.prose)
		case "choices":
			for _, e := range s.entries {
				name, options, _ := cut(e.head, ':')
				out.Choices = append(out.Choices, library.VariantChoice{Name: plain(strings.Trim(name, " \t")), Options: readList(glue(options, e.prose))})
			}
		case "variants":
			for _, e := range s.entries {
				r.known(e, "gains", "costs", "at")
				v := library.Variant{Technique: plain(e.head), Gains: e.get("gains"), Costs: e.get("costs")}
				for _, f := range e.fields {
					if f.label == "at" {
						v.At = readList(f.value)
					}
				}
				out.Variants = append(out.Variants, v)
			}
		default:
			p.bad(s.line, "there is no section %q in a variant set: use Choices and Variants", s.title)
		}
	}
	return out, nil
}

func readTable(file string, head []byte, p *page) (*library.ForkTable, error) {
	var h tableHead
	if err := readHead(file, head, &h); err != nil {
		return nil, err
	}
	out := &library.ForkTable{ID: h.ID, Name: string(h.Name), Table: library.Table{Cues: []library.Cue{}, Rows: []library.Row{}}}
	if at := readPlace(h.At); at != nil {
		out.At = *at
	}
	for _, s := range p.sections {
		switch s.title {
		case "":
			out.Note = plain(s.prose)
		case "cues":
			for _, e := range s.entries {
				name, values, _ := cut(e.head, ':')
				out.Cues = append(out.Cues, library.Cue{ID: plain(strings.Trim(name, " \t")), Values: readList(glue(values, e.prose))})
			}
		case "rows":
			readRows(out, s, p)
		default:
			p.bad(s.line, "there is no section %q in a fork table: use Cues and Rows", s.title)
		}
	}
	return out, nil
}

// readRows reads the table of rows: its first line names the columns.
func readRows(out *library.ForkTable, s section, p *page) {
	if len(s.rows) < 2 {
		p.bad(s.line, "no rows: write a table with the columns row, one for each cue, then, priority")
		return
	}
	columns := make([]string, len(s.rows[0]))
	for i, c := range s.rows[0] {
		columns[i] = plain(c)
	}
	for n, line := range s.rows[2:] {
		at := s.rowLine[n+2]
		if len(line) != len(columns) {
			p.bad(at, "%d cells under %d columns: give the row one cell for each", len(line), len(columns))
			continue
		}
		r := library.Row{ID: "r" + strconv.Itoa(n+1), When: map[string][]string{}, Priority: 1}
		for i, cell := range line {
			// The first column and the last two are ours even if a cue goes by the same name.
			switch {
			case i == 0 && columns[i] == "row":
				r.ID = plain(cell)
			case columns[i] == "then" && i >= len(columns)-2:
				r.Then = plain(cell)
			case columns[i] == "priority" && i == len(columns)-1:
				priority, err := strconv.Atoi(cell)
				if err != nil {
					p.bad(at, "priority %q is not a number: 1 is the strongest", short(cell))
				}
				r.Priority = priority
			case cell != anyValue:
				r.When[columns[i]] = readList(cell)
			}
		}
		out.Rows = append(out.Rows, r)
	}
}
