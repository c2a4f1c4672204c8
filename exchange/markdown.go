package exchange

// A record as Markdown: front matter for what is a word or a number, then prose
// and sections of lists. People write these files by hand, so what can be
// left out may be: identifiers are given where none are written, lines may be wrapped,
// and every complaint names the line.
//
// The one rule that keeps the round trip whole: a text is one line, however
// long, and what would be read as something else is written behind a backslash.
// \n, \t and \r are line break, tab and carriage return, \s a space at an end;
// before anything else a backslash only says "this is a letter of the text".

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"go.yaml.in/yaml/v3"
)

// entry is one point of a list: its first line, the prose under it, and what
// is said about it in "- label: value".
type entry struct {
	line   int
	head   string
	prose  string
	fields []labelled
}

type labelled struct {
	line         int
	label, value string
}

// section is what stands under one heading; the first one has none.
type section struct {
	line    int
	title   string
	prose   string
	entries []entry
	rows    [][]string // of a table: its cells, as written
	rowLine []int
}

// page is a Markdown file taken apart.
type page struct {
	file     string
	sections []section
	found    Problems
}

func (p *page) bad(line int, format string, args ...any) {
	p.found = append(p.found, fmt.Sprintf("%s: line %d: %s", p.file, line, fmt.Sprintf(format, args...)))
}

var (
	numbered = regexp.MustCompile(`^([0-9]{1,3}[.)]|[-*])(?:[ \t]+(.*))?$`)
	inner    = regexp.MustCompile(`^[ \t]+[-*][ \t]+([a-z][a-z -]*):(?:[ \t]+(.*))?$`)
)

// frontMatter takes the head of a file off. It must begin with a line of three
// hyphens and end with another.
func frontMatter(file string, text []byte) (head []byte, body []string, first int, err error) {
	text = bytes.TrimPrefix(text, []byte("\xef\xbb\xbf"))
	lines := strings.Split(strings.ReplaceAll(string(text), "\r\n", "\n"), "\n")
	if strings.TrimRight(lines[0], " \t") != "---" {
		return nil, nil, 0, Problems{fmt.Sprintf("%s: line 1: it does not begin with ---: write the front matter (id, name, kind …) between two lines of ---", file)}
	}
	for i, l := range lines[1:] {
		if strings.TrimRight(l, " \t") == "---" {
			return []byte(strings.Join(lines[1:i+1], "\n") + "\n"), lines[i+2:], i + 3, nil
		}
	}
	return nil, nil, 0, Problems{fmt.Sprintf("%s: line 1: the front matter has no end: close it with a line of ---", file)}
}

// readHead reads front matter into a struct and refuses what it does not know.
func readHead(file string, head []byte, into any) error {
	dec := yaml.NewDecoder(bytes.NewReader(head))
	dec.KnownFields(true)
	if err := dec.Decode(into); err != nil {
		why := strings.TrimPrefix(err.Error(), "yaml: ")
		why = strings.ReplaceAll(strings.ReplaceAll(why, "unmarshal errors:\n  ", ""), "\n  ", "; ")
		return Problems{fmt.Sprintf("%s: front matter (lines counted from the one after ---): %s", file, notFound.ReplaceAllString(why, "$1 is not a field of this record: take it out or correct its name"))}
	}
	return nil
}

var notFound = regexp.MustCompile(`field (\S+) not found in type \S+`)

// parse takes the body of a file apart. first is the line its first line has
// in the file.
func parse(file string, lines []string, first int) *page {
	p := &page{file: file, sections: []section{{line: first}}}
	var at *entry
	for i, raw := range lines {
		n, line := first+i, strings.TrimRight(raw, " \t\r")
		s := &p.sections[len(p.sections)-1]
		switch {
		case line == "":
			if at == nil && s.prose != "" && !strings.HasSuffix(s.prose, "\n") {
				s.prose += "\n"
			}
		case strings.HasPrefix(line, "## "):
			p.sections = append(p.sections, section{line: n, title: strings.ToLower(strings.Trim(line[3:], " \t"))})
			at = nil
		case strings.HasPrefix(line, "|"):
			s.rows, s.rowLine = append(s.rows, cells(line)), append(s.rowLine, n)
			at = nil
		case numbered.MatchString(line):
			s.entries = append(s.entries, entry{line: n, head: numbered.FindStringSubmatch(line)[2]})
			at = &s.entries[len(s.entries)-1]
		case at != nil && inner.MatchString(line):
			m := inner.FindStringSubmatch(line)
			at.fields = append(at.fields, labelled{n, m[1], m[2]})
		case at != nil && (line[0] == ' ' || line[0] == '\t'):
			more := strings.TrimLeft(line, " \t")
			if k := len(at.fields); k > 0 {
				at.fields[k-1].value = glue(at.fields[k-1].value, more)
			} else {
				at.prose = glue(at.prose, more)
			}
		case at != nil:
			p.bad(n, "%q stands at the edge after a list: indent it under its point, or begin a section with ##", short(line))
		default:
			s.prose = glue(s.prose, strings.TrimLeft(line, " \t"))
		}
	}
	return p
}

