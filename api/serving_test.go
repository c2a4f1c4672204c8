package api

import (
	"bufio"
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/classes"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/testkit"
	"vereda/store"
)

const tonight = "fund-early.2026-11-24"

// Who one is comes before anything one sends: a body of somebody unknown is not read.
func TestABodyIsNotReadBeforeTheSessionIsKnown(t *testing.T) {
	h := open(t)
	read := 0
	body := io.MultiReader(strings.NewReader(`{"files":[`), counted{&read})
	r, err := http.NewRequest("POST", h.url+"/api/library/imports", body)
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	answer, err := http.DefaultClient.Do(r)
	if err == nil { // the connection may be closed before the answer is read
		defer answer.Body.Close()
		assert.Equal(t, 401, answer.StatusCode)
	}
	assert.Less(t, read, 8<<20, "of an endless body")
	status, _ := h.as("tomas").send("POST", "/api/library/imports", `{"files":[],"decisions":[]}`)
	assert.Equal(t, 403, status, "nor that of somebody who may not")
}

// counted is a body without an end.
type counted struct{ n *int }

func (c counted) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	*c.n += len(p)
	return len(p), nil
}

func TestBodiesHaveLimitsAndErrorsAreFew(t *testing.T) {
	c := open(t).as("ines")
	status, _ := c.send("PUT", "/api/timetable/classes?version=0", `{"name":"`+strings.Repeat("x", 2<<20)+`"}`)
	assert.Equal(t, 413, status)
	wrong := `{"id":"","name":"x","audience":"adult","ranks":[` + strings.Repeat(`{"id":1},`, 4000) + `{"id":1}]}`
	status, text := c.send("PUT", "/api/ladders?version=0", wrong)
	assert.Equal(t, 422, status)
	assert.Less(t, len(text), 8000)
	assert.LessOrEqual(t, strings.Count(text, `"message"`), mostErrors+1)
	assert.Contains(t, text, "more")
}

