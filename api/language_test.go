package api

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func (c client) ask(method, path, body, language string) (int, http.Header, string) {
	c.t.Helper()
	return c.request(method, "/api"+path, body, language)
}

// differ says where two answers differ, texts aside, and counts the texts that do.
func differ(at string, a, b any, texts *int) []string {
	switch x := a.(type) {
	case map[string]any:
		y, _ := b.(map[string]any)
		var all []string
		for k := range x {
			if _, has := y[k]; !has {
				all = append(all, at+"."+k+" is missing")
			}
			all = append(all, differ(at+"."+k, x[k], y[k], texts)...)
		}
		if len(x) != len(y) {
			all = append(all, at+" has other fields")
		}
		return all
	case []any:
		y, _ := b.([]any)
		if len(x) != len(y) || y == nil {
			return []string{at + " is longer or shorter"}
		}
		var all []string
		for i := range x {
			all = append(all, differ(at, x[i], y[i], texts)...)
		}
		return all
	case string:
		y, is := b.(string)
		if !is {
			return []string{at + " is no text"}
		}
		if x != y {
			*texts++
		}
	default:
		if a != b {
			return []string{at + " differs"}
		}
	}
	return nil
}

// Every answer is the same in every language but for its sentences, and none shows how a sentence is kept.
func TestAnswersAreSaidInTheLanguageAskedFor(t *testing.T) {
	h := open(t)
	head := h.as("ines")
	all := calls(h.layAndPlan())
	texts := 0
	asked := 0
	for id, c := range all {
		if c.method != "GET" {
			continue
		}
		status, header, english := head.ask(c.method, c.path, "", "en")
		again, _, spanish := head.ask(c.method, c.path, "", "es-MX, en;q=0.5")
		require.Equal(t, status, again, id)
		assert.NotContains(t, english+spanish, `\u0000`, id)
		var a, b any
		if !strings.Contains(header.Get("Content-Type"), "json") || json.Unmarshal([]byte(english), &a) != nil {
			continue
		}
		require.NoError(t, json.Unmarshal([]byte(spanish), &b), id)
		asked++
		if id == "who-am-i" || id == "get-account" {
			continue // they show when somebody was here last
		}
		assert.Empty(t, differ(id, a, b, &texts), id)
	}
	assert.Greater(t, asked, 60)
	assert.Greater(t, texts, 200, "sentences that were said in Spanish")
}

func TestRefusalsAreSaidInTheLanguageAskedFor(t *testing.T) {
	h := open(t)
	head, desk, nobody := h.as("ines"), h.as("desk"), h.anybody()
	for name, c := range map[string]struct {
		by                 client
		method, path, body string
		status             int
		want, field        string
	}{
		"not signed in":         {nobody, "GET", "/week", "", 401, "Entra primero.", ""},
		"a wrong password":      {nobody, "POST", "/session", `{"name":"ines","password":"x"}`, 401, "Este nombre y esta contraseña no van juntos. Comprueba ambos e inténtalo de nuevo.", ""},
		"not allowed":           {desk, "GET", "/academy/rebuild", "", 403, "Un perfil de recepción no puede hacer esto.", ""},
		"nobody of that name":   {head, "GET", "/people/nobody", "", 404, `Aquí no hay persona "nobody".`, ""},
		"a week that is none":   {head, "GET", "/week?of=2399-01-01", "", 422, "2399-01-01 no está entre 1900-01-01 y 2200-12-31.", "of"},
		"an empty name":         {head, "POST", "/people", `{"name":" ","student":true,"joined":"2026-11-24","ladder":"adult","rank":"white","rank_since":"2026-11-24"}`, 422, "Está vacío: dale un nombre (persona).", "name"},
		"an empty password":     {nobody, "POST", "/session", `{"name":"ines","password":""}`, 422, "Esto no se ha aceptado.", "body.password: Esto está vacío."},
		"a field left out":      {nobody, "POST", "/session", `{"name":"ines"}`, 422, "Esto no se ha aceptado.", "body: Falta password."},
		"a field too many":      {nobody, "POST", "/session", `{"name":"ines","password":"x","age":3}`, 422, "Esto no se ha aceptado.", "body.age: No hay tal campo."},
		"a name far too long":   {nobody, "POST", "/session", `{"name":"` + strings.Repeat("i", 101) + `","password":"x"}`, 422, "Esto no se ha aceptado.", "body.name: Como máximo 100 caracteres."},
		"a number that is text": {nobody, "POST", "/session", `{"name":7,"password":"x"}`, 422, "Esto no se ha aceptado.", "body.name: Hace falta un texto."},
		"no such operation":     {head, "GET", "/nothing", "", 404, "No hay tal operación.", ""},
		"an address unreadable": {head, "GET", "/people/%00", "", 400, "La dirección tiene caracteres que no se pueden leer: cópiala de nuevo.", ""},
	} {
		status, header, body := c.by.ask(c.method, c.path, c.body, "es")
		var told struct {
			Detail string
			Errors []struct{ Location, Message string }
		}
		require.NoError(t, json.Unmarshal([]byte(body), &told), "%s: %s", name, body)
		assert.Equal(t, c.status, status, name)
		assert.Equal(t, c.want, told.Detail, name)
		assert.Equal(t, "Accept-Language", header.Get("Vary"), name)
		assert.Contains(t, header.Get("Content-Type"), "problem+json", name)
		if c.field != "" && assert.NotEmpty(t, told.Errors, name) {
			at, why, both := strings.Cut(c.field, ": ")
			assert.Equal(t, at, told.Errors[0].Location, name)
			if both {
				assert.Equal(t, why, told.Errors[0].Message, name)
			}
		}
	}
}

