package api

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"vereda/store"
)

// How long a connection may take. A body has shorter limits of its own, by operation; a stream
// moves its limit on with each line.
const (
	headerTime = 10 * time.Second
	readTime   = 3 * time.Minute
	writeTime  = 3 * time.Minute
	idleTime   = 2 * time.Minute
)

// HTTP is a server of everything, with its limits of time set.
func (s *Server) HTTP() *http.Server {
	return &http.Server{Handler: s.Handler(), ReadHeaderTimeout: headerTime, ReadTimeout: readTime, WriteTimeout: writeTime, IdleTimeout: idleTime, MaxHeaderBytes: 64 << 10}
}

func healthy(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") }

// ready says whether requests can be answered: the database can be reached, and the server does not end.
func (s *Server) ready(db *store.Store) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
		defer cancel()
		if _, err := db.AnyAccount(ctx); err != nil { // a node outside its cluster answers a ping, but reads no table
			http.Error(w, "the database cannot be reached", http.StatusServiceUnavailable)
			return
		}
		if s.ending.Err() != nil {
			http.Error(w, "the server is ending", http.StatusServiceUnavailable)
			return
		}
		fmt.Fprintln(w, "ready")
	}
}

// unavailable answers where not even the session can be read.
func unavailable(w http.ResponseWriter, r *http.Request, err error) {
	if r.Context().Err() != nil {
		return // whoever asked is gone
	}
	slog.Error("a session could not be read or kept", "error", err)
	w.Header().Set("Retry-After", "2")
	tell(w, r, refusal(http.StatusServiceUnavailable, unreachableNow))
}

// behind puts the address of whoever asked in the place of a trusted proxy's:
// the last one the proxies did not add themselves.
func behind(trusted []netip.Prefix, next http.Handler) http.Handler {
	is := func(text string) bool {
		a, err := netip.ParseAddr(strings.TrimSpace(text))
		if err != nil {
			return false
		}
		for _, p := range trusted {
			if p.Contains(a.Unmap()) {
				return true
			}
		}
		return false
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host, port, err := net.SplitHostPort(r.RemoteAddr)
		if err == nil && is(host) {
			hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
			for i := len(hops) - 1; i >= 0; i-- {
				hop := strings.TrimSpace(hops[i])
				if _, err := netip.ParseAddr(hop); err != nil {
					break
				}
				host = hop
				if !is(hop) {
					break
				}
			}
			r.RemoteAddr = net.JoinHostPort(host, port)
		}
		next.ServeHTTP(w, r)
	})
}

// streamBeat is how often an open stream says that it is still there.
const streamBeat = 15 * time.Second

// classChanges tells an open page that something about its academy changed, for as long as
// it looks: one line for each change, so that the page reads anew. It is a stream of server-sent events.
func (s *Server) classChanges(c *gin.Context) {
	ctx, cancel := context.WithCancel(c.Request.Context())
	defer cancel()
	defer context.AfterFunc(s.ending, cancel)()
	u, err := s.allowed(ctx, "get-class")
	if err == nil {
		_, err = s.app.Classes.Session(ctx, u, c.Param("id"))
		if err != nil {
			err = problem(err)
		}
	}
	if refused(c, err) {
		return
	}
	changes := s.app.State.Watch(ctx, u.Academy)
	out := http.NewResponseController(c.Writer)
	c.Header("Content-Type", "text/event-stream")
	c.Header("Cache-Control", "no-store")
	c.Header("X-Accel-Buffering", "no")
	say := func(line string) bool {
		_ = out.SetWriteDeadline(time.Now().Add(2 * streamBeat))
		_, err := fmt.Fprint(c.Writer, line)
		return err == nil && out.Flush() == nil
	}
	_ = out.SetReadDeadline(time.Time{})
	if !say("retry: 1000\n\n") {
		return
	}
	beat := time.NewTicker(streamBeat)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case head, open := <-changes:
			if !open || !say(fmt.Sprintf("data: %d.%d\n\n", head.Revision, head.Last)) {
				return
			}
		case <-beat.C:
			if _, err := s.allowed(ctx, "get-class"); err != nil { // signed out, or may not any more
				return
			}
			if !say(": still here\n\n") {
				return
			}
		}
	}
}
