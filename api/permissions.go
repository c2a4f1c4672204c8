package api

import "vereda/app/state"

// everyone is each role there is.
var everyone = []state.Role{state.Head, state.Coach, state.Desk, state.Student}

var (
	head   = []state.Role{state.Head}
	staff  = []state.Role{state.Head, state.Coach, state.Desk}
	teach  = []state.Role{state.Head, state.Coach}
	anyone []state.Role // also without signing in
)

// permissions says who may do what. An operation that is not in it does not
// start. It is enforced in one place, operation; what one person may see of
// another beyond it is decided in app.
var permissions = map[string][]state.Role{
	"sign-in":  anyone,
	"sign-out": everyone,
	"who-am-i": everyone,
	"my-page":  {state.Student},

	"week":               everyone,
	"list-techniques":    everyone,
	"get-technique":      everyone,
	"add-technique":      head,
	"save-technique":     head,
	"save-key-point":     head,
	"list-duplicates":    head,
	"merge-techniques":   head,
	"library-words":      everyone,
	"list-positions":     everyone,
	"save-position":      head,
	"list-variant-sets":  everyone,
	"save-variant-set":   head,
	"list-fork-tables":   everyone,
	"get-fork-table":     everyone,
	"save-fork-table":    head,
	"judge-fork-table":   teach,
	"quiz":               everyone,
	"answer-quiz":        everyone,
	"reaction-round":     teach,
	"get-map":            everyone,
	"find-chain":         everyone,
	"export-map-dot":     teach,
	"export-map-graphml": teach,
	"delete-record":      head,
	"record-history":     teach,
	"record-state":       teach,
	"restore-record":     head,
	"preview-import":     head,
	"take-import":        head,
	"export-folder":      teach,
	"attach-file":        head,
	"get-file":           everyone,
	"list-curricula":     everyone,
	"get-curriculum":     everyone,
	"begin-curriculum":   head,
	"set-requirement":    head,
	"move-requirement":   head,
	"take-order":         head,
	"make-units":         head,
	"accept-finding":     head,
	"compare-version":    head,
	"get-sheet":          everyone,
	"export-booklet":     everyone,
	"export-test-sheet":  teach,
	"export-list":        teach,
	"preview-list":       head,
	"take-list":          head,
	"move-students":      head,
	"list-ladders":       everyone,
	"save-ladder":        head,
	"set-required-cells": head,
	"move-on":            head,
	"get-ladder":         everyone,
	"remove-requirement": head,
	"take-audit-repair":  head,
	"publish-curriculum": head,
	"list-seasons":       staff,
	"lay-season":         head,
	"get-season":         teach,
	"plan-season":        head,
	"set-closures":       head,
	"start-planning":     head,
	"get-planning":       teach,
	"stop-planning":      head,
	"compare-ways":       head,
	"take-way":           head,
	"list-chances":       head,
	"set-chance":         head,
	"try-move":           head,
	"make-move":          head,
	"pin-class":          head,
	"who-misses-what":    teach,
	"find-help":          head,
	"take-help":          head,
	"preview-publishing": head,
	"publish-season":     head,
	"make-feed":          head,
	"revoke-feed":        head,
	"list-letters":       head,
	"get-timetable":      head,
	"save-track":         head,
	"save-class":         head,
	"remove-class":       head,
	"save-coach":         head,
	"remove-coach":       head,
	"list-units":         head,
	"save-unit":          head,
	"remove-unit":        head,
	"preview-timetable":  head,
	"take-timetable":     head,
	"explain-placement":  teach,
	"propose-repair":     head,
	"take-repair":        head,
	"get-class":          staff,
	"choose-class":       teach,
	"check-in":           staff,
	"check-out":          staff,
	"pair-class":         teach,
	"get-clock":          teach,
	"record-class":       teach,
	"get-check":          teach,
	"keep-check":         teach,
	"overrule-check":     teach,
	"heat-map":           teach,
	"get-student":        {state.Head, state.Coach, state.Student},
	"list-people":        staff,
	"get-academy":        teach,
	"export-academy":     head,
	"check-log":          head,
	"mend-broken":        head,
	"delete-broken":      head,
	"list-changes":       teach,
	"undo-change":        teach,
}

// Area is a part of the interface, in the order of the work.
type Area struct {
	Name string `json:"name"`
	To   string `json:"to" doc:"Its address in the interface"`
}

// areas lists the parts of the interface with the operation each is made of, and who it is not for although
// they may ask for that.
var areas = []struct {
	Area
	needs string
	not   state.Role
}{
	{Area{"Library", "/library"}, "list-techniques", ""},
	{Area{"Curricula", "/curricula"}, "list-curricula", ""},
	{Area{"Season", "/season"}, "list-seasons", state.Desk},
	{Area{"Mat", "/mat"}, "get-class", ""},
	{Area{"Ledger", "/ledger"}, "heat-map", ""},
	{Area{"People", "/people"}, "list-people", ""},
	{Area{"Academy", "/academy"}, "get-academy", ""},
}

// opensOn is the page each role begins on.
var opensOn = map[state.Role]string{state.Head: "/library", state.Coach: "/mat", state.Desk: "/mat", state.Student: "/me"}

func may(role state.Role, operation string) bool {
	for _, r := range permissions[operation] {
		if r == role {
			return true
		}
	}
	return false
}
