package api

import (
	"context"
	"encoding/json"

	"github.com/gin-gonic/gin"

	"vereda/app/people"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/exchange"
)

func (s *Server) people() {
	operation(s, get, "/people", "list-people", "Everybody; the archived too to the head instructor", func(ctx context.Context, u state.User, _ *nothing) ([]people.PersonRow, error) {
		return s.app.People.People(ctx, u)
	})
	operation(s, get, "/people/{id}", "get-person", "One person, as far as who asks may see them", func(ctx context.Context, u state.User, in *ByID) (people.PersonPage, error) {
		return s.app.People.Person(ctx, u, in.ID)
	})
	operation(s, post, "/people", "add-person", "Add somebody", func(ctx context.Context, u state.User, in *struct{ Body people.Fields }) (Done, error) {
		id, change, err := s.app.People.Add(ctx, u, in.Body)
		return Done{Change: change, ID: id}, err
	})
	operation(s, put, "/people/{id}", "save-person", "Change what is known of somebody", func(ctx context.Context, u state.User, in *struct {
		ByID
		Version int `query:"version" doc:"The one the form was opened at"`
		Body    people.Fields
	}) (Done, error) {
		change, err := s.app.People.Save(ctx, u, in.ID, in.Body, in.Version)
		return Done{Change: change}, err
	})
	operation(s, post, "/people/archive", "archive-people", "Put people away who do not train here any more, or bring them back", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			IDs      []string `json:"ids" minItems:"1" maxItems:"2000"`
			Archived bool     `json:"archived"`
		}
	}) (Done, error) {
		change, err := s.app.People.Archive(ctx, u, in.Body.IDs, in.Body.Archived)
		return Done{Change: change}, err
	})
	operation(s, post, "/people/{id}/merges", "merge-people", "Make one record of two who are the same person", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Drop string `json:"drop" minLength:"1" maxLength:"100" doc:"Whose record becomes a part of this one"`
		}
	}) (Done, error) {
		change, err := s.app.People.Merge(ctx, u, in.ID, in.Body.Drop)
		return Done{Change: change}, err
	})
	operation(s, post, "/people/{id}/notes", "add-note", "Write a note on somebody", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Text    string `json:"text" minLength:"1" maxLength:"2000"`
			Readers string `json:"readers" enum:"head,coaches,self" doc:"Who reads it: the head instructor alone; coaches; coaches and whom it is of"`
		}
	}) (Done, error) {
		change, err := s.app.People.AddNote(ctx, u, in.ID, in.Body.Text, in.Body.Readers)
		return Done{Change: change}, err
	})
	operation(s, remove, "/people/{id}/notes/{note}", "remove-note", "Delete a note", func(ctx context.Context, u state.User, in *struct {
		ByID
		Note string `path:"note"`
	}) (Done, error) {
		change, err := s.app.People.RemoveNote(ctx, u, in.ID, in.Note)
		return Done{Change: change}, err
	})
	operation(s, post, "/people/{id}/erasure", "erase-person", "Take somebody out for good; what happened stays as counts that point to nobody", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Name string `json:"name" maxLength:"300" doc:"Their name as it stands there: this cannot be undone"`
		}
	}) (nothing, error) {
		return nothing{}, s.app.People.Erase(ctx, u, in.ID, in.Body.Name)
	})
	s.holds()
	s.promotions()
	s.lists()
}

func (s *Server) holds() {
	operation(s, post, "/people/{id}/holds/trial", "try-hold", "What a hold would take somebody out of", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body people.NewHold
	}) (people.HoldEffect, error) {
		return s.app.People.TryHold(ctx, u, in.ID, in.Body)
	})
	operation(s, post, "/people/{id}/holds", "hold-person", "Keep somebody out of something until a clinician clears them", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body people.NewHold
	}) (nothing, error) {
		return nothing{}, s.app.People.Hold(ctx, u, in.ID, in.Body)
	})
	operation(s, post, "/people/{id}/clearances", "clear-hold", "End a hold by a clinician's clearance", func(ctx context.Context, u state.User, in *struct {
		ByID
		Hold string `query:"hold" maxLength:"64" doc:"The event that began it; one of the person's record when left out"`
		Body people.Clearance
	}) (nothing, error) {
		return nothing{}, s.app.People.Clear(ctx, u, in.ID, in.Hold, in.Body)
	})
}

func (s *Server) promotions() {
	operation(s, get, "/promotions/candidates", "list-candidates", "Students with the evidence for their next rank", func(ctx context.Context, u state.User, _ *nothing) ([]people.Candidate, error) {
		return s.app.People.Candidates(ctx, u)
	})
	operation(s, post, "/promotions", "promote", "Save what was decided about some students' ranks", func(ctx context.Context, u state.User, in *struct {
		Body struct {
			On        *calendar.Day         `json:"on,omitempty"`
			Decisions []people.RankDecision `json:"decisions" minItems:"1" maxItems:"500"`
		}
	}) ([]string, error) {
		return s.app.People.Promote(ctx, u, in.Body.On, in.Body.Decisions)
	})
	operation(s, get, "/promotions/{day}", "rank-day", "What was decided about ranks on a day", func(ctx context.Context, u state.User, in *struct {
		Day string `path:"day" format:"date"`
	}) (people.RankDay, error) {
		on, err := calendar.ParseDay(in.Day)
		if err != nil {
			return people.RankDay{}, state.Invalid("day", "%v", err)
		}
		return s.app.People.RankDay(ctx, u, on)
	})
}

