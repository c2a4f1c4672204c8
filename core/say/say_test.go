package say_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/say"
)

func TestASentenceIsSaidInEachLanguage(t *testing.T) {
	day := calendar.MustDay("2026-12-09")
	for name, c := range map[string]struct {
		said       say.Sentence
		en, pt, es string
	}{
		"nothing":                {"", "", "", ""},
		"a constant":             {"all partner drills", "all partner drills", "todos os exercícios em dupla", "todos los ejercicios en pareja"},
		"a name between words":   {say.F("%s has no coach", "Ida Lune"), "Ida Lune has no coach", "Ida Lune não tem instrutor", "Ida Lune no tiene instructor"},
		"a name that is a key":   {say.F("%s has no coach", "Today"), "Today has no coach", "Today não tem instrutor", "Today no tiene instructor"},
		"a name that is a form":  {say.F("%s has no coach", "%d\x00f"), "%d\x00f has no coach", "%d\x00f não tem instrutor", "%d\x00f no tiene instructor"},
		"words of a record":      {say.Raw("Today"), "Today", "Today", "Today"},
		"a word of its own type": {say.F("check: met, %s", curriculum.Live), "check: met, live", "verificação: cumprida, ao vivo", "verificación: cumplida, en vivo"},
		"a decimal":              {say.F("%.2f checks in a class attended", 0.25), "0.25 checks in a class attended", "0,25 verificações por aula frequentada", "0,25 verificaciones por clase asistida"},
		"a percentage":           {say.F("%.0f %% of checks met", 62.6), "63 % of checks met", "63 % das verificações cumpridas", "63 % de las verificaciones cumplidas"},
		"one":                    {say.N(1, "%d class", "%d classes"), "1 class", "1 aula", "1 clase"},
		"many":                   {say.N(4, "%d class", "%d classes"), "4 classes", "4 aulas", "4 clases"},
		"none":                   {say.N(0, "%d class", "%d classes"), "0 classes", "0 aulas", "0 clases"},
		"one with more":          {say.N(1, "%d test", "%d tests"), "1 test", "1 exame", "1 examen"},
		"a day":                  {day.Say(), "Wed 9 Dec 2026", "qua., 9 dez. 2026", "mié 9 dic 2026"},
		"a day in a sentence":    {say.F("%s is still to come", day), "Wed 9 Dec 2026 is still to come", "qua., 9 dez. 2026 ainda está por vir", "mié 9 dic 2026 aún está por venir"},
		"a day in a layout":      {day.As("Monday 2 January"), "Wednesday 9 December", "quarta-feira, 9 de dezembro", "miércoles 9 de diciembre"},
		"a day in spring":        {calendar.MustDay("2027-05-03").As("2 January"), "3 May", "3 de maio", "3 de mayo"},
		"a sentence in one":      {say.F("%s is out of %s", "Ida", say.Sentence("all partner drills")), "Ida is out of all partner drills", "Ida está fora de: todos os exercícios em dupla", "Ida queda fuera de: todos los ejercicios en pareja"},
		"a list":                 {say.And("met", "drilled", "passed"), "met, drilled and passed", "visto, exercitado e aprovado", "visto, ejercitado y aprobado"},
		"a list of two":          {say.Or("met", "drilled"), "met or drilled", "visto ou exercitado", "visto o ejercitado"},
		"a list of one":          {say.And("met"), "met", "visto", "visto"},
		"an empty list":          {say.And(), "", "", ""},
		"a few":                  {say.Few(say.Raws([]string{"a", "b", "c", "d", "e"}), 3), "a, b, c and 2 more", "a, b, c e mais 2", "a, b, c y 2 más"},
		"as few as there are":    {say.Few(say.Raws([]string{"a", "b", "c", "d"}), 3), "a, b, c, d", "a, b, c, d", "a, b, c, d"},
		"side by side":           {say.Join(" ", "No class.", "", "Nothing is planned."), "No class. Nothing is planned.", "Sem aula. Nada está planejado.", "Sin clase. Nada está planeado."},
		"as a whole sentence":    {say.Sentence("choose the day").Whole(), "Choose the day.", "Escolha o dia.", "Elige el día."},
		"whole already":          {say.Sentence("No class.").Whole(), "No class.", "Sem aula.", "Sin clase."},
		"smaller":                {say.Sentence("Live rounds").Lower(), "live rounds", "rodadas livres", "rondas libres"},
		"what no catalogue has":  {"a sentence nobody translated", "a sentence nobody translated", "a sentence nobody translated", "a sentence nobody translated"},
		"an error that can":      {say.F("%s cannot be merged: %v", "Ida", fmt.Errorf("reading: %w", say.Errorf("choose the day"))), "Ida cannot be merged: choose the day", "Ida não pode ser unido: escolha o dia", "Ida no se puede unir: elige el día"},
		"an error that cannot":   {say.OfError(errors.New("disk full")), "disk full", "disk full", "disk full"},
		"what was kept of it":    {say.Recall("Round 3", "First partner, %s", "Round %d"), "Round 3", "Rodada 3", "Ronda 3"},
		"and its word":           {say.Recall("First partner, left", "Round %d", "First partner, %s"), "First partner, left", "Primeiro parceiro, esquerda", "Primer compañero, izquierda"},
		"and its decimals":       {say.Recall("Score 0.40 is under the standard of 0.75.", "Score %.2f is under the standard of %.2f."), "Score 0.40 is under the standard of 0.75.", "A nota 0,40 está abaixo do padrão de 0,75.", "La nota 0,40 está por debajo del estándar de 0,75."},
		"what nothing recalls":   {say.Recall("Live rounds", "Round %d"), "Live rounds", "Rodadas livres", "Rondas libres"},
	} {
		assert.Equal(t, c.en, c.said.String(), name)
		assert.Equal(t, c.pt, c.said.In(say.Portuguese), name)
		assert.Equal(t, c.es, c.said.In(say.Spanish), name)
		assert.Equal(t, c.en, c.said.In("xx"), "%s: a language nobody has", name)
		text, err := json.Marshal(map[string]any{"x": c.said})
		require.NoError(t, err, name)
		var back map[string]string
		require.NoError(t, json.Unmarshal(text, &back), name)
		assert.Equal(t, c.en, back["x"], "%s: kept it is English", name)
	}
}

