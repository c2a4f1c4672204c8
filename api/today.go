package api

import (
	"context"

	"vereda/app"
	"vereda/app/state"
)

func (s *Server) today() {
	operation(s, get, "/today", "today", "What needs a person now, and the week around it", func(ctx context.Context, u state.User, _ *nothing) (app.TodayPage, error) {
		return s.app.Today(ctx, u)
	})
	operation(s, get, "/find", "find", "Find anything by its name", func(ctx context.Context, u state.User, in *struct {
		Q string `query:"q" maxLength:"100" doc:"Words of a name, in any order; may be misspelt or begun only"`
	}) ([]app.Found, error) {
		return s.app.Find(ctx, u, in.Q, languageOf(ctx), func(operation string) bool { return may(u.Roles, operation) })
	})
}