// largestRoster bounds a roster or a list of past attendance: some hundred thousand rows.
const largestRoster = 16 << 20

// lists are the roster and past attendance, from a file.
func (s *Server) lists() {
	type roster struct {
		Body struct {
			File      exchange.TextFile       `json:"file"`
			Decisions []people.RosterDecision `json:"decisions,omitempty" maxItems:"5000"`
		}
	}
	operation(s, post, "/people/roster/preview", "preview-roster", "What a roster as CSV would bring, row by row", func(ctx context.Context, u state.User, in *roster) (people.RosterPreview, error) {
		return s.app.People.PreviewRoster(ctx, u, in.Body.File, in.Body.Decisions)
	}, upTo(largestRoster))
	operation(s, post, "/people/roster", "take-roster", "Import a roster: all of it or nothing", func(ctx context.Context, u state.User, in *roster) (Done, error) {
		change, err := s.app.People.TakeRoster(ctx, u, in.Body.File, in.Body.Decisions)
		return Done{Change: change}, err
	}, upTo(largestRoster))
	operation(s, post, "/people/checks/preview", "preview-checks", "What a list of past checks as CSV would bring", func(ctx context.Context, u state.User, in *struct{ Body exchange.TextFile }) (people.AttendancePreview, error) {
		return s.app.People.PreviewChecks(ctx, u, in.Body)
	}, upTo(largestRoster))
	operation(s, post, "/people/checks", "take-checks", "Import a list of past checks: all of it or nothing", func(ctx context.Context, u state.User, in *struct{ Body exchange.TextFile }) (int, error) {
		return s.app.People.TakeChecks(ctx, u, in.Body)
	}, upTo(largestRoster))
	operation(s, post, "/people/attendance/preview", "preview-attendance", "What a list of past attendance as CSV would bring", func(ctx context.Context, u state.User, in *struct{ Body exchange.TextFile }) (people.AttendancePreview, error) {
		return s.app.People.PreviewAttendance(ctx, u, in.Body)
	}, upTo(largestRoster))
	operation(s, post, "/people/attendance", "take-attendance", "Import a list of past attendance: all of it or nothing", func(ctx context.Context, u state.User, in *struct{ Body exchange.TextFile }) (int, error) {
		return s.app.People.TakeAttendance(ctx, u, in.Body)
	}, upTo(largestRoster))
}

func (s *Server) roster(c *gin.Context, u state.User) error {
	text, err := s.app.People.Roster(c.Request.Context(), u)
	return send(c, "roster.csv", "text/csv; charset=utf-8", text, err)
}

func (s *Server) personData(c *gin.Context, u state.User) error {
	d, err := s.app.People.Data(c.Request.Context(), u, c.Param("id"))
	if err != nil {
		return err
	}
	text, err := json.MarshalIndent(d, "", "  ")
	return send(c, c.Param("id")+".json", "application/json", text, err)
}

func (s *Server) certificates(c *gin.Context, u state.User) error {
	on, err := calendar.ParseDay(c.Param("day"))
	if err != nil {
		return state.Invalid("day", "%v", err)
	}
	all, err := s.app.People.Certificates(c.Request.Context(), u, on)
	if err != nil {
		return err
	}
	text, err := exchange.WriteCertificates(all)
	return send(c, "certificates-"+on.String()+".pdf", "application/pdf", text, err)
}

func (s *Server) brief(c *gin.Context, u state.User) error {
	b, err := s.app.Classes.Brief(c.Request.Context(), u, c.Param("id"), languageOf(c.Request.Context()))
	if err != nil {
		return err
	}
	text, err := exchange.WriteBrief(b)
	return send(c, "brief-"+b.On.String()+".pdf", "application/pdf", text, err)
}

func (s *Server) briefHTML(c *gin.Context, u state.User) error {
	b, err := s.app.Classes.Brief(c.Request.Context(), u, c.Param("id"), languageOf(c.Request.Context()))
	if err != nil {
		return err
	}
	text, err := exchange.WriteBriefsHTML([]exchange.Brief{b})
	return send(c, "brief-"+b.On.String()+".html", "text/html; charset=utf-8", text, err)
}

func (s *Server) attendanceList(c *gin.Context, u state.User) error {
	text, err := s.app.People.AttendanceCSV(c.Request.Context(), u)
	return send(c, "attendance.csv", "text/csv; charset=utf-8", text, err)
}

func (s *Server) checkList(c *gin.Context, u state.User) error {
	text, err := s.app.People.ChecksCSV(c.Request.Context(), u)
	return send(c, "checks.csv", "text/csv; charset=utf-8", text, err)
}