// glue joins a wrapped line to what stands before it; after an empty line it
// begins a paragraph.
func glue(before, more string) string {
	switch {
	case before == "":
		return more
	case more == "":
		return before
	case strings.HasSuffix(before, "\n"):
		return strings.TrimSuffix(before, "\n") + `\n\n` + more
	}
	return before + " " + more
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// cells splits a row of a table at its bars, but not at those behind a backslash.
func cells(line string) []string {
	var all []string
	var b strings.Builder
	escaped := false
	for _, r := range strings.TrimPrefix(line, "|") {
		switch {
		case escaped:
			b.WriteRune(r)
			escaped = false
		case r == '\\':
			b.WriteRune(r)
			escaped = true
		case r == '|':
			all = append(all, strings.Trim(b.String(), " \t"))
			b.Reset()
		default:
			b.WriteRune(r)
		}
	}
	if rest := strings.Trim(b.String(), " \t"); rest != "" {
		all = append(all, rest)
	}
	return all
}

// escape writes a text as one line. also are further letters that mean
// something where it is written.
func escape(text, also string) string {
	var b strings.Builder
	for i, r := range text {
		switch {
		case r == '\n':
			b.WriteString(`\n`)
		case r == '\t':
			b.WriteString(`\t`)
		case r == '\r':
			b.WriteString(`\r`)
		case r == ' ' && (i == 0 || i == len(text)-1):
			b.WriteString(`\s`)
		case r == '\\' || r == '`' || strings.ContainsRune(also, r), i == 0 && strings.ContainsRune("-*#>|0123456789", r):
			b.WriteByte('\\')
			b.WriteRune(r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// plain is the text that escape wrote.
func plain(line string) string {
	var b strings.Builder
	escaped := false
	for _, r := range strings.TrimRight(line, "\n") {
		switch {
		case !escaped && r == '\\':
			escaped = true
			continue
		case !escaped:
			b.WriteRune(r)
		default:
			b.WriteRune(letter(r))
		}
		escaped = false
	}
	if escaped {
		b.WriteByte('\\')
	}
	return b.String()
}

func letter(r rune) rune {
	switch r {
	case 'n':
		return '\n'
	case 't':
		return '\t'
	case 'r':
		return '\r'
	case 's':
		return ' '
	}
	return r
}

// cut splits a line at the first of some letter that is not behind a backslash.
func cut(line string, at byte) (before, after string, ok bool) {
	for i := 0; i < len(line); i++ {
		switch line[i] {
		case '\\':
			i++
		case at:
			return line[:i], line[i+1:], true
		}
	}
	return line, "", false
}

// pieces splits a line at every such letter.
func pieces(line string, at byte) []string {
	var all []string
	for {
		before, after, more := cut(line, at)
		all = append(all, strings.Trim(before, " \t"))
		if !more {
			return all
		}
		line = after
	}
}

// marks are what follows the words of a point: `id`, at `another`, and words
// such as gate.
type marks struct {
	words string
	id    string
	at    string
	flags string
}

func readMarks(head string) marks {
	words, rest, ok := cut(head, '`')
	words = strings.TrimRight(words, " \t")
	if !ok {
		return marks{words: plain(words)}
	}
	id, rest, _ := cut(rest, '`')
	rest = strings.Trim(rest, " \t")
	if before, bound := strings.CutSuffix(" "+words, " at"); bound { // it has no identifier of its own
		return marks{words: plain(strings.Trim(before, " \t")), at: plain(id), flags: rest}
	}
	m := marks{words: plain(words), id: plain(id)}
	if other, ok := strings.CutPrefix(rest, "at `"); ok {
		var after string
		other, after, _ = cut(other, '`')
		m.at, rest = plain(other), after
	}
	m.flags = strings.Trim(rest, " \t")
	return m
}

// markdown writes a file piece by piece.
type markdown struct{ bytes.Buffer }

// line is a text of the front matter.
type line string

// MarshalYAML writes what has line breaks or tabs between quotes: as a block,
// blanks at its ends would not come back.
func (l line) MarshalYAML() (any, error) {
	if !strings.ContainsAny(string(l), "\n\t\r") {
		return string(l), nil
	}
	return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!str", Style: yaml.DoubleQuotedStyle, Value: string(l)}, nil
}

func (m *markdown) head(of any) error {
	m.WriteString("---\n")
	enc := yaml.NewEncoder(m)
	enc.SetIndent(2)
	if err := enc.Encode(of); err != nil {
		return err
	}
	m.WriteString("---\n")
	return enc.Close()
}

func (m *markdown) prose(text string) {
	if text != "" {
		fmt.Fprintf(m, "\n%s\n", escape(text, ""))
	}
}

func (m *markdown) section(title string) { fmt.Fprintf(m, "\n## %s\n\n", title) }

func (m *markdown) field(label, value string) {
	if value != "" {
		fmt.Fprintf(m, "   - %s: %s\n", label, escape(value, ""))
	}
}

// point writes the head of a list's point.
func (m *markdown) point(bullet, words, id, at, flags string) {
	parts := []string{bullet}
	if words != "" {
		line := escape(words, "")
		if before, bound := strings.CutSuffix(" "+line, " at"); bound { // or it would bind what follows
			line = strings.TrimPrefix(before+` \at`, " ")
		}
		parts = append(parts, line)
	}
	parts = append(parts, "`"+escape(id, "")+"`")
	if at != "" {
		parts = append(parts, "at `"+escape(at, "")+"`")
	}
	if flags != "" {
		parts = append(parts, flags)
	}
	m.WriteString(strings.Join(parts, " ") + "\n")
}
