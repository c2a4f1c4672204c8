package api

import (
	"slices"

	"vereda/app/state"
)

// everyone is each role there is.
var everyone = state.Roles

var (
	head   = []state.Role{state.Head}
	staff  = []state.Role{state.Head, state.Coach, state.Assistant, state.Desk}
	teach  = []state.Role{state.Head, state.Coach}
	lead   = []state.Role{state.Head, state.Coach, state.Assistant} // on the mat with a class
	anyone []state.Role                                             // also without signing in
)

// beforeFactor are the operations open to a head instructor whose academy wants a second factor that they have not set up.
var beforeFactor = map[string]bool{"who-am-i": true, "sign-out": true, "get-account": true, "change-password": true, "end-sessions": true, "begin-second-factor": true, "confirm-second-factor": true}

// permissions says who may do what. An operation that is not in it does not
// start. It is enforced in one place, operation; what one person may see of
// another beyond it is decided in app.
var permissions = map[string][]state.Role{
	"sign-in":               anyone,
	"sign-out":              everyone,
	"who-am-i":              everyone,
	"open-link":             anyone,
	"use-link":              anyone,
	"set-up":                anyone,
	"forgotten-password":    anyone,
	"get-account":           everyone,
	"change-password":       everyone,
	"end-sessions":          everyone,
	"begin-second-factor":   everyone,
	"confirm-second-factor": everyone,
	"remove-second-factor":  everyone,
	"list-accounts":         head,
	"list-roles":            head,
	"invite":                head,
	"invite-again":          head,
	"change-account":        head,
	"sign-out-everywhere":   head,
	"reset-second-factor":   head,
	"access-log":            head,

	"my-page": {state.Student, state.Guardian},

	"week":                       everyone,
	"list-techniques":            everyone,
	"get-technique":              everyone,
	"add-technique":              head,
	"save-technique":             head,
	"save-key-point":             head,
	"list-duplicates":            head,
	"merge-techniques":           head,
	"library-words":              everyone,
	"list-positions":             everyone,
	"save-position":              head,
	"list-variant-sets":          everyone,
	"save-variant-set":           head,
	"list-fork-tables":           everyone,
	"get-fork-table":             everyone,
	"save-fork-table":            head,
	"judge-fork-table":           lead,
	"review-library":             teach,
	"review-technique":           lead,
	"draw-technique":             lead,
	"quiz":                       everyone,
	"answer-quiz":                everyone,
	"reaction-round":             lead,
	"get-map":                    everyone,
	"find-chain":                 everyone,
	"export-map-dot":             teach,
	"export-map-graphml":         teach,
	"delete-record":              head,
	"record-history":             teach,
	"record-state":               teach,
	"restore-record":             head,
	"preview-import":             head,
	"take-import":                head,
	"export-folder":              teach,
	"attach-file":                head,
	"get-file":                   everyone,
	"list-curricula":             everyone,
	"get-curriculum":             everyone,
	"begin-curriculum":           head,
	"set-requirement":            head,
	"move-requirement":           head,
	"take-order":                 head,
	"make-units":                 head,
	"accept-finding":             head,
	"compare-version":            head,
	"get-sheet":                  everyone,
	"export-booklet":             everyone,
	"export-test-sheet":          teach,
	"export-list":                teach,
	"preview-list":               head,
	"take-list":                  head,
	"move-students":              head,
	"list-ladders":               everyone,
	"today":                      staff,
	"find":                       staff,
	"list-bridges":               teach,
	"save-ladder":                head,
	"set-required-cells":         head,
	"move-on":                    head,
	"get-ladder":                 everyone,
	"remove-requirement":         head,
	"take-audit-repair":          head,
	"publish-curriculum":         head,
	"list-seasons":               staff,
	"lay-season":                 head,
	"get-season":                 teach,
	"plan-season":                head,
	"set-closures":               head,
	"set-dates":                  head,
	"start-planning":             head,
	"get-planning":               teach,
	"stop-planning":              head,
	"compare-ways":               head,
	"cost-of-rules":              head,
	"season-story":               teach,
	"take-way":                   head,
	"list-chances":               head,
	"set-chance":                 head,
	"try-move":                   head,
	"make-move":                  head,
	"pin-class":                  head,
	"who-misses-what":            teach,
	"season-taught":              teach,
	"season-coverage":            teach,
	"see-year":                   teach,
	"find-help":                  head,
	"take-help":                  head,
	"preview-publishing":         head,
	"publish-season":             head,
	"make-feed":                  head,
	"revoke-feed":                head,
	"list-letters":               head,
	"get-timetable":              head,
	"save-track":                 head,
	"save-class":                 head,
	"remove-class":               head,
	"save-coach":                 head,
	"remove-coach":               head,
	"list-units":                 head,
	"save-unit":                  head,
	"remove-unit":                head,
	"preview-timetable":          head,
	"take-timetable":             head,
	"explain-placement":          teach,
	"propose-repair":             head,
	"take-repair":                head,
	"get-class":                  staff,
	"choose-class":               lead,
	"check-in":                   staff,
	"check-out":                  staff,
	"add-guest":                  staff,
	"add-unit-to-class":          lead,
	"note-incident":              lead,
	"export-brief":               lead,
	"export-brief-html":          lead,
	"sticking-points":            teach,
	"plan-stations":              lead,
	"add-makeup":                 lead,
	"clear-stations":             lead,
	"list-doors":                 head,
	"add-door":                   head,
	"end-door":                   head,
	"tap-door":                   anyone,
	"pair-class":                 lead,
	"turn-clock":                 lead,
	"edit-sheet":                 lead,
	"tally-class":                lead,
	"get-clock":                  lead,
	"record-class":               lead,
	"get-check":                  teach,
	"keep-check":                 teach,
	"class-checks":               teach,
	"overrule-check":             teach,
	"get-made-check":             teach,
	"correct-check":              teach,
	"withdraw-check":             teach,
	"heat-map":                   teach,
	"ledger-positions":           teach,
	"list-test-days":             teach,
	"get-test-day":               teach,
	"plan-test-day":              head,
	"remove-test-day":            head,
	"student-position":           {state.Head, state.Coach, state.Student, state.Guardian},
	"student-facts":              {state.Head, state.Coach, state.Student, state.Guardian},
	"student-outlook":            {state.Head, state.Coach, state.Student, state.Guardian},
	"export-student-report":      {state.Head, state.Coach, state.Student, state.Guardian},
	"export-student-report-html": {state.Head, state.Coach, state.Student, state.Guardian},
	"export-rank-report":         teach,
	"export-rank-report-html":    teach,
	"export-season-report":       teach,
	"export-season-report-html":  teach,
	"ledger-outlook":             teach,
	"ledger-fading":              teach,
	"use-fit":                    head,
	"ledger-gaps":                teach,
	"ledger-backtest":            teach,
	"ledger-stopping":            head,
	"ledger-agreement":           teach,
	"get-student":                {state.Head, state.Coach, state.Student},
	"list-people":                staff,
	"get-person":                 staff,
	"add-person":                 head,
	"save-person":                head,
	"archive-people":             head,
	"merge-people":               head,
	"add-note":                   teach,
	"remove-note":                teach,
	"try-hold":                   lead,
	"hold-person":                lead, // taking somebody out is anybody's who leads a class; letting them back is not
	"clear-hold":                 head,
	"list-candidates":            head,
	"promote":                    head,
	"rank-day":                   head,
	"preview-roster":             head,
	"take-roster":                head,
	"preview-attendance":         head,
	"take-attendance":            head,
	"preview-checks":             head,
	"take-checks":                head,
	"export-attendance":          head,
	"export-checks":              head,
	"export-roster":              head,
	"export-certificates":        head,
	"erase-person":               head,
	"export-person":              {state.Head, state.Student, state.Guardian},
	"try-settings":               head,
	"save-settings":              head,
	"get-begin":                  head,
	"begin-library":              head,
	"begin-ladders":              head,
	"begin-from-starter":         head,
	"get-academy":                teach,
	"export-academy":             head,
	"check-log":                  head,
	"mend-broken":                head,
	"delete-broken":              head,
	"list-changes":               teach,
	"undo-change":                teach,
}

