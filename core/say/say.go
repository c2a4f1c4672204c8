// Package say makes sentences that can be said again in another language: a sentence keeps its
// English words and what was filled into them apart until somebody reads it.
package say

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Sentence is something said to a person. Its constants are English, and are the keys of the catalogues:
//
//	say.F("%s is away until %s", coach.Name, day)
//
// It is a string, so that it compares, is empty and is left out of JSON as one. What F and its
// relatives return holds values beside the words and is read with String or In; as text and as
// JSON it is English.
type Sentence string

// Speaker is a value that has words of its own in each language, such as a date.
type Speaker interface{ Say() Sentence }

// A sentence with values starts with mark and its form. Each part after that is its kind, its length in bytes,
// a colon and its text, so that sentences can stand in sentences.
const mark = '\x00'

const (
	filled  = 'f' // a format, and what is filled in
	joined  = 'j' // what stands between, and what stands beside one another
	raw     = 'r' // words of people and of records: said as they are
	whole   = 'w' // a sentence that begins with a capital and ends with a full stop
	capital = 'c'
	lower   = 'l'
	dated   = 'd' // a layout, and a date
)

const (
	aText     = 's'
	aSentence = 'S'
	aNumber   = 'i'
	aDecimal  = 'g'
)

type part struct {
	kind byte
	text string
}

func pack(form byte, parts ...part) Sentence {
	b := []byte{mark, form}
	for _, p := range parts {
		b = append(b, p.kind)
		b = strconv.AppendInt(b, int64(len(p.text)), 10)
		b = append(b, ':')
		b = append(b, p.text...)
	}
	return Sentence(b)
}

// parts is what pack put together. What is no such thing is nothing, so that a broken text is shown as it is.
func (s Sentence) parts() (form byte, all []part) {
	if len(s) < 2 || s[0] != mark {
		return 0, nil
	}
	for rest := string(s[2:]); rest != ""; {
		colon := strings.IndexByte(rest, ':')
		if colon < 2 {
			return 0, nil
		}
		n, err := strconv.Atoi(rest[1:colon])
		if err != nil || n < 0 || n > len(rest)-colon-1 {
			return 0, nil
		}
		all = append(all, part{rest[0], rest[colon+1 : colon+1+n]})
		rest = rest[colon+1+n:]
	}
	return s[1], all
}

// F is a format of the package fmt with its values. A value that is a Sentence or a Speaker is said in the reader's
// language; a fmt.Stringer, such as a rung, is looked up as one word; a string is somebody's own and stays as it is.
func F(format Sentence, values ...any) Sentence {
	parts := make([]part, 1, len(values)+1)
	parts[0] = part{aText, string(format)}
	for _, v := range values {
		parts = append(parts, value(v))
	}
	return pack(filled, parts...)
}

func value(v any) part {
	switch v := v.(type) {
	case string:
		return part{aText, v}
	case Sentence:
		return part{aSentence, string(v)}
	case Speaker:
		return part{aSentence, string(v.Say())}
	case error:
		return part{aSentence, string(OfError(v))}
	case fmt.Stringer:
		return part{aSentence, v.String()}
	case int:
		return part{aNumber, strconv.Itoa(v)}
	case int64:
		return part{aNumber, strconv.FormatInt(v, 10)}
	case float64:
		return part{aDecimal, strconv.FormatFloat(v, 'g', -1, 64)}
	default:
		return part{aText, fmt.Sprint(v)}
	}
}

// N is one where n is 1, and many otherwise; n is the first value of both, written with %d.
func N(n int, one, many Sentence, values ...any) Sentence {
	format := many
	if n == 1 {
		format = one
	}
	return F(format, append([]any{n}, values...)...)
}

// Raw is what a person or a record says: it is never looked up.
func Raw(text string) Sentence {
	if text == "" {
		return ""
	}
	return pack(raw, part{aText, text})
}

// Raws makes a Sentence of each text, as Raw does.
func Raws[S ~string](texts []S) []Sentence {
	all := make([]Sentence, len(texts))
	for i, t := range texts {
		all[i] = Raw(string(t))
	}
	return all
}

// Join puts sentences beside one another with a text between them, such as a comma or a blank. Empty ones are left out.
func Join(between string, all ...Sentence) Sentence {
	parts := []part{{aText, between}}
	for _, s := range all {
		if s != "" {
			parts = append(parts, part{aSentence, string(s)})
		}
	}
	switch len(parts) {
	case 1:
		return ""
	case 2:
		return Sentence(parts[1].text)
	}
	return pack(joined, parts...)
}

// And lists: a, b and c.
func And(all ...Sentence) Sentence { return list("%s and %s", all) }

// Or lists: a, b or c.
func Or(all ...Sentence) Sentence { return list("%s or %s", all) }

func list(last Sentence, all []Sentence) Sentence {
	switch n := len(all); n {
	case 0:
		return ""
	case 1:
		return all[0]
	default:
		return F(last, Join(", ", all[:n-1]...), all[n-1])
	}
}