// What was changed is kept so that everybody reads it in their own language, whoever changed it.
func TestChangesAreReadInTheLanguageAskedFor(t *testing.T) {
	h := open(t)
	head := h.as("ines")
	h.layAndPlan()
	said := func(language string) (all []string) {
		_, _, body := head.ask("GET", "/changes", "", language)
		var lines []struct{ Summary string }
		require.NoError(t, json.Unmarshal([]byte(body), &lines))
		for _, l := range lines {
			all = append(all, l.Summary)
		}
		return all
	}
	english, spanish, portuguese := said("en"), said("es"), said("pt")
	require.NotEmpty(t, english)
	require.Len(t, spanish, len(english))
	for i := range english {
		assert.NotEqual(t, english[i], spanish[i])
		assert.NotEqual(t, english[i], portuguese[i])
	}
}

// Briefs and reports are printed in the language their address asks for.
func TestDocumentsAreWrittenInTheLanguageAskedFor(t *testing.T) {
	h := open(t)
	season := h.layAndPlan()
	coach := h.as("ines")
	for path, words := range map[string][]string{
		"/classes/fund-early.2026-11-24/brief.html": {`<html lang="es">`, "La clase", "(repaso)", "Llegar y calentar", "cada uno"},
		"/students/oren-vask/report.html":           {`<html lang="es">`, "Evidencia, no decisión", "Por posición", "Exigido", "Situación", "hecho el mar 24 nov 2026"},
		"/curricula/blue-1/report.html":             {`<html lang="es">`, "Hacia ", "versión 1", "Requisitos", "No visto", "Ejercitado"},
		"/seasons/" + season + "/report.html":       {`<html lang="es">`, "Cobertura", "Esperado del plan como está", "El plan y lo que se enseñó", "Probabilidad media"},
	} {
		status, _, text := coach.ask("GET", path+"?language=es", "", "en")
		require.Equal(t, 200, status, text)
		for _, w := range words {
			assert.True(t, strings.Contains(text, w), "%s lacks %q", path, w)
		}
		_, _, english := coach.ask("GET", path, "", "fr")
		assert.True(t, strings.Contains(english, `<html lang="en">`) && !strings.Contains(english, words[1]), path)
		status, _, paper := coach.ask("GET", strings.Replace(path, ".html", ".pdf", 1)+"?language=pt", "", "en")
		assert.Equal(t, 200, status)
		assert.True(t, strings.HasPrefix(paper, "%PDF"), path)
	}
}
