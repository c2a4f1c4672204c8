package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"vereda/app/state"
	"vereda/internal/testkit"
)

// screens are those people have: three desks, a tablet both ways, a phone. What fits a small desk with longer words, a tablet upright and a phone fits
// the others: those are looked at when pictures are wanted.
var screens = []struct {
	name        string
	wide, high  int64
	judged      bool
	longerWords bool // with words a third longer, as another language has them
}{
	{"1280", 1280, 800, false, false}, {"1440", 1440, 900, false, false}, {"1920", 1920, 1080, false, false},
	{"tablet-across", 1112, 834, false, false}, {"tablet-upright", 834, 1112, true, false}, {"phone", 390, 844, true, false}, {"longer-words", 1280, 800, true, true},
}

// sideways lists what stands out over the page's edge, or is wider than the box it is in and can be scrolled nowhere.
const sideways = `(() => {
	const out = [];
	const name = (e) => e.tagName.toLowerCase() + (e.id ? "#" + e.id : "") + " " + (e.getAttribute("aria-label") || e.innerText || "").trim().slice(0, 50);
	const wide = document.documentElement.clientWidth;
	if (document.documentElement.scrollWidth > wide + 1) out.push("the page is " + document.documentElement.scrollWidth + " wide");
	for (const e of document.querySelectorAll("body *")) {
		// Parts of a page scroll down; sideways only what was made for it.
		if (/auto|scroll/.test(getComputedStyle(e).overflowX) && !/overflow-(x-)?auto/.test(e.className) && e.scrollWidth > e.clientWidth + 1) out.push(name(e) + " holds what is " + e.scrollWidth + " wide in " + e.clientWidth);
		const box = e.getBoundingClientRect();
		if (box.width === 0 || box.height === 0 || e.closest("svg") && e.tagName !== "svg" || e.closest(".sr-only")) continue;
		let scrolls = false;
		for (let p = e.parentElement; p; p = p.parentElement) {
			const style = getComputedStyle(p);
			if (style.position === "fixed") break;
			if (/auto|scroll|hidden|clip/.test(style.overflowX)) { scrolls = true; break; }
		}
		if (!scrolls && box.right > wide + 1) out.push(name(e) + " ends at " + Math.round(box.right));
	}
	return out.slice(0, 6);
})()`

// lengthen makes every word of the page a third longer, as other languages have them: the words of the interface, not what people are called.
const lengthen = `(() => {
	const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
	const all = [];
	while (walk.nextNode()) if (/[a-z]{3}/.test(walk.currentNode.data) && !walk.currentNode.parentElement.closest("svg,script,style,option")) all.push(walk.currentNode);
	for (const n of all) n.data = n.data.replace(/[A-Za-zÀ-ž]{3,}/g, (w) => w + w.slice(-Math.ceil(w.length / 3)));
	return true;
})()`

// Every main page fits every screen: nothing stands out over its edge, and its words may be a third longer.
func TestPagesFitEveryScreen(t *testing.T) {
	h := openLife(t)
	for _, s := range screens {
		if os.Getenv("VEREDA_LOOK") == "" && !s.judged {
			continue
		}
		b := h.person(t, s.wide, s.high)
		b.signIn(state.Head)
		for _, path := range []string{"/today", "/library/knee-cut", "/library/map", "/curricula/blue-1", "/season/season-3", "/season/season-3?view=publish", "/mat/fund-tue.2026-11-24",
			"/ledger", "/ledger/hanne-voss", "/ledger?view=ready", "/people/hanne-voss", "/academy", "/run/fund-tue.2026-11-24"} {
			b.goTo(path)
			b.until("the page is there", `document.body.innerText.length > 250`)
			time.Sleep(250 * time.Millisecond)
			if s.longerWords {
				eval[bool](b, lengthen)
			}
			assert.Empty(t, eval[[]string](b, sideways), "%s on %s", path, s.name)
			if folder := os.Getenv("VEREDA_LOOK"); folder != "" {
				b.picture(filepath.Join(folder, fmt.Sprintf("%s-%s.png", strings.NewReplacer("/", "_", "?", "_", "=", "-").Replace(path[1:]), s.name)))
			}
		}
	}
}

// useful notes, as often as it is asked, when the main part of the page first had something to read: milliseconds from asking for the page.
const useful = `(() => { const m = document.querySelector("main"); if (!window.usefulAt && m && m.innerText.trim().length > 120) window.usefulAt = Math.round(performance.now()); return !!window.usefulAt; })()`

