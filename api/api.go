// Package api serves the use cases over HTTP: typed operations under /api,
// their OpenAPI document and its page, and the interface itself.
package api

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"reflect"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/go-sql-driver/mysql"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"vereda/app"
	"vereda/app/accounts"
	"vereda/app/classes"
	"vereda/app/state"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/store"
)

// Server is the whole HTTP side.
type Server struct {
	app      *app.App
	sessions *scs.SessionManager
	store    *mysqlstore.MySQLStore
	api      huma.API
	handler  http.Handler
	large    chan struct{} // held by the one large body that is being read
	ending   context.Context
	end      context.CancelFunc

	background sync.WaitGroup // what goes on after its answer was given
}

// Options are how the server stands in the world.
type Options struct {
	// Secure marks the session's cookie for TLS alone: for a server behind one that speaks TLS.
	Secure bool
	// Proxies are trusted to say whom they ask for; of everybody else the connection counts.
	Proxies []netip.Prefix
	// Metrics shows the process under /metrics to whoever asks.
	Metrics bool
}

// New builds the server. Stop must be called when it is not needed any more.
func New(a *app.App, s *store.Store, o Options) *Server {
	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.Use(gin.CustomRecoveryWithWriter(nil, recovered), logged)
	kept := mysqlstore.NewWithCleanupInterval(s.DB, 10*time.Minute)
	sessions := scs.New()
	sessions.Store = kept
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "vereda"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.Secure = o.Secure
	sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { unavailable(w, r, err) }
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.HashTokenInStore = true
	sv := &Server{app: a, sessions: sessions, store: kept, large: make(chan struct{}, 1)}

	sv.api = humagin.New(router, humaConfig())
	sv.operations()
	sv.serveDownloads(router)
	sv.serveCalendars(router)
	router.GET("/api/docs", sv.docs)
	router.GET("/api/docs.css", docsStyle)
	router.GET("/api/classes/:id/changes", sv.classChanges)
	if o.Metrics {
		router.GET("/metrics", gin.WrapH(promhttp.Handler()))
	}
	router.NoRoute(noOperation)

	sv.ending, sv.end = context.WithCancel(context.Background())
	var h http.Handler = router
	h = called(o.Secure, h)
	h = sessions.LoadAndSave(h)
	h = http.NewCrossOriginProtection().Handler(h)
	outer := http.NewServeMux() // what is answered without a session, so without a database
	outer.HandleFunc("GET /healthz", healthy)
	outer.HandleFunc("GET /readyz", sv.ready(s))
	outer.Handle("/", interfaceFirst(h))
	sv.handler = guarded(behind(o.Proxies, outer))
	return sv
}

func humaConfig() huma.Config {
	huma.DefaultArrayNullable = false // lists are empty, never missing
	config := huma.DefaultConfig("Vereda", "1")
	config.Info.Description = "The technique library, curricula, seasons, classes and the ledger of a grappling academy. Sign in first; the session is a cookie."
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = "" // the library's page loads scripts from elsewhere; ours is served below
	config.SchemasPath = ""
	config.CreateHooks = nil
	config.Transformers = append(config.Transformers, inLanguage)
	config.Formats = map[string]huma.Format{"application/json": wholeJSON, "json": wholeJSON}
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	return config
}

// Handler serves everything.
func (s *Server) Handler() http.Handler { return s.handler }

// Stop ends the clean-up of old sessions, and what is open for as long as somebody looks.
func (s *Server) Stop() {
	s.end()
	s.background.Wait()
	s.store.StopCleanup()
}

// schemaName names schemas by package and type, as two packages may use the
// same word; the types of app go by their own name.
func schemaName(t reflect.Type, hint string) string {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	name := huma.DefaultSchemaNamer(t, hint)
	path := t.PkgPath()
	pkg := path[strings.LastIndexByte(path, '/')+1:]
	if strings.HasPrefix(path, "vereda/core/") { // the area of the job, whatever room in it
		pkg, _, _ = strings.Cut(strings.TrimPrefix(path, "vereda/core/"), "/")
	}
	if pkg == "" || strings.HasPrefix(path, "vereda/app/") || pkg == "api" || pkg == "v2" {
		return name
	}
	return strings.ToUpper(pkg[:1]) + pkg[1:] + name
}

