package api

import (
	"context"
	"net/http"

	"vereda/app/academies"
	"vereda/app/classes"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/exchange"
)

const (
	get    = http.MethodGet
	post   = http.MethodPost
	put    = http.MethodPut
	remove = http.MethodDelete
)

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
	s.today()
	s.curricula()
	s.seasons()
	s.classes()
	s.ledger()
	s.academy()
	s.people()
	s.begin()
	s.describeDownloads()
}

func (s *Server) classes() {
	operation(s, get, "/week", "week", "The seven days around a day", func(ctx context.Context, u state.User, in *struct {
		Of    string `query:"of" format:"date" doc:"Today when left out"`
		Ahead bool   `query:"ahead" doc:"The seven days from that day on instead"`
	}) ([]classes.Day, error) {
		if in.Of == "" {
			return s.app.Classes.Week(ctx, u, nil, in.Ahead)
		}
		day, err := calendar.ParseDay(in.Of)
		if err != nil {
			return nil, &state.ValidationError{Problems: []validation.Problem{{Field: "of", What: say.OfError(err)}}}
		}
		return s.app.Classes.Week(ctx, u, &day, in.Ahead)
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
		Part    string `query:"part" enum:"late,early" doc:"Came late, or left early; the whole class when left out"`
		Event   string `query:"event" maxLength:"60" doc:"The sender's own identifier: sending twice is the same as once"`
	}) (nothing, error) {
		return nothing{}, s.app.Classes.CheckIn(ctx, u, in.ID, in.Student, in.Part, in.Event)
	})
	operation(s, get, "/classes/{id}/checks", "class-checks", "Who to check in some minutes of a class, with the forms for it", func(ctx context.Context, u state.User, in *struct {
		ByID
		Minutes float64  `query:"minutes" minimum:"1" maximum:"120" default:"10"`
		Coaches []string `query:"coaches" doc:"Who checks; whoever leads the class when left out"`
	}) (classes.ChecksPage, error) {
		return s.app.Classes.Checks(ctx, u, in.ID, in.Minutes, in.Coaches)
	})
	operation(s, post, "/classes/{id}/guests", "add-guest", "Take a guest into a class", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.Guest
	}) (Done, error) {
		change, err := s.app.Classes.AddGuest(ctx, u, in.ID, in.Body)
		return Done{Change: change}, err
	})
	operation(s, post, "/classes/{id}/units", "add-unit-to-class", "Put one more unit into a class", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Unit string `json:"unit" maxLength:"100"`
			Kind string `json:"kind" enum:"teach,review"`
		}
	}) (Done, error) {
		change, err := s.app.Classes.AddUnit(ctx, u, in.ID, in.Body.Unit, in.Body.Kind)
		return Done{Change: change}, err
	})
	operation(s, post, "/classes/{id}/makeups", "add-makeup", "Put a station into a class at which those who missed a unit catch it up", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Unit   string   `json:"unit" maxLength:"100"`
			People []string `json:"people" minItems:"1" maxItems:"60"`
		}
	}) (Done, error) {
		change, err := s.app.Classes.AddMakeup(ctx, u, in.ID, in.Body.Unit, in.Body.People)
		return Done{Change: change}, err
	})
	operation(s, post, "/classes/{id}/incidents", "note-incident", "Note what happened to somebody", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.Incident
	}) (Done, error) {
		change, err := s.app.Classes.NoteIncident(ctx, u, in.ID, in.Body)
		return Done{Change: change}, err
	})
	operation(s, remove, "/classes/{id}/attendance/{student}", "check-out", "Take a check-in back", func(ctx context.Context, u state.User, in *struct {
		ByID
		Student string `path:"student"`
		Event   string `query:"event" maxLength:"60" doc:"The sender's own identifier, as for check-in"`
	}) (nothing, error) {
		return nothing{}, s.app.Classes.CheckOut(ctx, u, in.ID, in.Student, in.Event)
	})
	operation(s, post, "/classes/{id}/rotation", "pair-class", "Pair those who are here", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.MakeRotation
	}) (nothing, error) {
		return nothing{}, s.app.Classes.Pair(ctx, u, in.ID, in.Body)
	})
	operation(s, get, "/classes/{id}/clock", "get-clock", "The clock of a class, as it stands", func(ctx context.Context, u state.User, in *ByID) (classes.ClockPage, error) {
		return s.app.Classes.Clock(ctx, u, in.ID)
	})
	operation(s, post, "/classes/{id}/clock", "turn-clock", "Start, stop, move or refit the clock of a class", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.TurnClock
	}) (nothing, error) {
		return nothing{}, s.app.Classes.Turn(ctx, u, in.ID, in.Body)
	})
	operation(s, put, "/classes/{id}/sheet", "edit-sheet", "Stretch, drop, add back or move segments of one class", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.SheetEdits
	}) (Done, error) {
		id, err := s.app.Classes.EditSheet(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	})
	operation(s, put, "/classes/{id}/stations", "plan-stations", "Make groups of those who are here and send them from station to station", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body academy.Stations
	}) (Done, error) {
		id, err := s.app.Classes.PlanStations(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	})
	operation(s, remove, "/classes/{id}/stations", "clear-stations", "Go on without stations", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Classes.ClearStations(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	operation(s, get, "/doors", "list-doors", "Readers at the door", func(ctx context.Context, u state.User, _ *nothing) ([]classes.DoorLine, error) {
		return s.app.Classes.Doors(ctx, u)
	})
	operation(s, post, "/doors", "add-door", "Make the key of a reader; it is shown once", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"200"`
		}
	}) (classes.NewDoor, error) {
		return s.app.Classes.AddDoor(ctx, u, in.Body.Name)
	})
	operation(s, remove, "/doors/{id}", "end-door", "Take a reader's key away", func(ctx context.Context, u state.User, in *ByID) (nothing, error) {
		return nothing{}, s.app.Classes.EndDoor(ctx, u, in.ID)
	})
	operation(s, post, "/door/taps", "tap-door", "Somebody held their card to a reader, which shows its key", func(ctx context.Context, _ state.User, in *struct {
		Key  string `header:"X-Door-Key" required:"true" maxLength:"100"`
		Body struct {
			Person string `json:"person" maxLength:"100"`
		}
	}) (classes.Tapped, error) {
		return s.app.Classes.Tap(ctx, in.Key, in.Body.Person)
	})
	operation(s, get, "/sticking", "sticking-points", "The faults counted over some weeks, the surest first, with what answers them", func(ctx context.Context, u state.User, in *classes.StickingFilter) (classes.StickingPage, error) {
		return s.app.Classes.Sticking(ctx, u, *in)
	})
	operation(s, post, "/classes/{id}/tally", "tally-class", "Count a fault of the group, or note a correction for one person", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body classes.AddTally
	}) (nothing, error) {
		return nothing{}, s.app.Classes.Tally(ctx, u, in.ID, in.Body)
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
	operation(s, post, "/checks", "keep-check", "Judge a check and save it", func(ctx context.Context, u state.User, in *body[students.KeepCheck]) (students.Kept, error) {
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
	operation(s, get, "/checks/{id}", "get-made-check", "A check as it was made, to be corrected", func(ctx context.Context, u state.User, in *ByID) (students.MadeCheck, error) {
		return s.app.Students.MadeCheck(ctx, u, in.ID)
	})
	operation(s, post, "/checks/{id}/correct", "correct-check", "Put the right technique, side or observation in a check's place", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body students.CorrectCheck
	}) (students.Kept, error) {
		return s.app.Students.CorrectCheck(ctx, u, in.ID, in.Body)
	})
	operation(s, post, "/checks/{id}/withdraw", "withdraw-check", "Take a check back with a reason", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Reason string `json:"reason" maxLength:"500"`
		}
	}) (students.Kept, error) {
		return s.app.Students.WithdrawCheck(ctx, u, in.ID, in.Body.Reason)
	})
	operation(s, get, "/heat", "heat-map", "Students by requirements", func(ctx context.Context, u state.User, in *struct {
		students.PositionsFilter
		Curriculum string `query:"curriculum"`
	}) (students.HeatMap, error) {
		return s.app.Students.Heat(ctx, u, in.Curriculum, in.PositionsFilter)
	})
	operation(s, get, "/ledger/positions", "ledger-positions", "Students by positions", func(ctx context.Context, u state.User, in *students.PositionsFilter) (students.PositionsPage, error) {
		return s.app.Students.Positions(ctx, u, *in)
	})
	operation(s, get, "/students/{id}/positions/{position}", "student-position", "What a student's next rank asks from a position; movements for what stands in none", func(ctx context.Context, u state.User, in *struct {
		ByID
		Position string `path:"position"`
	}) (students.PositionLeaf, error) {
		return s.app.Students.Position(ctx, u, in.ID, in.Position)
	})
	operation(s, get, "/students/{id}/facts", "student-facts", "Why a student stands where they do with a technique, to the last fact", func(ctx context.Context, u state.User, in *struct {
		ByID
		Technique string       `query:"technique" required:"true"`
		Side      library.Side `query:"side" enum:"left,right"`
	}) (students.FactsPage, error) {
		return s.app.Students.Facts(ctx, u, in.ID, in.Technique, in.Side)
	})
	operation(s, get, "/students/{id}/outlook", "student-outlook", "When a student will likely be ready", func(ctx context.Context, u state.User, in *ByID) (students.OutlookPage, error) {
		return s.app.Students.Outlook(ctx, u, in.ID)
	})
	operation(s, get, "/ledger/outlook", "ledger-outlook", "Who will be ready when", func(ctx context.Context, u state.User, _ *struct{}) (students.OutlookList, error) {
		return s.app.Students.OutlookList(ctx, u)
	})
	operation(s, get, "/ledger/fading", "ledger-fading", "What fades, and how well the curve foretells it", func(ctx context.Context, u state.User, _ *struct{}) (students.FadingPage, error) {
		return s.app.Students.Fading(ctx, u)
	})
	operation(s, post, "/ledger/fading/fit", "use-fit", "Take the fitted curve into the settings", func(ctx context.Context, u state.User, _ *struct{}) (Done, error) {
		change, err := s.app.Students.UseFit(ctx, u)
		return Done{Change: change}, err
	})
	operation(s, get, "/ledger/backtest", "ledger-backtest", "How the ranges of some weeks ago held", func(ctx context.Context, u state.User, in *struct {
		Weeks int `query:"weeks" default:"12" minimum:"4" maximum:"26"`
	}) (students.BacktestPage, error) {
		return s.app.Students.Backtest(ctx, u, in.Weeks)
	})
	operation(s, get, "/ledger/gaps", "ledger-gaps", "People with the same gap, in as few groups as can be", func(ctx context.Context, u state.User, _ *struct{}) (students.GapsPage, error) {
		return s.app.Students.Gaps(ctx, u)
	})
	operation(s, get, "/ledger/stopping", "ledger-stopping", "Who comes less than they did", func(ctx context.Context, u state.User, _ *struct{}) (students.StoppingPage, error) {
		return s.app.Students.Stopping(ctx, u)
	})
	operation(s, get, "/ledger/agreement", "ledger-agreement", "How far coaches agree who checked the same", func(ctx context.Context, u state.User, in *struct {
		Weeks int `query:"weeks" minimum:"1" maximum:"520" default:"52"`
	}) (students.AgreementPage, error) {
		return s.app.Students.Agreement(ctx, u, in.Weeks)
	})
	operation(s, get, "/test-days", "list-test-days", "Days of tests", func(ctx context.Context, u state.User, _ *struct{}) ([]students.TestDayLine, error) {
		return s.app.Students.TestDays(ctx, u)
	})
	operation(s, get, "/test-days/{id}", "get-test-day", "A day of tests with what came of it", func(ctx context.Context, u state.User, in *ByID) (students.TestDayPage, error) {
		return s.app.Students.TestDay(ctx, u, in.ID)
	})
	operation(s, post, "/test-days", "plan-test-day", "Plan a day of tests", func(ctx context.Context, u state.User, in *body[students.TestDayForm]) (Done, error) {
		id, change, err := s.app.Students.PlanTestDay(ctx, u, in.Body)
		return Done{Change: change, ID: id}, err
	})
	operation(s, remove, "/test-days/{id}", "remove-test-day", "Take a day of tests away; its checks stay", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		change, err := s.app.Students.RemoveTestDay(ctx, u, in.ID)
		return Done{Change: change}, err
	})
	operation(s, get, "/students/{id}", "get-student", "One student's ledger", func(ctx context.Context, u state.User, in *ByID) (students.StudentPage, error) {
		return s.app.Students.StudentPage(ctx, u, in.ID)
	})
	operation(s, get, "/me", "my-page", "The signed-in student's own page, or that of a guardian's child", func(ctx context.Context, u state.User, in *struct {
		Of string `query:"of" maxLength:"100" doc:"A guardian's child; one's own when left out, or the first child's"`
	}) (students.StudentPage, error) {
		if in.Of == "" && !u.Is(state.Student) && len(u.Wards) > 0 {
			in.Of = u.Wards[0]
		}
		if in.Of == "" || !u.Sees(in.Of) {
			in.Of = u.Person
		}
		return s.app.Students.StudentPage(ctx, u, in.Of)
	})
}

func (s *Server) academy() {
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