// Forty guesses at once: no more are looked at than the limit lets through.
func TestGuessingInParallelPassesNoLimit(t *testing.T) {
	h := open(t)
	var wg sync.WaitGroup
	var mu sync.Mutex
	told := map[int]int{}
	for i := range 40 {
		wg.Go(func() {
			body := fmt.Sprintf(`{"name":"oren","password":"guess %d"}`, i)
			answer, err := http.Post(h.url+"/api/session", "application/json", strings.NewReader(body))
			if assert.NoError(t, err) {
				answer.Body.Close()
				mu.Lock()
				told[answer.StatusCode]++
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	assert.LessOrEqual(t, told[401], 5)
	assert.Equal(t, 40, told[401]+told[429])
	status, _ := h.anybody().send("POST", "/api/session", `{"name":"oren","password":"`+testkit.Password+`"}`)
	assert.Contains(t, []int{200, 429}, status)
	status, _ = h.anybody().send("POST", "/api/session", `{"name":"`+strings.Repeat("Ō", 100)+`","password":"x"}`)
	assert.Equal(t, 401, status, "a name longer than any account's is a wrong one")
}

// Characters nobody can read in an identifier are said to be so.
func TestAnAddressThatCannotBeReadIsRefused(t *testing.T) {
	c := open(t).as("ines")
	for _, path := range []string{"/api/techniques/%ff%fe", "/api/classes/%00", "/api/techniques?q=%ff", "/api/curricula/%ff/list.csv"} {
		status, text := c.send("GET", path, "")
		assert.Equal(t, 400, status, "%s: %s", path, text)
	}
}

// An answer that cannot be written as JSON is an error of the server, and not a half answer.
func TestAnAnswerThatCannotBeWrittenIsAnError(t *testing.T) {
	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.Use(gin.CustomRecoveryWithWriter(nil, recovered))
	router.GET("/", func(c *gin.Context) { _ = wholeJSON.Marshal(c.Writer, map[string]any{"x": func() {}}) })
	w := httptest.NewRecorder()
	router.ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
	assert.Equal(t, 500, w.Code)
	assert.Contains(t, w.Body.String(), "Something went wrong on the server")
}

// Ten calendars made at once: the last one counts, none fails.
func TestCalendarsMadeAtOnce(t *testing.T) {
	c := open(t).as("ines")
	var wg sync.WaitGroup
	for range 10 {
		wg.Go(func() {
			status, text := c.send("POST", "/api/feeds?scope=all&target=", "")
			assert.Equal(t, 200, status, text)
		})
	}
	wg.Wait()
}

// Only a trusted proxy is believed whom it asks for, and only the part it did not get from others.
func TestWhomAProxyAsksFor(t *testing.T) {
	proxies := []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}
	for _, x := range []struct{ from, forwarded, want string }{
		{"10.1.1.1:80", "203.0.113.7", "203.0.113.7"},
		{"10.1.1.1:80", "198.51.100.1, 203.0.113.7", "203.0.113.7"},
		{"10.1.1.1:80", "198.51.100.1, 203.0.113.7, 10.2.2.2", "203.0.113.7"},
		{"10.1.1.1:80", "", "10.1.1.1"},
		{"10.1.1.1:80", "nonsense", "10.1.1.1"},
		{"203.0.113.9:80", "1.2.3.4", "203.0.113.9"},
		{"[2001:db8::1]:80", "1.2.3.4", "2001:db8::1"},
	} {
		got := ""
		h := behind(proxies, http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { got = r.RemoteAddr }))
		r := httptest.NewRequest("GET", "/", nil)
		r.RemoteAddr = x.from
		if x.forwarded != "" {
			r.Header.Set("X-Forwarded-For", x.forwarded)
		}
		h.ServeHTTP(httptest.NewRecorder(), r)
		assert.Equal(t, x.want, strings.Trim(got[:strings.LastIndex(got, ":")], "[]"), "%+v", x)
	}
}

// An open class page hears within a second what another server wrote, and at once what its own did.
func TestAnOpenClassHearsOfChanges(t *testing.T) {
	h := open(t)
	other := app.New(h.store, func() time.Time { return now }, time.UTC, testkit.Files(t))
	c := h.as("tomas")
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	r, err := http.NewRequestWithContext(ctx, "GET", h.url+"/api/classes/"+tonight+"/changes", nil)
	require.NoError(t, err)
	stream, err := c.http.Do(r)
	require.NoError(t, err)
	defer stream.Body.Close()
	require.Equal(t, 200, stream.StatusCode)
	assert.Equal(t, "text/event-stream", stream.Header.Get("Content-Type"))
	heard := make(chan string, 10)
	go func() {
		for lines := bufio.NewScanner(stream.Body); lines.Scan(); {
			if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				heard <- data
			}
		}
	}()
	user := testkit.Users[state.Head]
	hears := func(within time.Duration, what string) {
		t.Helper()
		select {
		case <-heard:
		case <-time.After(within):
			assert.Fail(t, "not heard", what)
		}
	}
	require.NoError(t, h.app.Classes.CheckIn(t.Context(), user, tonight, "oren-vask", "", ""))
	hears(200*time.Millisecond, "a check-in on this server")
	require.NoError(t, other.Classes.CheckIn(t.Context(), user, tonight, "agathe-linden", "", ""))
	hears(time.Second, "a check-in on another server")
	status, _ := h.anybody().send("GET", "/api/classes/"+tonight+"/changes", "")
	assert.Equal(t, 401, status)
	status, _ = h.as("oren").send("GET", "/api/classes/"+tonight+"/changes", "")
	assert.Equal(t, 403, status)
	status, _ = c.send("GET", "/api/classes/nothing.2026-11-24/changes", "")
	assert.Equal(t, 404, status)
}

// What is nobody's business at the desk, or a student's, is not in what they are sent.
func TestTheDeskAndStudentsReadNoMoreThanTheyNeed(t *testing.T) {
	h := open(t)
	ctx := t.Context()
	user := testkit.Users[state.Head]
	require.NoError(t, h.app.Classes.Report(ctx, user, tonight, classes.SessionReport{Note: "Left side not done; Oren tires early"}))
	// Somebody old enough for the rule of moving on, who is a minor.
	b, err := h.app.Academies.Export(ctx, user.Academy)
	require.NoError(t, err)
	birth := calendar.DayOf(now) - 365*16 - 10
	minor := ""
	for i, l := range b.Ladders {
		if l.Onward == nil {
			continue
		}
		for j, p := range b.People {
			if p.Ladder == l.ID && l.Onward.Ranks[p.Rank] != "" {
				b.People[j].Birth, minor = &birth, p.Name
			}
		}
		b.Ladders[i].Onward.Age = 16
	}
	require.NotEmpty(t, minor)
	b.People[0].NeverWith = []string{b.People[1].ID}
	_, err = h.app.Academies.Import(ctx, b)
	require.NoError(t, err)
	_, text := h.as("ines").send("GET", "/api/ladders", "")
	require.Contains(t, text, minor)
	for _, who := range []string{"desk", "oren"} {
		_, text = h.as(who).send("GET", "/api/ladders", "")
		assert.NotContains(t, text, minor, who)
	}
	_, text = h.as("desk").send("GET", "/api/classes/"+tonight, "")
	assert.NotContains(t, text, "Left side not done")
	assert.NotContains(t, text, "kept apart")
	_, text = h.as("tomas").send("GET", "/api/classes/"+tonight, "")
	assert.Contains(t, text, "Left side not done")
}

// With the database away the interface is served, says what is wrong, and works again when it is back.
func TestWithoutADatabase(t *testing.T) {
	h := open(t)
	dead, err := sql.Open("mysql", "nobody:x@tcp(127.0.0.1:1)/none?timeout=200ms")
	require.NoError(t, err)
	s := store.New(dead)
	server := New(app.New(s, func() time.Time { return now }, time.UTC, testkit.Files(t)), s, Options{})
	defer server.Stop()
	get := func(path string, cookie string) *httptest.ResponseRecorder {
		r := httptest.NewRequest("GET", path, nil)
		if cookie != "" {
			r.AddCookie(&http.Cookie{Name: "vereda", Value: cookie})
		}
		w := httptest.NewRecorder()
		server.Handler().ServeHTTP(w, r)
		return w
	}
	assert.Equal(t, 200, get("/library", "x").Code, "the interface needs no database")
	assert.Equal(t, 200, get("/healthz", "").Code)
	assert.Equal(t, 503, get("/readyz", "").Code)
	w := get("/api/session", "some-session")
	assert.Equal(t, 503, w.Code, "and not 401: nobody was signed out")
	assert.Contains(t, w.Body.String(), "The database cannot be reached")
	w = get("/calendar/"+strings.Repeat("a", 43)+".ics", "")
	assert.Equal(t, 503, w.Code)
	assert.Equal(t, 404, get("/metrics", "").Code, "behind a setting")
	ok, _ := h.anybody().send("GET", "/readyz", "")
	assert.Equal(t, 200, ok)
}

func TestTheCookieIsMarkedForTLS(t *testing.T) {
	h := open(t)
	for _, secure := range []bool{true, false} {
		server := New(h.app, h.store, Options{Secure: secure})
		w := httptest.NewRecorder()
		r := httptest.NewRequest("POST", "/api/session", bytes.NewReader([]byte(`{"name":"ines","password":"`+testkit.Password+`"}`)))
		r.Header.Set("Content-Type", "application/json")
		server.Handler().ServeHTTP(w, r)
		require.Equal(t, 200, w.Code)
		assert.Equal(t, secure, strings.Contains(w.Header().Get("Set-Cookie"), "Secure"))
		server.Stop()
	}
}
