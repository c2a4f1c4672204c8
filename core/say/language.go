package say

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"strings"
	"sync"
	"time"
)

// Language is one that sentences can be said in, by its two letters.
type Language string

// The languages the catalogues have. English is in the code.
const (
	English    Language = "en"
	Portuguese Language = "pt"
	Spanish    Language = "es"
)

var (
	//go:embed words/pt.json
	portuguese []byte
	//go:embed words/es.json
	spanish []byte
)

// A catalogue is a map of English sentences to those of a language. It is read when somebody first asks for it.
var catalogues = map[Language]func() map[string]string{
	Portuguese: sync.OnceValue(func() map[string]string { return read(portuguese) }),
	Spanish:    sync.OnceValue(func() map[string]string { return read(spanish) }),
}

func read(text []byte) map[string]string {
	words := map[string]string{}
	if err := json.Unmarshal(text, &words); err != nil {
		panic(fmt.Errorf("a catalogue is no JSON object of texts: %w", err))
	}
	return words
}

// Asked is the first language of an Accept-Language header that there is; English where there is none. Weights
// are not read: browsers and the interface name what they like best first.
func Asked(header string) Language {
	for tag := range strings.SplitSeq(header, ",") {
		tag = strings.ToLower(strings.TrimSpace(tag))
		if len(tag) >= 2 && (len(tag) == 2 || tag[2] == '-' || tag[2] == ';') {
			if l := Language(tag[:2]); l == English || catalogues[l] != nil {
				return l
			}
		}
	}
	return English
}

func (l Language) word(english string) string {
	if words := catalogues[l]; words != nil {
		if said := words()[english]; said != "" {
			return said
		}
	}
	return english
}

// date writes a date in the language's own layout, and its months and days by their names there.
func (l Language) date(t time.Time, layout string) string {
	said := t.Format(l.word(layout))
	if catalogues[l] == nil {
		return said
	}
	for _, name := range []string{t.Month().String(), t.Weekday().String(), t.Format("Jan"), t.Format("Mon")} {
		said = strings.ReplaceAll(said, name, l.word(name))
	}
	return said
}

// decimal is a number that is written with the language's decimal sign.
func (l Language) decimal(f float64) any {
	if catalogues[l] == nil {
		return f
	}
	return comma(f)
}

type comma float64

// Format writes the number as the package fmt does, with a comma in the place of the point.
func (c comma) Format(s fmt.State, verb rune) {
	fmt.Fprint(s, strings.ReplaceAll(fmt.Sprintf(fmt.FormatString(s, verb), float64(c)), ".", ","))
}
