// Package api serves the use cases over HTTP: typed operations under /api,
// their OpenAPI document and its page, and the interface itself.
package api

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"vereda/app"
	"vereda/app/state"
	"vereda/store"
)

// Server is the whole HTTP side.
type Server struct {
	app      *app.App
	sessions *scs.SessionManager
	store    *mysqlstore.MySQLStore
	api      huma.API
	handler  http.Handler
}

// New builds the server. Stop must be called when it is not needed any more.
func New(a *app.App, s *store.Store) *Server {
	gin.SetMode(gin.ReleaseMode)
	router := gin.New()
	router.Use(gin.CustomRecovery(recovered), logged)
	kept := mysqlstore.NewWithCleanupInterval(s.DB, 10*time.Minute)
	sessions := scs.New()
	sessions.Store = kept
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "vereda"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.HashTokenInStore = true
	sv := &Server{app: a, sessions: sessions, store: kept}

	sv.api = humagin.New(router, humaConfig())
	sv.operations()
	sv.serveDownloads(router)
	sv.serveCalendars(router)
	router.GET("/api/docs", sv.docs)
	router.GET("/api/docs.css", docsStyle)
	router.GET("/metrics", gin.WrapH(promhttp.Handler()))
	router.NoRoute(interfaceFiles())

	var h http.Handler = router
	h = sessions.LoadAndSave(h)
	h = http.NewCrossOriginProtection().Handler(h)
	sv.handler = guarded(h)
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
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	return config
}

// Handler serves everything.
func (s *Server) Handler() http.Handler { return s.handler }

// Stop ends the clean-up of old sessions.
func (s *Server) Stop() { s.store.StopCleanup() }

// schemaName names schemas by package and type, as two packages may use the
// same word; the types of app go by their own name.
func schemaName(t reflect.Type, hint string) string {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	name := huma.DefaultSchemaNamer(t, hint)
	path := t.PkgPath()
	pkg := path[strings.LastIndexByte(path, '/')+1:]
	if pkg == "" || pkg == "app" || pkg == "api" || pkg == "v2" {
		return name
	}
	return strings.ToUpper(pkg[:1]) + pkg[1:] + name
}

type body[T any] struct{ Body T }

type nothing struct{}

type userKey struct{}

// operation registers a use case. It is the one place where signing in and
// permissions are enforced.
func operation[In, Out any](s *Server, method, path, id, summary string, run func(context.Context, app.User, *In) (Out, error), options ...func(*huma.Operation)) {
	allowed, known := permissions[id]
	if !known {
		panic("api: operation " + id + " is not in the table of permissions")
	}
	op := huma.Operation{OperationID: id, Method: method, Path: "/api" + path, Summary: summary, Tags: []string{area(path)}, Errors: []int{401, 403, 404, 409, 422}}
	for _, option := range options {
		option(&op)
	}
	huma.Register(s.api, op,
		func(ctx context.Context, in *In) (*body[Out], error) {
			u, err := s.signedIn(ctx)
			if len(allowed) > 0 {
				if err != nil {
					return nil, huma.Error401Unauthorized("Sign in first.")
				}
				if !may(u.Role, id) {
					return nil, huma.Error403Forbidden("A " + string(u.Role) + " may not do this.")
				}
			}
			out, err := run(ctx, u, in)
			if err != nil {
				return nil, problem(err)
			}
			return &body[Out]{out}, nil
		})
}

func area(path string) string {
	return strings.Split(strings.TrimPrefix(path, "/"), "/")[0]
}

func (s *Server) signedIn(ctx context.Context) (app.User, error) {
	id := s.sessions.GetString(ctx, "account")
	if id == "" {
		return app.User{}, app.ErrSignIn
	}
	return s.app.UserByAccount(ctx, id)
}

// problem turns what the use case says into a problem detail.
func problem(err error) error {
	var refused *app.ValidationError
	var missing *app.NotFoundError
	var changed *app.ConflictError
	var forbidden *app.ForbiddenError
	var tooMany *app.RateLimitError
	switch {
	case errors.As(err, &refused):
		details := make([]error, len(refused.Problems))
		for i, p := range refused.Problems {
			details[i] = &huma.ErrorDetail{Location: p.Field, Message: p.What}
		}
		return huma.Error422UnprocessableEntity(sentence(refused.Problems[0].What), details...)
	case errors.As(err, &missing):
		return huma.Error404NotFound(sentence(missing.Error()))
	case errors.As(err, &changed):
		return huma.Error409Conflict(sentence(changed.Error()))
	case errors.As(err, &forbidden):
		return huma.Error403Forbidden(forbidden.Why)
	case errors.As(err, &tooMany):
		return huma.NewError(http.StatusTooManyRequests, sentence(tooMany.Error()))
	case errors.Is(err, app.ErrSignIn):
		return huma.Error401Unauthorized(sentence(app.ErrSignIn.Error()) + " Check both and try again.")
	case errors.Is(err, store.ErrStale) || errors.Is(err, state.ErrBusy):
		return huma.Error409Conflict("Too many changes at the same time. Try again.")
	}
	slog.Error("a request failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong on the server; nothing was changed. Its log says what.")
}

func sentence(s string) string {
	s = strings.ToUpper(s[:1]) + s[1:]
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// Document is the OpenAPI document, made without a database.
func Document() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &Server{sessions: scs.New()}
	s.api = humagin.New(gin.New(), humaConfig())
	s.operations()
	return s.api.OpenAPI().YAML()
}
