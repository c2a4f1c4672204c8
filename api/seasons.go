package api

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/season/repair"
	"vereda/exchange"
)

type (
	SpotIn struct {
		ByID
		Week  int    `path:"week" minimum:"1" maximum:"60"`
		Class string `path:"class"`
	}
	happened struct {
		ByID
		Body seasons.Happening
	}
	moveIn struct {
		ByID
		Body repair.Move
	}
	helpIn struct {
		ByID
		Student string `query:"student"`
		Unit    string `query:"unit" doc:"Instead of a student"`
	}
)

func (s *Server) seasons() {
	operation(s, get, "/seasons", "list-seasons", "All seasons", func(ctx context.Context, u state.User, _ *nothing) ([]seasons.SeasonLine, error) {
		return s.app.Seasons.Seasons(ctx, u)
	})
	operation(s, post, "/seasons", "lay-season", "Create a season over the timetable", func(ctx context.Context, u state.User, in *body[seasons.NewSeason]) (Done, error) {
		id, err := s.app.Seasons.LaySeason(ctx, u, in.Body)
		return Done{ID: id}, err
	})
	operation(s, get, "/seasons/{id}", "get-season", "A season as weeks by classes", func(ctx context.Context, u state.User, in *ByID) (seasons.SeasonPage, error) {
		return s.app.Seasons.Season(ctx, u, in.ID)
	})
	operation(s, put, "/seasons/{id}/closures", "set-closures", "Say when a season is closed", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Closures []academy.Closure `json:"closures" maxItems:"400"`
			Was      []academy.Closure `json:"was" maxItems:"400" doc:"What they were when the form was opened"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.SetClosures(ctx, u, in.ID, in.Body.Closures, in.Body.Was)
		return Done{Change: id}, err
	})
	operation(s, put, "/seasons/{id}/dates", "set-dates", "Set what a season works toward, or around", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Dates []academy.SeasonDate `json:"dates" maxItems:"60"`
			Was   []academy.SeasonDate `json:"was" maxItems:"60" doc:"What they were when the form was opened"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.SetDates(ctx, u, in.ID, in.Body.Dates, in.Body.Was)
		return Done{Change: id}, err
	})
	operation(s, get, "/seasons/{id}/weeks/{week}/classes/{class}", "explain-placement", "Why a class teaches what it does", func(ctx context.Context, u state.User, in *SpotIn) (seasons.WhyPage, error) {
		return s.app.Seasons.Why(ctx, u, in.ID, in.Week, in.Class)
	})
	s.planning()
	s.byHand()
	s.repairs()
	s.publishing()
	s.timetable()
}