type body[T any] struct{ Body T }

type nothing struct{}

type userKey struct{}

// smallBody bounds what an operation takes unless it says otherwise: a form, and no more.
const smallBody = 1 << 20

// How long a body may take to come: a form, and the largest import over a slow line (72 MB at 5 Mbit/s).
const (
	smallBodyTime = 20 * time.Second
	largeBodyTime = 150 * time.Second
)

// answerTime is how long an operation may take once its body is there: what takes longer goes on without anybody who waits.
const answerTime = time.Minute

// operation registers a use case. It is the one place where signing in and
// permissions are enforced, before anything of the request's body is read.
func operation[In, Out any](s *Server, method, path, id, summary string, run func(context.Context, state.User, *In) (Out, error), options ...func(*huma.Operation)) {
	allowed, known := permissions[id]
	if !known {
		panic("api: operation " + id + " is not in the table of permissions")
	}
	op := huma.Operation{OperationID: id, Method: method, Path: "/api" + path, Summary: summary, Tags: []string{area(path)}, Errors: []int{401, 403, 404, 409, 413, 422}, MaxBodyBytes: smallBody, BodyReadTimeout: smallBodyTime}
	for _, option := range options {
		option(&op)
	}
	op.Middlewares = append(op.Middlewares, s.checkPath)
	if len(allowed) > 0 {
		op.Middlewares = append(op.Middlewares, s.admit(id))
	}
	op.Middlewares = append(op.Middlewares, s.fits(op.MaxBodyBytes))
	if op.MaxBodyBytes > smallBody {
		op.Middlewares = append(op.Middlewares, s.oneLargeAtATime)
	}
	huma.Register(s.api, op,
		func(ctx context.Context, in *In) (*body[Out], error) {
			u, _ := ctx.Value(userKey{}).(state.User)
			ctx, cancel := context.WithTimeout(ctx, answerTime)
			defer cancel()
			out, err := run(ctx, u, in)
			if err != nil {
				return nil, problem(err)
			}
			return &body[Out]{out}, nil
		})
}

// admit lets in whoever may do this, and says to the others why not.
func (s *Server) admit(id string) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		u, err := s.allowed(ctx.Context(), id)
		if err != nil {
			refuse(s.api, ctx, err)
			return
		}
		next(huma.WithValue(ctx, userKey{}, u))
	}
}

// allowed is who is signed in, if they may do this.
func (s *Server) allowed(ctx context.Context, id string) (state.User, error) {
	u, err := s.signedIn(ctx)
	switch {
	case errors.Is(err, accounts.ErrSignIn):
		return u, refusal(http.StatusUnauthorized, "Sign in first.")
	case err != nil:
		return u, problem(err)
	case !may(u.Roles, id):
		return u, refusal(http.StatusForbidden, say.F("%s may not do this.", roleWords(u.Roles)))
	case u.WantsFactor && !beforeFactor[id]:
		return u, refusal(http.StatusForbidden, "Your academy wants a second factor of its head instructors. Set one up on your account's page, then go on.")
	}
	return u, nil
}

// checkPath refuses identifiers no record can have, before they reach a query.
func (s *Server) checkPath(ctx huma.Context, next func(huma.Context)) {
	u := ctx.URL()
	path, err := url.PathUnescape(u.EscapedPath())
	if query, errQuery := url.QueryUnescape(u.RawQuery); err != nil || errQuery != nil || !validation.Readable(path) || !validation.Readable(query) {
		refuse(s.api, ctx, refusal(http.StatusBadRequest, "The address holds characters that cannot be read: copy it again."))
		return
	}
	next(ctx)
}

// mostDrained is how much of a body that is too large is still taken, so that
// whoever sends it reads the answer instead of a broken connection.
const mostDrained = 16 << 20

// fits refuses a body that says it is larger than an operation takes.
func (s *Server) fits(most int64) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		size, err := strconv.ParseInt(ctx.Header("Content-Length"), 10, 64)
		if err != nil || size <= most {
			next(ctx)
			return
		}
		_ = ctx.SetReadDeadline(time.Now().Add(smallBodyTime))
		_, _ = io.CopyN(io.Discard, ctx.BodyReader(), min(size, mostDrained))
		refuse(s.api, ctx, refusal(http.StatusRequestEntityTooLarge, say.F("This is %.1f MB, and at most %.1f MB can be taken: send less at once.", float64(size)/(1<<20), float64(most)/(1<<20))))
	}
}

