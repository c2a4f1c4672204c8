package api

import (
	"context"

	"vereda/app/curricula"
	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/exchange"
)

func (s *Server) curricula() {
	operation(s, get, "/curricula", "list-curricula", "All curricula", func(ctx context.Context, u state.User, _ *nothing) ([]state.CurriculumLine, error) {
		return s.app.Curricula.Curricula(ctx, u)
	})
	operation(s, post, "/curricula", "begin-curriculum", "Begin a curriculum for a rank, or a new version of one", func(ctx context.Context, u state.User, in *body[curricula.NewCurriculum]) (Saved, error) {
		id, change, err := s.app.Curricula.BeginCurriculum(ctx, u, in.Body)
		return Saved{id, change}, err
	})
	operation(s, get, "/curricula/{id}", "get-curriculum", "A curriculum with its audit", func(ctx context.Context, u state.User, in *ByID) (curricula.CurriculumPage, error) {
		return s.app.Curricula.Curriculum(ctx, u, in.ID)
	})
	operation(s, put, "/curricula/{id}/requirements/{technique}", "set-requirement", "Require a technique, or change how", func(ctx context.Context, u state.User, in *struct {
		ByID
		Technique string `path:"technique"`
		Body      struct {
			Rung      curriculum.Rung `json:"rung"`
			BothSides bool            `json:"both_sides"`
			Weight    float64         `json:"weight"`
			Or        []string        `json:"or,omitempty"`
			N         int             `json:"n,omitempty"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.SetRequirement(ctx, u, in.ID, curriculum.Requirement{Technique: in.Technique, Rung: in.Body.Rung, BothSides: in.Body.BothSides, Weight: in.Body.Weight, Or: in.Body.Or, N: in.Body.N})
		return Done{Change: id}, err
	})
	operation(s, put, "/curricula/{id}/requirements/{technique}/place", "move-requirement", "Put a requirement at another place in the order", func(ctx context.Context, u state.User, in *struct {
		ByID
		Technique string `path:"technique"`
		Body      struct {
			To int `json:"to" minimum:"0" maximum:"2000"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.MoveRequirement(ctx, u, in.ID, in.Technique, in.Body.To)
		return Done{Change: id}, err
	})
	operation(s, remove, "/curricula/{id}/requirements/{technique}", "remove-requirement", "Take a technique out", func(ctx context.Context, u state.User, in *struct {
		ByID
		Technique string `path:"technique"`
	}) (Done, error) {
		id, err := s.app.Curricula.RemoveRequirement(ctx, u, in.ID, in.Technique)
		return Done{Change: id}, err
	})
	operation(s, post, "/curricula/{id}/order", "take-order", "Put the requirements into the proposed order", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Curricula.TakeOrder(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	operation(s, post, "/curricula/{id}/units", "make-units", "Make units of what no unit teaches yet", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Tracks []string `json:"tracks"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.MakeUnits(ctx, u, in.ID, in.Body.Tracks)
		return Done{Change: id}, err
	})
	operation(s, post, "/curricula/{id}/repairs", "take-audit-repair", "Take the repair a finding proposes", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Finding string `json:"finding"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.TakeRepair(ctx, u, in.ID, in.Body.Finding)
		return Done{Change: id}, err
	})
	operation(s, put, "/curricula/{id}/accepted", "accept-finding", "Accept a finding with a reason; an empty reason takes it back", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Finding string `json:"finding" maxLength:"300"`
			Reason  string `json:"reason" maxLength:"500"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.AcceptFinding(ctx, u, in.ID, in.Body.Finding, in.Body.Reason)
		return Done{Change: id}, err
	})
	operation(s, get, "/curricula/{id}/sheet", "get-sheet", "What a rank asks for, to be printed", func(ctx context.Context, u state.User, in *struct {
		ByID
		Test bool `query:"test" doc:"A test sheet instead of a booklet"`
	}) (exchange.RankSheet, error) {
		return s.app.Curricula.RankSheet(ctx, u, in.ID, in.Test)
	})
	operation(s, post, "/curricula/{id}/list/preview", "preview-list", "What a list of requirements would do, row by row", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body exchange.TextFile
	}) (curricula.CSVPreview, error) {
		return s.app.Curricula.PreviewRequirements(ctx, u, in.ID, in.Body)
	}, upTo(largestList))
	operation(s, post, "/curricula/{id}/list", "take-list", "Make a list the requirements: all of it or nothing", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body exchange.TextFile
	}) (Done, error) {
		id, err := s.app.Curricula.TakeRequirements(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	}, upTo(largestList))
	s.versions()
}

func (s *Server) versions() {
	operation(s, get, "/curricula/{id}/version", "compare-version", "What a version would mean to whom", func(ctx context.Context, u state.User, in *ByID) (curricula.VersionPage, error) {
		return s.app.Curricula.Version(ctx, u, in.ID)
	})
	operation(s, put, "/curricula/{id}/state", "publish-curriculum", "Publish a curriculum, or take it back", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Published bool `json:"published"`
		}
	}) (Done, error) {
		id, err := s.app.Curricula.Publish(ctx, u, in.ID, in.Body.Published)
		return Done{Change: id}, err
	})
	operation(s, post, "/curricula/{id}/students", "move-students", "Move students to this version; an event in the ledger", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Students []string `json:"students"`
		}
	}) (nothing, error) {
		return nothing{}, s.app.Curricula.MoveStudents(ctx, u, in.ID, in.Body.Students)
	})
	operation(s, get, "/ladders", "list-ladders", "The ladders with their ranks", func(ctx context.Context, u state.User, _ *nothing) ([]curricula.LadderLine, error) {
		return s.app.Curricula.Ladders(ctx, u)
	})
	operation(s, put, "/ladders", "save-ladder", "Save a ladder", func(ctx context.Context, u state.User, in *struct {
		At
		Body curriculum.Ladder
	}) (Saved, error) {
		id, change, err := s.app.Curricula.SaveLadder(ctx, u, in.Body, in.Version)
		return Saved{id, change}, err
	})
	operation(s, post, "/students/{id}/onward", "move-on", "Move a student on to the ladder that the rule of theirs says", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Curricula.MoveOn(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	operation(s, get, "/ladders/{id}/bridges", "list-bridges", "What those who move on to another ladder catch up", func(ctx context.Context, u state.User, in *ByID) ([]curricula.BridgePage, error) {
		return s.app.Curricula.Bridges(ctx, u, in.ID)
	})
	operation(s, get, "/ladders/{id}", "get-ladder", "Which technique enters where and rises to which rung", func(ctx context.Context, u state.User, in *ByID) (curricula.LadderPage, error) {
		return s.app.Curricula.LadderAtAGlance(ctx, u, in.ID)
	})
}