// Few lists the first ones of many and counts the rest.
func Few(all []Sentence, most int) Sentence {
	if len(all) <= most+1 {
		return Join(", ", all...)
	}
	return F("%s and %d more", Join(", ", all[:most]...), len(all)-most)
}

// Whole is a sentence as it stands by itself: with a capital, and a full stop unless it has one.
func (s Sentence) Whole() Sentence { return s.wrapped(whole) }

// Capital begins with a capital.
func (s Sentence) Capital() Sentence { return s.wrapped(capital) }

// Lower begins small, for a place inside another sentence.
func (s Sentence) Lower() Sentence { return s.wrapped(lower) }

func (s Sentence) wrapped(form byte) Sentence {
	if s == "" {
		return ""
	}
	return pack(form, part{aSentence, string(s)})
}

// Date is a date in a layout of the package time. Layouts are keys of the catalogues too.
func Date(t time.Time, layout Sentence) Sentence {
	return pack(dated, part{aText, string(layout)}, part{aText, t.Format(time.DateTime)})
}

// String is the sentence in English.
func (s Sentence) String() string { return s.In(English) }

// MarshalText writes the sentence in English.
func (s Sentence) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText reads what was kept, or sent, as English words and nothing else.
func (s *Sentence) UnmarshalText(text []byte) error {
	*s = Word(string(text))
	return nil
}

// In is the sentence in a language; what its catalogue lacks is English.
func (s Sentence) In(l Language) string {
	if len(s) == 0 || s[0] != mark {
		return l.word(string(s))
	}
	form, parts := s.parts()
	if len(parts) == 0 {
		return string(s)
	}
	first := parts[0].text
	switch form {
	case raw:
		return first
	case joined:
		said := make([]string, 0, len(parts)-1)
		for _, p := range parts[1:] {
			said = append(said, Sentence(p.text).In(l))
		}
		return strings.Join(said, first)
	case whole:
		said := up(Sentence(first).In(l))
		if !strings.HasSuffix(said, ".") {
			said += "."
		}
		return said
	case capital:
		return up(Sentence(first).In(l))
	case lower:
		said := Sentence(first).In(l)
		r, n := utf8.DecodeRuneInString(said)
		return string(unicode.ToLower(r)) + said[n:]
	case dated:
		if len(parts) < 2 {
			return ""
		}
		t, err := time.Parse(time.DateTime, parts[1].text)
		if err != nil {
			return parts[1].text
		}
		return l.date(t, first)
	}
	values := make([]any, 0, len(parts)-1)
	for _, p := range parts[1:] {
		switch p.kind {
		case aSentence:
			values = append(values, Sentence(p.text).In(l))
		case aNumber:
			n, _ := strconv.Atoi(p.text)
			values = append(values, n)
		case aDecimal:
			f, _ := strconv.ParseFloat(p.text, 64)
			values = append(values, l.decimal(f))
		default:
			values = append(values, p.text)
		}
	}
	return fmt.Sprintf(l.word(first), values...)
}

func up(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// Word is one of the words the program itself has for a state, a kind or a unit: it is looked up.
func Word[S ~string](word S) Sentence {
	if word != "" && word[0] == mark {
		return Raw(string(word)) // no word of the program: what somebody sent must not be read as more than text
	}
	return Sentence(word)
}

// Words looks up each of some words.
func Words[S ~string](words []S) []Sentence {
	all := make([]Sentence, len(words))
	for i, w := range words {
		all[i] = Word(w)
	}
	return all
}

// failure is an error that can be said in another language.
type failure struct{ what Sentence }

func (e failure) Error() string { return e.what.String() }

// Say is what went wrong, in the reader's language.
func (e failure) Say() Sentence { return e.what }

// Errorf is F as an error. It wraps nothing.
func Errorf(format Sentence, values ...any) error { return failure{F(format, values...)} }

// OfError is what an error says: in the reader's language where it can.
func OfError(err error) Sentence {
	var speaker Speaker
	if errors.As(err, &speaker) {
		return speaker.Say()
	}
	return Raw(err.Error())
}

// Renamed puts names in the place of identifiers, in each text that was filled in.
func Renamed(s Sentence, name func(text string) string) Sentence {
	form, parts := s.parts()
	if form == 0 {
		return s
	}
	for i := range parts {
		switch {
		case parts[i].kind == aSentence:
			parts[i].text = string(Renamed(Sentence(parts[i].text), name))
		case form == raw, form == filled && i > 0 && parts[i].kind == aText:
			parts[i].text = name(parts[i].text)
		}
	}
	return pack(form, parts...)
}

// Texts is each sentence in English, for what is kept.
func Texts(all []Sentence) []string { return TextsIn(English, all) }

// TextsIn is each sentence in a language, for what is printed.
func TextsIn(l Language, all []Sentence) []string {
	texts := make([]string, len(all))
	for i, s := range all {
		texts[i] = s.In(l)
	}
	return texts
}