// oneLargeAtATime lets one large body in at a time: read and unpacked it takes several
// times its size.
func (s *Server) oneLargeAtATime(ctx huma.Context, next func(huma.Context)) {
	select {
	case s.large <- struct{}{}:
	case <-ctx.Context().Done():
		return
	}
	defer func() { <-s.large }()
	next(ctx)
}

func area(path string) string {
	return strings.Split(strings.TrimPrefix(path, "/"), "/")[0]
}

// signedIn is who the session belongs to: accounts.ErrSignIn when it belongs to nobody, another
// error when that cannot be told now.
func (s *Server) signedIn(ctx context.Context) (state.User, error) {
	id := s.sessions.GetString(ctx, "session")
	if id == "" {
		return state.User{}, accounts.ErrSignIn
	}
	return s.app.Accounts.UserBySession(ctx, id, callerOf(ctx).address)
}

// roleWords says "A coach" or "A coach and student".
func roleWords(roles []state.Role) say.Sentence {
	words := make([]say.Sentence, len(roles))
	for i, r := range roles {
		words[i] = r.Say()
	}
	if len(roles) > 0 && roles[0] == state.Assistant {
		return say.F("An %s", say.And(words...))
	}
	return say.F("A %s", say.And(words...))
}

func logFailure(what string, err error) { slog.Error(what, "error", err) }

// problem turns what the use case says into a problem detail.
func problem(err error) error {
	var refused *state.ValidationError
	var missing *state.NotFoundError
	var changed *state.ConflictError
	var forbidden *state.ForbiddenError
	var tooMany *state.RateLimitError
	switch {
	case errors.As(err, &refused):
		fields := make([]ErrorField, len(refused.Problems))
		for i, p := range refused.Problems {
			fields[i] = ErrorField{Location: p.Field, Message: p.What}
		}
		return refusal(http.StatusUnprocessableEntity, refused.Problems[0].What.Whole(), fields...)
	case errors.As(err, &missing):
		return refusal(http.StatusNotFound, missing.Say().Whole())
	case errors.As(err, &changed):
		return refusal(http.StatusConflict, changed.Say().Whole())
	case errors.As(err, &forbidden):
		return refusal(http.StatusForbidden, forbidden.Why)
	case errors.As(err, &tooMany):
		return refusal(http.StatusTooManyRequests, tooMany.Say().Whole())
	case errors.Is(err, accounts.ErrSignIn):
		return refusal(http.StatusUnauthorized, "This name and password do not go together. Check both and try again.")
	case errors.Is(err, classes.ErrDoor):
		return refusal(http.StatusUnauthorized, "This key is no door’s. Make another one under Academy, Accounts.")
	case errors.Is(err, accounts.ErrCode):
		return refusal(http.StatusUnauthorized, say.OfError(accounts.ErrCode).Whole())
	case errors.Is(err, store.ErrStale) || errors.Is(err, state.ErrBusy):
		return refusal(http.StatusConflict, "Too many changes at the same time. Try again.")
	}
	if errors.Is(err, context.Canceled) {
		return refusal(499, "The request was given up.")
	}
	if unreachable(err) {
		slog.Error("the database cannot be reached", "error", err)
		return refusal(http.StatusServiceUnavailable, unreachableNow)
	}
	slog.Error("a request failed", "error", err)
	return refusal(http.StatusInternalServerError, "Something went wrong on the server; nothing was changed. Its log says what.")
}

const unreachableNow say.Sentence = "The database cannot be reached. Nothing was changed; try again in a moment."

// unreachable says whether an error is of the connection to the database rather
// than of what was asked.
func unreachable(err error) bool {
	var network net.Error
	return errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, driver.ErrBadConn) || errors.As(err, &network) || errors.Is(err, context.DeadlineExceeded) || store.Unavailable(err)
}

// Document is the OpenAPI document, made without a database.
func Document() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &Server{sessions: scs.New()}
	s.api = humagin.New(gin.New(), humaConfig())
	s.operations()
	return s.api.OpenAPI().YAML()
}