func TestNamesTakeThePlaceOfIdentifiers(t *testing.T) {
	name := func(id string) string { return strings.ToUpper(id) }
	s := say.Join("; ", say.F("%s comes after %s", "lock", "live"), say.F("%d groups", 3), say.F("%s is out of %s", "ida", say.F("%s from age %d", "lock", 16)), say.Raw("ines"))
	assert.Equal(t, "LOCK comes after LIVE; 3 groups; IDA is out of LOCK from age 16; INES", say.Renamed(s, name).String())
	assert.Equal(t, say.Sentence("the guest"), say.Renamed("the guest", name), "a constant has no names")
}

func TestTheLanguageThatWasAskedFor(t *testing.T) {
	for header, want := range map[string]say.Language{
		"": say.English, "es": say.Spanish, "es-MX,es;q=0.9,en;q=0.5": say.Spanish, "fr-FR, pt-BR;q=0.8": say.Portuguese, "de": say.English,
		"en-GB,es": say.English, "EST": say.English, "*": say.English, "ES;q=1": say.Spanish, " pt ": say.Portuguese, ",,,": say.English,
	} {
		assert.Equal(t, want, say.Asked(header), header)
	}
}

// Whatever is filled in comes out as it went in, however deep it stands, and what is broken harms nobody.
func TestWhatIsFilledInComesOutAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var build func(depth int) (say.Sentence, string)
		build = func(depth int) (say.Sentence, string) {
			text := rapid.String().Draw(t, "text")
			if depth == 0 {
				return say.Raw(text), text
			}
			inner, said := build(depth - 1)
			switch rapid.IntRange(0, 2).Draw(t, "form") {
			case 0:
				n := rapid.Int().Draw(t, "n")
				return say.F("%s|%d|%s", text, n, inner), fmt.Sprintf("%s|%d|%s", text, n, said)
			case 1:
				if inner == "" || text == "" {
					return inner, said
				}
				return say.Join("·", inner, say.Raw(text)), said + "·" + text
			default:
				return say.F("%v", inner), said
			}
		}
		s, want := build(rapid.IntRange(0, 4).Draw(t, "depth"))
		assert.Equal(t, want, s.String())
		cut := rapid.IntRange(0, len(s)).Draw(t, "cut")
		assert.NotPanics(t, func() { _ = s[:cut].In(say.Spanish) })
		assert.NotPanics(t, func() { _ = say.Sentence("\x00" + rapid.String().Draw(t, "junk")).String() })
	})
}

// What somebody sends is text, however much it looks like the inside of a sentence.
func TestWhatIsSentIsTextAlone(t *testing.T) {
	crafted := string(say.F("%s has no coach", "Ida"))
	assert.Equal(t, crafted, say.Word(crafted).In(say.Spanish))
	text, err := json.Marshal(crafted)
	require.NoError(t, err)
	var back say.Sentence
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, crafted, back.In(say.Spanish))
	require.NoError(t, json.Unmarshal([]byte(`"all partner drills"`), &back))
	assert.Equal(t, "todos los ejercicios en pareja", back.In(say.Spanish), "and words of the program are looked up again")
}

func TestADateThatIsNoDateIsShown(t *testing.T) {
	s := say.Date(time.Date(2026, 12, 9, 0, 0, 0, 0, time.UTC), "2 January")
	assert.Contains(t, say.Sentence(strings.Replace(string(s), "2026-12-09", "2026-99-09", 1)).String(), "2026-99-09")
}

func BenchmarkASentenceInSpanish(b *testing.B) {
	day := calendar.MustDay("2026-12-09")
	for b.Loop() {
		_ = say.F("%s comes back: last seen %s, %d weeks ago.", "Side pin to mount", day, 3).In(say.Spanish)
	}
}