// How soon main pages can be used, from a browser that was here before; printed, since another machine is not this one.
func TestHowSoonPagesCanBeUsed(t *testing.T) {
	h := openLife(t)
	b := h.person(t, 1280, 800)
	b.signIn(state.Head)
	slowest := 0
	for _, path := range []string{"/today", "/library", "/curricula/blue-1", "/season/season-3", "/mat/fund-tue.2026-11-24", "/ledger", "/ledger/hanne-voss", "/people"} {
		for range 2 { // the first time the server may work something out
			b.goTo(path)
			b.until("the page is there", useful)
		}
		ms := eval[int](b, `window.usefulAt`)
		slowest = max(slowest, ms)
		t.Logf("%-28s %4d ms", path, ms)
	}
	assert.Less(t, slowest, 5_000, "a page that takes this long is broken, on whatever machine")
}

// sentenceInEnglish is what the server says there in English, whatever names stand in it.
var sentenceInEnglish = regexp.MustCompile(`weeks ago|last seen|Since \d|is held|of \d+ classes|time at the rank|not checked for|first: |ready: |\b(teach|review) [A-Z]|(Drill|Review|Teach): [A-Z]|warm up|checks met|, week \d|→ (met|drilled|passed|live)\b`)

// The student's, the coach's and the desk's pages in another language: chosen at the door, kept on the device, without a word of the interface or a sentence of the
// server left in English, fitting phone and desk, and with nothing that axe finds.
func TestPagesInAnotherLanguage(t *testing.T) {
	h := openLife(t)
	type page struct{ path, has string }
	for _, x := range []struct {
		language, button, name, password, enter, leave string
		who                                            state.Role
		wide, high                                     int64
		pages                                          []page
	}{
		{"es", "Español", "Nombre", "Contraseña", "Entrar", "Salir", state.Student, 390, 844, []page{
			{"/me", "Por posición"}, {"/me", "tiempo en el grado"}, {"/library/knee-cut", "Puntos clave"}, {"/account", "Sesiones abiertas"}}},
		{"pt", "Português", "Nome", "Senha", "Entrar", "Sair", state.Head, 1280, 800, []page{
			{"/today", "A semana a partir daqui"}, {"/today", "revisar "}, {"/mat/fund-tue.2026-11-24", "Outra pessoa: adicionar um convidado"}, {"/mat/fund-tue.2026-11-24", "Chegar e aquecer"}, {"/ledger", "Pontos difíceis"},
			{"/people", "Adicionar uma pessoa"}, {"/run", "Os próximos sete dias"}, {"/season/season-3", "Cobertura esperada"}, {"/season/season-3?view=story", "Volta: "},
			{"/season/season-3?view=publish", "Calendários"}, {"/season/season-3?view=units", "Adicionar uma unidade"}, {"/season/season-3?view=timetable", "Aulas semanais"}, {"/curricula/blue-1", "Auditoria"}, {"/curricula/blue-1?view=version", "Quem"},
			{"/academy", "Padrão da casa"}, {"/academy/accounts", "Convidar alguém"}, {"/begin", "Primeiro currículo e unidades"}, {"/library/files", "Escolher arquivos"}, {"/library/new", "Salvar técnica"}}},
	} {
		b := h.person(t, x.wide, x.high)
		b.goTo("/")
		b.click(x.button)
		b.until("the door speaks it", fmt.Sprintf(`document.documentElement?.lang === %q && document.body?.innerText.includes(%q)`, x.language, x.password))
		b.fill(x.name, testkit.SignIns[x.who])
		b.fill(x.password, "not this one")
		b.click(x.enter)
		b.until("the refusal speaks it", `/contraseña no van juntos|senha não combinam/.test(document.body?.innerText ?? "")`)
		b.fill(x.password, testkit.Password)
		b.click(x.enter)
		b.sees(x.leave)
		seen := ""
		for _, p := range x.pages {
			if p.path != seen {
				b.goTo(p.path)
			}
			b.sees(p.has)
			if p.path == seen {
				continue
			}
			seen = p.path
			assert.Empty(t, eval[[]string](b, sideways), p.path)
			b.accessible(p.path + " in " + x.language)
			if !strings.HasPrefix(p.path, "/library") { // its words are the record's
				assert.Empty(t, sentenceInEnglish.FindAllString(eval[string](b, `document.body.innerText`), -1), "%s in %s", p.path, x.language)
			}
		}
		b.goTo("/account")
		b.click("English")
		b.until("it is English again", `document.documentElement?.lang === "en" && document.body?.innerText.includes("Your account")`)
	}
}
