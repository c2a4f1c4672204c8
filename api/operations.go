package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"vereda/app/academies"
	"vereda/app/classes"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/validation"
	"vereda/exchange"
)

const (
	get    = http.MethodGet
	post   = http.MethodPost
	put    = http.MethodPut
	remove = http.MethodDelete
)

// Me is who is signed in, and what they may do.
type Me struct {
	Name    string     `json:"name"`
	Role    state.Role `json:"role"`
	Person  string     `json:"person"`
	Academy string     `json:"academy"`
	May     []string   `json:"may" doc:"Operations open to them"`
	Home    string     `json:"home" doc:"The page they begin on"`
	Areas   []Area     `json:"areas" doc:"The parts of the interface open to them, in the order of the work"`
}

// Done says what was changed, so that it can be undone.
type Done struct {
	Change string `json:"change,omitempty" doc:"For undo"`
	ID     string `json:"id,omitempty" doc:"Of what was made"`
}

// ByID names the thing in the path.
type ByID struct {
	ID string `path:"id"`
}

func (s *Server) operations() {
	s.account()
	s.library()
	s.curricula()
	s.seasons()
	s.classes()
	s.ledger()
	s.academy()
	s.describeDownloads()
}

func (s *Server) account() {
	operation(s, post, "/session", "sign-in", "Sign in", func(ctx context.Context, _ state.User, in *struct {
		Body struct {
			Name     string `json:"name" minLength:"1" maxLength:"100"`
			Password string `json:"password" minLength:"1" maxLength:"200"`
		}
		Address
	}) (Me, error) {
		u, err := s.app.Accounts.SignIn(ctx, in.Body.Name, in.Body.Password, in.host())
		if err != nil {
			return Me{}, err
		}
		if err := s.sessions.RenewToken(ctx); err != nil {
			return Me{}, err
		}
		s.sessions.Put(ctx, "account", u.Account)
		return s.me(ctx, u)
	})
	operation(s, remove, "/session", "sign-out", "Sign out", func(ctx context.Context, _ state.User, _ *nothing) (nothing, error) {
		return nothing{}, s.sessions.Destroy(ctx)
	})
	operation(s, get, "/session", "who-am-i", "Who is signed in", func(ctx context.Context, u state.User, _ *nothing) (Me, error) {
		return s.me(ctx, u)
	})
}

func (s *Server) me(ctx context.Context, u state.User) (Me, error) {
	name, err := s.app.Accounts.AcademyName(ctx, u)
	me := Me{Name: u.Name, Role: u.Role, Person: u.Person, Academy: name, May: []string{}, Home: opensOn[u.Role], Areas: []Area{}}
	for _, a := range areas {
		if may(u.Role, a.needs) && a.not != u.Role {
			me.Areas = append(me.Areas, a.Area)
		}
	}
	for id := range permissions {
		if may(u.Role, id) {
			me.May = append(me.May, id)
		}
	}
	return me, err
}

// Address is where a request comes from.
type Address struct{ remote string }

// Resolve takes the address from the connection.
func (a *Address) Resolve(ctx huma.Context) []error {
	a.remote = ctx.RemoteAddr()
	return nil
}

func (a Address) host() string {
	for i := len(a.remote) - 1; i > 0; i-- {
		if a.remote[i] == ':' {
			return a.remote[:i]
		}
	}
	return a.remote
}

func (s *Server) classes() {
	operation(s, get, "/week", "week", "The seven days around a day", func(ctx context.Context, u state.User, in *struct {
		Of string `query:"of" format:"date" doc:"Today when left out"`
	}) ([]classes.Day, error) {
		if in.Of == "" {
			return s.app.Classes.Week(ctx, u, nil)
		}
		day, err := calendar.ParseDay(in.Of)
		if err != nil {
			return nil, &state.ValidationError{Problems: []validation.Problem{{Field: "of", What: err.Error()}}}
		}
		return s.app.Classes.Week(ctx, u, &day)
	})
	operation(s, get, "/classes/{id}", "get-class", "One class on one day", func(ctx context.Context, u state.User, in *ByID) (classes.SessionPage, error) {
		return s.app.Classes.Session(ctx, u, in.ID)
	})
	operation(s, put, "/classes/{id}/choice", "choose-class", "Choose by hand what a class teaches", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.SessionChoice
	}) (Done, error) {
		id, err := s.app.Classes.Choose(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	})
	operation(s, put, "/classes/{id}/attendance/{student}", "check-in", "Check a student in", func(ctx context.Context, u state.User, in *struct {
		ByID
		Student string `path:"student"`
		Event   string `query:"event" maxLength:"60" doc:"The sender's own identifier: sending twice is the same as once"`
	}) (nothing, error) {
		return nothing{}, s.app.Classes.CheckIn(ctx, u, in.ID, in.Student, in.Event)
	})
	operation(s, remove, "/classes/{id}/attendance/{student}", "check-out", "Take a check-in back", func(ctx context.Context, u state.User, in *struct {
		ByID
		Student string `path:"student"`
	}) (nothing, error) {
		return nothing{}, s.app.Classes.CheckOut(ctx, u, in.ID, in.Student)
	})
	operation(s, post, "/classes/{id}/rotation", "pair-class", "Pair those who are here", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.MakeRotation
	}) (nothing, error) {
		return nothing{}, s.app.Classes.Pair(ctx, u, in.ID, in.Body)
	})
	operation(s, get, "/classes/{id}/clock", "get-clock", "The clock of a class, or of what is left of it", func(ctx context.Context, u state.User, in *struct {
		ByID
		From string `query:"from" doc:"Segment to start from"`
		Left int    `query:"left" minimum:"0" maximum:"300" doc:"Minutes left"`
	}) (classes.ClockPage, error) {
		return s.app.Classes.Clock(ctx, u, in.ID, in.From, in.Left)
	})
	operation(s, post, "/classes/{id}/record", "record-class", "Say what a class reached", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.SessionReport
	}) (nothing, error) {
		return nothing{}, s.app.Classes.Report(ctx, u, in.ID, in.Body)
	})
}