func (s *Server) planning() {
	operation(s, post, "/seasons/{id}/plan", "plan-season", "Compute the plan and save it", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Seasons.PlanSeason(ctx, u, in.ID, 0)
		return Done{Change: id}, err
	})
	operation(s, post, "/seasons/{id}/planning", "start-planning", "Begin to plan a season; it goes on by itself", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Seconds float64 `json:"seconds" minimum:"0" maximum:"60" doc:"How long to look for better plans; 0 for as long as usual"`
		}
	}) (nothing, error) {
		return nothing{}, s.app.Seasons.StartPlanning(ctx, u, in.ID, in.Body.Seconds)
	})
	operation(s, get, "/seasons/{id}/planning", "get-planning", "Where the planning of a season stands", func(ctx context.Context, u state.User, in *ByID) (seasons.PlanningState, error) {
		return s.app.Seasons.Planning(ctx, u, in.ID)
	})
	operation(s, remove, "/seasons/{id}/planning", "stop-planning", "End the planning with the best so far", func(ctx context.Context, u state.User, in *ByID) (nothing, error) {
		return nothing{}, s.app.Seasons.StopPlanning(ctx, u, in.ID)
	})
	operation(s, post, "/seasons/{id}/rules/costs", "cost-of-rules", "What each rule of the tracks costs in coverage", func(ctx context.Context, u state.User, in *ByID) (seasons.RuleCosts, error) {
		return s.app.Seasons.CostOfRules(ctx, u, in.ID)
	})
	operation(s, get, "/seasons/{id}/story", "season-story", "The plan told track by track and week by week", func(ctx context.Context, u state.User, in *ByID) (seasons.SeasonStory, error) {
		return s.app.Seasons.Story(ctx, u, in.ID)
	})
	operation(s, post, "/seasons/{id}/ways", "compare-ways", "What block and spiral, same and split would lead to", func(ctx context.Context, u state.User, in *struct {
		ByID
		Only int `query:"only" minimum:"0" maximum:"4" doc:"One of the four, so that they can be shown as they come; all when left out"`
	}) ([]seasons.Way, error) {
		return s.app.Seasons.CompareWays(ctx, u, in.ID, in.Only)
	})
	operation(s, put, "/seasons/{id}/ways", "take-way", "Plan every track one way", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			School string `json:"school" enum:"block,spiral,free"`
			Mode   string `json:"mode" enum:"same,split"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.TakeWay(ctx, u, in.ID, in.Body.School, in.Body.Mode)
		return Done{Change: id}, err
	})
	operation(s, get, "/seasons/{id}/chances", "list-chances", "Who comes to what, estimated and as set", func(ctx context.Context, u state.User, in *ByID) (seasons.ChancesPage, error) {
		return s.app.Seasons.Chances(ctx, u, in.ID)
	})
	operation(s, put, "/seasons/{id}/chances", "set-chance", "Set a student's chance of being in a class, or go back to the estimate", func(ctx context.Context, u state.User, in *struct {
		ByID
		Body struct {
			Student string   `json:"student"`
			Class   string   `json:"class"`
			Chance  *float64 `json:"chance,omitempty" minimum:"0" maximum:"1" doc:"Left out: the estimate"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.SetChance(ctx, u, in.ID, in.Body.Student, in.Body.Class, in.Body.Chance)
		return Done{Change: id}, err
	})
}

