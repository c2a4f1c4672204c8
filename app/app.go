// Package app puts the use cases together: a room for each area of the job, all on
// one ground and none on another.
package app

import (
	"time"

	"vereda/app/academies"
	"vereda/app/accounts"
	"vereda/app/classes"
	"vereda/app/curricula"
	"vereda/app/library"
	"vereda/app/people"
	"vereda/app/seasons"
	"vereda/app/state"
	"vereda/app/students"
	"vereda/store"
	"vereda/store/files"
)

// App is safe for concurrent use, and one of several on the same database.
type App struct {
	State     *state.State
	Library   *library.Service
	Curricula *curricula.Service
	Seasons   *seasons.Service
	Classes   *classes.Service
	Students  *students.Service
	People    *people.Service
	Accounts  *accounts.Service
	Academies *academies.Service
}

// New makes an App. now is its clock; zone is where an academy is that names none of its own; kept
// holds attached files.
func New(s *store.Store, now func() time.Time, zone *time.Location, kept *files.Files) *App {
	st := state.New(s, now, zone, kept)
	return &App{st, library.New(st), curricula.New(st), seasons.New(st, classes.Briefs), classes.New(st), students.New(st), people.New(st), accounts.New(st), academies.New(st)}
}