func (s *Server) ledger() {
	operation(s, get, "/checks/sheet", "get-check", "What to look for in a check", func(ctx context.Context, u state.User, in *struct {
		Student   string       `query:"student" required:"true"`
		Technique string       `query:"technique"`
		Side      library.Side `query:"side" enum:"left,right"`
	}) (students.CheckPage, error) {
		return s.app.Students.CheckPage(ctx, u, in.Student, in.Technique, in.Side)
	})
	operation(s, post, "/checks", "keep-check", "Judge a check and keep it", func(ctx context.Context, u state.User, in *body[students.KeepCheck]) (students.Kept, error) {
		return s.app.Students.KeepCheck(ctx, u, in.Body)
	})
	operation(s, post, "/checks/{id}/overrule", "overrule-check", "Overrule a verdict with a reason", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Met    bool   `json:"met"`
			Reason string `json:"reason" maxLength:"500"`
		}
	}) (students.Kept, error) {
		return s.app.Students.Overrule(ctx, u, in.ID, in.Body.Met, in.Body.Reason)
	})
	operation(s, get, "/heat", "heat-map", "Students by requirements", func(ctx context.Context, u state.User, in *struct {
		Curriculum string `query:"curriculum"`
	}) (students.HeatMap, error) {
		return s.app.Students.Heat(ctx, u, in.Curriculum)
	})
	operation(s, get, "/students/{id}", "get-student", "One student's ledger", func(ctx context.Context, u state.User, in *ByID) (students.StudentPage, error) {
		return s.app.Students.StudentPage(ctx, u, in.ID)
	})
	operation(s, get, "/me", "my-page", "The signed-in student's own page", func(ctx context.Context, u state.User, _ *nothing) (students.StudentPage, error) {
		return s.app.Students.StudentPage(ctx, u, u.Person)
	})
}

func (s *Server) academy() {
	operation(s, get, "/people", "list-people", "Everybody", func(ctx context.Context, u state.User, _ *nothing) ([]state.PersonLine, error) {
		return s.app.People.People(ctx, u)
	})
	operation(s, get, "/academy", "get-academy", "Settings with their sources", func(ctx context.Context, u state.User, _ *nothing) (academies.AcademyPage, error) {
		return s.app.Academies.Academy(ctx, u)
	})
	operation(s, get, "/academy/rebuild", "check-log", "Project the whole log anew, and say where this server holds something else", func(ctx context.Context, u state.User, _ *nothing) (academies.Rebuilt, error) {
		return s.app.Academies.Rebuild(ctx, u.Academy)
	})
	type broken struct {
		Kind string `path:"kind" maxLength:"32"`
		ID   string `path:"id" maxLength:"120"`
	}
	operation(s, post, "/academy/broken/{kind}/{id}", "mend-broken", "Put a record that cannot be read back as it was last when it could be", func(ctx context.Context, u state.User, in *broken) (Done, error) {
		id, err := s.app.Academies.MendBroken(ctx, u, in.Kind, in.ID, false)
		return Done{Change: id}, err
	})
	operation(s, remove, "/academy/broken/{kind}/{id}", "delete-broken", "Delete a record that cannot be read", func(ctx context.Context, u state.User, in *broken) (Done, error) {
		id, err := s.app.Academies.MendBroken(ctx, u, in.Kind, in.ID, true)
		return Done{Change: id}, err
	})
	operation(s, put, "/academy/required-cells", "set-required-cells", "Say which cells of the position-by-kind matrix may not be empty", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			RequiredCells []curriculum.RequiredCell `json:"required_cells,omitempty" maxItems:"200" doc:"Left out: the usual ones"`
		}
	}) (Done, error) {
		id, err := s.app.Academies.SetRequiredCells(ctx, u, in.Body.RequiredCells)
		return Done{Change: id}, err
	})
	operation(s, get, "/academy/bundle", "export-academy", "The whole academy as a bundle", func(ctx context.Context, u state.User, _ *nothing) (exchange.Bundle, error) {
		return s.app.Academies.Export(ctx, u.Academy)
	})
	operation(s, get, "/changes", "list-changes", "The newest changes", func(ctx context.Context, u state.User, _ *nothing) ([]state.EditLine, error) {
		return s.app.State.Edits(ctx, u)
	})
	operation(s, post, "/changes/{id}/undo", "undo-change", "Undo a change", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.State.Undo(ctx, u, in.ID)
		return Done{Change: id}, err
	})
}