func (s *Server) byHand() {
	operation(s, post, "/seasons/{id}/moves/trial", "try-move", "What a move by hand would lead to", func(ctx context.Context, u state.User, in *moveIn) (seasons.Trial, error) {
		return s.app.Seasons.TryMove(ctx, u, in.ID, in.Body)
	})
	operation(s, post, "/seasons/{id}/moves", "make-move", "Move a unit, or a lead, by hand", func(ctx context.Context, u state.User, in *moveIn) (Done, error) {
		id, err := s.app.Seasons.MakeMove(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	})
	operation(s, put, "/seasons/{id}/weeks/{week}/classes/{class}/pin", "pin-class", "Pin a class so that it stays when the season is planned again, or unpin it", func(ctx context.Context, u state.User, in *struct {
		SpotIn
		Body struct {
			Pinned bool `json:"pinned"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.Pin(ctx, u, in.ID, repair.Spot{Week: in.Week, Class: in.Class}, in.Body.Pinned)
		return Done{Change: id}, err
	})
	operation(s, get, "/seasons/{id}/misses", "who-misses-what", "Students by units with the chance covered", func(ctx context.Context, u state.User, in *ByID) (seasons.MissesPage, error) {
		return s.app.Seasons.Misses(ctx, u, in.ID)
	})
	operation(s, get, "/seasons/{id}/coverage", "season-coverage", "The coverage over a season: forecast at publication, what happened, forecast from here", func(ctx context.Context, u state.User, in *ByID) (seasons.CoverageLinePage, error) {
		return s.app.Seasons.CoverageLine(ctx, u, in.ID)
	})
	operation(s, get, "/seasons/{id}/taught", "season-taught", "The plan against what was taught, week by week", func(ctx context.Context, u state.User, in *ByID) (seasons.TaughtPage, error) {
		return s.app.Seasons.Taught(ctx, u, in.ID)
	})
	operation(s, get, "/year", "see-year", "The last four seasons against what is required: what nobody sees for a year", func(ctx context.Context, u state.User, _ *nothing) (seasons.YearPage, error) {
		return s.app.Seasons.Year(ctx, u)
	})
	operation(s, get, "/seasons/{id}/help", "find-help", "The one change that would help a student or a unit most", func(ctx context.Context, u state.User, in *helpIn) (seasons.HelpLine, error) {
		return s.app.Seasons.Help(ctx, u, in.ID, in.Student, in.Unit)
	})
	operation(s, post, "/seasons/{id}/help", "take-help", "Make that change", func(ctx context.Context, u state.User, in *helpIn) (Done, error) {
		id, err := s.app.Seasons.TakeHelp(ctx, u, in.ID, in.Student, in.Unit)
		return Done{Change: id}, err
	})
}

func (s *Server) repairs() {
	operation(s, post, "/seasons/{id}/repairs/proposals", "propose-repair", "What repairing the plan after something happened would change", func(ctx context.Context, u state.User, in *happened) (seasons.Proposal, error) {
		return s.app.Seasons.ProposeRepair(ctx, u, in.ID, in.Body)
	})
	operation(s, post, "/seasons/{id}/repairs", "take-repair", "Save what happened and the repaired plan", func(ctx context.Context, u state.User, in *happened) (Done, error) {
		id, err := s.app.Seasons.TakeSeasonRepair(ctx, u, in.ID, in.Body)
		return Done{Change: id}, err
	})
}

func (s *Server) publishing() {
	operation(s, get, "/seasons/{id}/publishing", "preview-publishing", "What publishing a season would tell whom", func(ctx context.Context, u state.User, in *ByID) (seasons.PublishPage, error) {
		return s.app.Seasons.PublishView(ctx, u, in.ID)
	})
	operation(s, post, "/seasons/{id}/publishing", "publish-season", "Give the plan to the coaches", func(ctx context.Context, u state.User, in *struct {
		ByID
		Version int `query:"version" required:"true" minimum:"1" doc:"The season's as it was previewed"`
	}) (seasons.PublishedNow, error) {
		return s.app.Seasons.PublishSeason(ctx, u, in.ID, in.Version)
	})
	type feed struct {
		Scope  string `query:"scope" enum:"all,coach,track" required:"true"`
		Target string `query:"target"`
	}
	operation(s, post, "/feeds", "make-feed", "A private address for a calendar; the one before it ends", func(ctx context.Context, u state.User, in *feed) (struct {
		Path string `json:"path"`
	}, error) {
		path, err := s.app.Seasons.MakeFeed(ctx, u, in.Scope, in.Target)
		return struct {
			Path string `json:"path"`
		}{path}, err
	})
	operation(s, remove, "/feeds", "revoke-feed", "End a calendar's private address", func(ctx context.Context, u state.User, in *feed) (nothing, error) {
		return nothing{}, s.app.Seasons.RevokeFeed(ctx, u, in.Scope, in.Target)
	})
	operation(s, get, "/letters", "list-letters", "Letters to coaches, and whether the mail server took them", func(ctx context.Context, u state.User, _ *nothing) ([]seasons.LetterLine, error) {
		return s.app.Seasons.Letters(ctx, u)
	})
}

func (s *Server) timetable() {
	operation(s, get, "/timetable", "get-timetable", "Tracks, weekly classes and coaches", func(ctx context.Context, u state.User, _ *nothing) (seasons.TimetablePage, error) {
		return s.app.Seasons.Timetable(ctx, u)
	})
	operation(s, put, "/timetable/tracks", "save-track", "Save a track; without an identifier a new one", func(ctx context.Context, u state.User, in *struct {
		At
		Body academy.Track
	}) (Done, error) {
		id, change, err := s.app.Seasons.SaveTrack(ctx, u, in.Body, in.Version)
		return Done{Change: change, ID: id}, err
	})
	operation(s, put, "/timetable/classes", "save-class", "Save a weekly class; without an identifier a new one", func(ctx context.Context, u state.User, in *struct {
		At
		Since string `query:"since" doc:"First day of other hours, such as 2026-11-24: the days before keep those they had. Today when left out; always: it was never otherwise"`
		Body  academy.Class
	}) (Done, error) {
		id, change, err := s.app.Seasons.SaveClass(ctx, u, in.Body, in.Version, in.Since)
		return Done{Change: change, ID: id}, err
	})
	operation(s, remove, "/timetable/classes/{id}", "remove-class", "Take a weekly class out of the timetable", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Seasons.RemoveClass(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	operation(s, put, "/timetable/coaches/{id}", "save-coach", "Save a coach's terms", func(ctx context.Context, u state.User, in *struct {
		ByID
		At
		Body struct {
			Email string        `json:"email,omitempty" maxLength:"200"`
			Terms academy.Terms `json:"terms"`
		}
	}) (Done, error) {
		id, err := s.app.Seasons.SaveCoach(ctx, u, in.ID, in.Body.Email, in.Body.Terms, in.Version)
		return Done{Change: id}, err
	})
	operation(s, remove, "/timetable/coaches/{id}", "remove-coach", "End somebody's coaching", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Seasons.RemoveCoach(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	operation(s, get, "/units", "list-units", "What seasons are planned with, and whether the minutes will do", func(ctx context.Context, u state.User, in *struct {
		Season string `query:"season" doc:"Whose minutes are counted; the latest when left out"`
	}) (seasons.UnitsPage, error) {
		return s.app.Seasons.Units(ctx, u, in.Season)
	})
	operation(s, put, "/units", "save-unit", "Save a unit; without an identifier a new one", func(ctx context.Context, u state.User, in *struct {
		At
		Body academy.Unit
	}) (Done, error) {
		id, change, err := s.app.Seasons.SaveUnit(ctx, u, in.Body, in.Version)
		return Done{Change: change, ID: id}, err
	})
	operation(s, remove, "/units/{id}", "remove-unit", "Take a unit away", func(ctx context.Context, u state.User, in *ByID) (Done, error) {
		id, err := s.app.Seasons.RemoveUnit(ctx, u, in.ID)
		return Done{Change: id}, err
	})
	type file struct {
		Track string `query:"track" doc:"For classes whose track is not named"`
		Body  exchange.TextFile
	}
	operation(s, post, "/timetable/import/preview", "preview-timetable", "What a timetable as CSV or iCalendar would bring, row by row", func(ctx context.Context, u state.User, in *file) (seasons.TimetablePreview, error) {
		return s.app.Seasons.PreviewTimetable(ctx, u, in.Body, in.Track)
	}, upTo(largestList))
	operation(s, post, "/timetable/import", "take-timetable", "Bring a timetable in: all of it or nothing", func(ctx context.Context, u state.User, in *file) (Done, error) {
		id, err := s.app.Seasons.TakeTimetable(ctx, u, in.Body, in.Track)
		return Done{Change: id}, err
	}, upTo(largestList))
}

// serveCalendars answers private addresses: whoever has one reads that
// calendar, without signing in.
func (s *Server) serveCalendars(router gin.IRoutes) {
	router.GET("/calendar/:file", func(c *gin.Context) {
		token, ok := strings.CutSuffix(c.Param("file"), ".ics")
		if !ok || len(token) != 43 {
			c.String(http.StatusNotFound, "There is no calendar of that address.\n")
			return
		}
		text, err := s.app.Seasons.Calendar(c.Request.Context(), token)
		var missing *state.NotFoundError
		if err != nil && !errors.As(err, &missing) {
			slog.Error("a calendar could not be read", "error", err)
			c.Header("Retry-After", "60")
			c.String(http.StatusServiceUnavailable, "The calendar cannot be read now. Try again in a minute.\n")
			return
		}
		if err != nil {
			c.String(http.StatusNotFound, "There is no calendar of that address. It may have been revoked; ask for a new one.\n")
			return
		}
		c.Header("Cache-Control", "private, no-cache")
		c.Data(http.StatusOK, "text/calendar; charset=utf-8", text)
	})
}