// Area is a part of the interface, in the order of the work.
type Area struct {
	Name string `json:"name"`
	To   string `json:"to" doc:"Its address in the interface"`
}

// areas lists the parts of the interface with the operation each is made of.
var areas = []struct {
	Area
	needs string
	of    []state.Role // who finds something to do there
}{
	{Area{"Library", "/library"}, "list-techniques", everyone},
	{Area{"Curricula", "/curricula"}, "list-curricula", everyone},
	{Area{"Season", "/season"}, "list-seasons", teach},
	{Area{"Mat", "/mat"}, "get-class", staff},
	{Area{"Ledger", "/ledger"}, "heat-map", teach},
	{Area{"People", "/people"}, "list-people", staff},
	{Area{"Academy", "/academy"}, "get-academy", teach},
}

func areasOf(roles []state.Role) []Area {
	open := []Area{}
	for _, a := range areas {
		if may(roles, a.needs) && anyOf(roles, a.of) {
			open = append(open, a.Area)
		}
	}
	return open
}

// opensOn is the page each role begins on.
var opensOn = map[state.Role]string{state.Head: "/today", state.Coach: "/today", state.Assistant: "/today", state.Desk: "/today", state.Student: "/me", state.Guardian: "/me"}

// homeOf is the page somebody begins on: that of the role with the most to say.
func homeOf(roles []state.Role) string {
	for _, r := range state.Roles {
		if slices.Contains(roles, r) {
			return opensOn[r]
		}
	}
	return "/"
}

// may says whether somebody with these roles may do something: whoever has one of the roles it is open to.
func may(roles []state.Role, operation string) bool { return anyOf(roles, permissions[operation]) }

func anyOf(roles, of []state.Role) bool {
	return slices.ContainsFunc(of, func(r state.Role) bool { return slices.Contains(roles, r) })
}
