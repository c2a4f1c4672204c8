// Package validation is the shape in which everything that judges a record
// says what is wrong with it, and the bounds that hold for every kind of record.
package validation

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"vereda/core/say"
)

// Problem is one thing wrong with a record: where, what, and the fix.
type Problem struct {
	Field string       `json:"field"`
	What  say.Sentence `json:"what"`
	Warn  bool         `json:"warn,omitempty" doc:"Worth a look, but kept all the same"`
}

func (p Problem) Error() string { return p.Say().String() }

// Say is the problem with its place, in the reader's language.
func (p Problem) Say() say.Sentence { return say.F("%s: %s", p.Field, p.What) }

// Bounds of what any record may hold, in characters.
const (
	MostID   = 64   // an identifier
	MostName = 120  // a name, a title, an alias
	MostText = 2000 // a note, a reason, a paragraph
)

// Found collects problems.
type Found []Problem

// Bad adds a problem.
func (f *Found) Bad(field string, format say.Sentence, args ...any) {
	*f = append(*f, Problem{Field: field, What: say.F(format, args...)})
}

// Add adds problems found elsewhere, their fields under a prefix.
func (f *Found) Add(prefix string, all []Problem) {
	for _, p := range all {
		p.Field = prefix + p.Field
		*f = append(*f, p)
	}
}

// Name judges the name of a thing, which it cannot do without.
func (f *Found) Name(field, text string, thing say.Sentence) {
	if !visible(text) {
		f.Bad(field, "is empty: give the %s a name", thing)
		return
	}
	f.Text(field, text, MostName)
}

// ID judges an identifier: what links, files and addresses can carry.
func (f *Found) ID(field, text string) {
	switch {
	case text == "":
		f.Bad(field, "is empty: give it an identifier")
	case len(text) > MostID:
		f.Bad(field, "%.40q… is longer than %d characters", text, MostID)
	case !Readable(text) || strings.ContainsAny(text, "/\\?#% \t\"'<>"):
		f.Bad(field, "%.64q: use letters, digits, dots and dashes", text)
	}
}

// Text judges a text that may be empty.
func (f *Found) Text(field, text string, most int) {
	switch n := utf8.RuneCountInString(text); {
	case n > most:
		f.Bad(field, "has %d characters: keep it under %d", n, most)
	case !Readable(text):
		f.Bad(field, "holds characters that cannot be shown: type it again")
	}
}

// Between judges a whole number.
func (f *Found) Between(field string, n, least, most int, unit say.Sentence) {
	if n < least || n > most {
		f.Bad(field, "%d is outside %d to %d %s", n, least, most, unit)
	}
}

// Count judges how many lines a list holds.
func (f *Found) Count(field string, n, most int) {
	if n > most {
		f.Bad(field, "holds %d lines: keep it under %d", n, most)
	}
}

// Readable says whether a text is valid and holds nothing but what can be
// shown, line breaks and tabs.
func Readable(text string) bool {
	if !utf8.ValidString(text) {
		return false
	}
	for _, r := range text {
		if r == utf8.RuneError || turnsText(r) || unicode.IsControl(r) && r != '\n' && r != '\t' && r != '\r' {
			return false
		}
	}
	return true
}

// turnsText says whether a character turns the direction of what stands after it, and of what others wrote there.
func turnsText(r rune) bool { return r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 }

// visible says whether anything of a text can be seen.
func visible(text string) bool {
	return strings.ContainsFunc(text, func(r rune) bool { return unicode.IsGraphic(r) && !unicode.IsSpace(r) && !unicode.IsMark(r) })
}

// Shorten cuts a text to at most so many characters, never inside one.
func Shorten(text string, most int) string {
	if utf8.RuneCountInString(text) <= most {
		return text
	}
	return strings.TrimSpace(string([]rune(text)[:most-1])) + "…"
}
