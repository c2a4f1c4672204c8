package say

import (
	"regexp"
	"strconv"
	"strings"
	"sync"
)

// verb is a place in a format that takes a value, or a sign of percent.
var verb = regexp.MustCompile(`%(?:%|[-+0]*\d*(?:\.\d+)?[sdfgqv])`)

// form is a format as it is read back: what its texts look like, and the verb of each value.
type form struct {
	shape *regexp.Regexp
	verbs []byte
}

var forms sync.Map // of formats

func formOf(format Sentence) form {
	if had, ok := forms.Load(format); ok {
		return had.(form)
	}
	var f form
	shape, rest := `(?s)^`, string(format)
	for at := verb.FindStringIndex(rest); at != nil; at = verb.FindStringIndex(rest) {
		shape += regexp.QuoteMeta(rest[:at[0]])
		switch v := rest[at[1]-1]; v {
		case '%':
			shape += "%"
		case 'd':
			shape, f.verbs = shape+`(-?\d+)`, append(f.verbs, v)
		case 'f', 'g':
			shape, f.verbs = shape+`(-?\d+(?:\.\d+)?)`, append(f.verbs, v)
		default:
			shape, f.verbs = shape+`(.+?)`, append(f.verbs, v)
		}
		rest = rest[at[1]:]
	}
	f.shape = regexp.MustCompile(shape + regexp.QuoteMeta(rest) + `$`)
	forms.Store(format, f)
	return f
}

// Recall reads back what was kept as an English text, so that it can be said in another language: as the first of the
// formats that gives this text. Where none does it is the text.
func Recall(text Sentence, formats ...Sentence) Sentence {
	if text == "" || text[0] == mark {
		return text
	}
	for _, format := range formats {
		if !strings.Contains(string(format), "%") {
			continue // it is the text, or not
		}
		f := formOf(format)
		found := f.shape.FindStringSubmatch(string(text))
		if found == nil {
			continue
		}
		values := make([]any, len(f.verbs))
		for i, v := range f.verbs {
			switch v {
			case 'd':
				n, _ := strconv.Atoi(found[i+1])
				values[i] = n
			case 'f', 'g':
				x, _ := strconv.ParseFloat(found[i+1], 64)
				values[i] = x
			default:
				values[i] = Word(found[i+1])
			}
		}
		return F(format, values...)
	}
	return text
}
