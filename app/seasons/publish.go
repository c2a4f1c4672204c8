package seasons

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"regexp"
	"slices"
	"strings"
	"time"

	"vereda/app/documents"
	"vereda/app/state"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/season"
	"vereda/core/season/repair"
	"vereda/core/season/rules"
	"vereda/core/validation"
	"vereda/exchange"
	"vereda/store"
)

// PublishPage is what publishing would tell whom.
type PublishPage struct {
	Version int          `json:"version" doc:"Of the season as it is shown: publishing names it"`
	Number  int          `json:"number" doc:"How often the season was published; 0 for never"`
	On      *time.Time   `json:"on,omitempty"`
	By      string       `json:"by,omitempty"`
	Breaks  []BreachLine `json:"breaks" doc:"Rules the plan breaks: it cannot be published so"`
	Changes []ChangeLine `json:"changes" doc:"Against what is published now"`
	Notices []Notice     `json:"notices"`
	Feeds   []FeedLine   `json:"feeds"`
}

// Notice is what one coach would be told.
type Notice struct {
	Coach string `json:"coach"`
	Name  string `json:"name"`
	Email string `json:"email,omitempty"`
	Lines int    `json:"lines" doc:"Classes it speaks of"`
	Text  string `json:"text"`
	in    say.Language
}

// FeedLine is a calendar that can be subscribed to.
type FeedLine struct {
	Scope  string       `json:"scope" enum:"all,coach,track"`
	Target string       `json:"target"`
	Name   say.Sentence `json:"name"`
	Path   string       `json:"path,omitempty" doc:"The private address; left out when there is none"`
}

// PublishView shows what publishing a season would do.
func (a *Service) PublishView(ctx context.Context, u state.User, id string) (PublishPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return PublishPage{}, err
	}
	s, err := f.FindSeason(id)
	if err != nil {
		return PublishPage{}, err
	}
	page := PublishPage{Version: f.Version(documents.Season, id), Breaks: []BreachLine{}, Changes: []ChangeLine{}, Notices: []Notice{}}
	if s.Published != nil {
		page.Number, page.On, page.By = s.Published.Number, &s.Published.On, f.NameOf(s.Published.By)
	}
	if s.Plan != nil {
		page.Breaks = f.breaks(s, f.Today())
		changes := f.unpublished(s)
		page.Changes = f.changeLines(s, changes)
		page.Notices = f.notices(s, changes)
	}
	page.Feeds, err = a.feeds(ctx, f, u.Academy)
	return page, err
}

// breaks lists the rules a season's plan breaks from today on.
func (f *snapshot) breaks(s academy.Season, today calendar.Day) []BreachLine {
	p, _ := f.problem(s, today)
	return f.breaksIn(p, *s.Plan)
}

// breaksIn is breaks for a problem at hand.
func (f *snapshot) breaksIn(p season.Problem, plan season.Plan) []BreachLine {
	return f.breachLines(rules.Breaches(unpinned(p), held(p, plan.Placements)))
}

// held marks what was held, of which no rule is asked.
func held(p season.Problem, placements []season.Placement) []season.Placement {
	all := slices.Clone(placements)
	for i, x := range all {
		all[i].Held = slices.ContainsFunc(p.Fixed, func(f season.Placement) bool { return f.Held && f.Week == x.Week && f.Class == x.Class })
	}
	return all
}

// unpublished is what differs between the published plan and the plan.
func (f *snapshot) unpublished(s academy.Season) []repair.Change {
	if s.Published == nil {
		return repair.Diff(season.Plan{}, *s.Plan)
	}
	return repair.Diff(s.Published.Plan, *s.Plan)
}

// notices writes to every coach whose classes change what changes for them, in the language they would rather read.
func (f *snapshot) notices(s academy.Season, changes []repair.Change) []Notice {
	all := []Notice{}
	for _, p := range f.Active() {
		if p.Coach == nil {
			continue
		}
		var lines []say.Sentence
		in := say.Asked(p.Language)
		for _, c := range changes {
			had, has := c.Before != nil && c.Before.Lead == p.ID, c.After != nil && c.After.Lead == p.ID
			class, _ := f.Class(c.Class)
			when := say.F("%s %s, %s", s.DayOf(c.Week, class), class.On(s.DayOf(c.Week, class)).Start, class.Name)
			switch {
			case has && had:
				lines = append(lines, say.F("%s now teaches: %s", when, f.ItemWords(c.After.Items)))
			case has:
				lines = append(lines, say.F("%s is yours: %s", when, f.ItemWords(c.After.Items)))
			case had && c.After == nil:
				lines = append(lines, say.F("%s is cancelled or teaches nothing", when))
			case had:
				to := say.Sentence("nobody yet")
				if c.After.Lead != "" {
					to = say.Raw(f.NameOf(c.After.Lead))
				}
				lines = append(lines, say.F("%s goes to %s", when, to))
			}
		}
		if len(lines) == 0 {
			continue
		}
		text := say.F("%s, %s\n\n%s\n\nEach class has a brief of one page for whoever did not plan it. Those of the next two weeks come with this letter; later ones are under Mat, the class, Brief.\n", f.Name, s.Name, say.Join("\n", lines...))
		all = append(all, Notice{p.ID, p.Name, p.Email, len(lines), text.In(in), in})
	}
	return all
}

const (
	briefDays  = 14 // days ahead of which a notice brings the briefs
	mostBriefs = 12 // in one letter
)

// soonLedBy lists the classes of the next days that a coach leads by a season's published plan, in their order.
func (f *snapshot) soonLedBy(s academy.Season, coach string) []string {
	var all []string
	for on := f.Today(); on < f.Today()+briefDays; on++ {
		for _, c := range f.ClassesOn(on) {
			x, ok := s.Published.Plan.Find(s.WeekOf(on), c.ID)
			if ok && x.Lead == coach && len(x.Items) > 0 && len(all) < mostBriefs && !f.Reported(c.ID, on) {
				all = append(all, academy.Occurrence(c.ID, on))
			}
		}
	}
	return all
}

// Published says what publishing did.
type PublishedNow struct {
	Change string   `json:"change"`
	Told   []string `json:"told" doc:"Coaches whose notice is on its way"`
	Missed []string `json:"missed" doc:"Coaches without an address"`
}

// PublishSeason gives the plan to the coaches: their classes, the calendars and the
// mat go by it from now on, and whoever something changes for is told. version is that of the season when it was looked at: what
// was changed since is not published unseen; 0 takes it as it is.
func (a *Service) PublishSeason(ctx context.Context, u state.User, id string, version int) (PublishedNow, error) {
	var done PublishedNow
	var with academy.Season
	var forecast academy.Forecast
	var letters []store.Letter
	name := a.nameOf(ctx, u, id)
	change, err := state.KeepComputed(ctx, a.State, u, name, func(f *snapshot) published { return f.publishedOn(id) }, func(f *snapshot) (err error) {
		if with, err = f.publishable(id, version, u.Person, a.Now()); err != nil {
			return err
		}
		forecast = f.forecast(with, f.Today())
		letters, done, err = a.notify(f, u, with)
		return err
	}, func(f *snapshot, b *state.Change) error {
		with.Published.On = b.At
		e, err := academy.NewEvent("", academy.ForecastEvent, f.Today(), forecast)
		if err != nil {
			return err
		}
		b.Record(e)
		for i := range letters {
			letters[i].Made = b.At
		}
		b.Letters = append(b.Letters, letters...)
		b.Summary = say.F("Published %s", with.Name)
		return b.Put(documents.Season, with.ID, with)
	})
	if err != nil {
		return done, err
	}
	done.Change = change
	a.Outbox.Wake()
	return done, nil
}

// published is what publishing was computed on: a class report that comes meanwhile changes nothing of it that matters.
type published struct {
	records uint64
	today   calendar.Day
}

func (f *snapshot) publishedOn(id string) published {
	on := f.plannedOn(id)
	return published{on.records, on.today}
}

// publishable is a season as it is published, or why it cannot be.
func (f *snapshot) publishable(id string, version int, by string, on time.Time) (academy.Season, error) {
	s, err := f.FindSeason(id)
	if err != nil {
		return s, err
	}
	if s.Plan == nil {
		return s, state.Invalid("season", "%s has no plan yet: press Plan first", s.Name)
	}
	if version != 0 && f.Version(documents.Season, id) != version {
		return s, &state.ConflictError{Thing: say.Raw(s.Name), Why: say.F("%s was changed since you looked at it: look at what would be published now.", s.Name)}
	}
	if s.Published != nil && store.SameAsJSON(s.Published.Plan, *s.Plan) {
		return s, state.Invalid("plan", "nothing has changed since %s was published", s.Name)
	}
	broken := slices.DeleteFunc(f.breaks(s, f.Today()), func(b BreachLine) bool { return b.Own })
	if len(broken) > 0 {
		return s, state.Invalid("plan", "the plan breaks %d rules, the first in week %d, %s: %s Fix it or plan again", len(broken), broken[0].Week, broken[0].Name, broken[0].What)
	}
	number := 1
	if s.Published != nil {
		number = s.Published.Number + 1
	}
	s.Published = &academy.Published{Plan: *s.Plan, Number: number, On: on, By: by}
	return s, nil
}

// notify writes the letters to whoever publishing a season changes something for, each with the briefs of their next classes.
func (a *Service) notify(f *snapshot, u state.User, s academy.Season) (letters []store.Letter, done PublishedNow, err error) {
	done = PublishedNow{Told: []string{}, Missed: []string{}}
	before, err := f.FindSeason(s.ID)
	if err != nil {
		return nil, done, err
	}
	with := f.With(map[documents.Ref]any{{Kind: documents.Season, ID: s.ID}: s})
	for _, n := range f.notices(s, f.unpublished(before)) {
		if !academy.Address(n.Email) {
			done.Missed = append(done.Missed, n.Name)
			continue
		}
		subject := validation.Shorten(say.F("Your classes: %s, %s", f.Name, s.Name).In(n.in), 250)
		letter := store.Letter{ID: store.NewID(), To: n.Email, Subject: subject, Body: n.Text}
		if sessions := f.soonLedBy(s, n.Coach); len(sessions) > 0 {
			if letter.Attachment, err = a.briefs(with, u, sessions, n.in); err != nil {
				return nil, done, err
			}
			letter.AttachedAs = "briefs.html"
		}
		letters = append(letters, letter)
		done.Told = append(done.Told, n.Name)
	}
	return letters, done, nil
}

// LetterLine is a letter of the academy's outbox.
type LetterLine struct {
	To      string     `json:"to"`
	Subject string     `json:"subject"`
	Text    string     `json:"text"`
	At      time.Time  `json:"at"`
	State   string     `json:"state" enum:"waiting,sent,failed"`
	Sent    *time.Time `json:"sent,omitempty"`
	Failure string     `json:"failure,omitempty" doc:"Why the mail server did not take it the last time"`
}

// secrets are what opens an account, in a letter that invites or sets another password: whoever reads the list is not who it is for.
var secrets = regexp.MustCompile(`/link#[A-Za-z0-9_-]+`)

// Letters lists the academy's letters, newest first.
func (a *Service) Letters(ctx context.Context, u state.User) ([]LetterLine, error) {
	letters, err := a.Store.Letters(ctx, u.Academy, 100)
	all := []LetterLine{}
	for _, l := range letters {
		all = append(all, LetterLine{l.To, l.Subject, secrets.ReplaceAllString(l.Body, "/link#…"), l.Made, l.State, l.Sent, l.Failure})
	}
	return all, err
}

func (a *Service) feeds(ctx context.Context, f *snapshot, academy string) ([]FeedLine, error) {
	had, err := a.Store.Feeds(ctx, academy)
	if err != nil {
		return nil, err
	}
	path := func(scope, target string) string {
		for _, x := range had {
			if x.Scope == scope && x.Target == target {
				return "/calendar/" + x.Token + ".ics"
			}
		}
		return ""
	}
	all := []FeedLine{{"all", "", "All classes", path("all", "")}}
	for _, t := range f.Tracks {
		all = append(all, FeedLine{"track", t.ID, say.Raw(t.Name), path("track", t.ID)})
	}
	slices.SortFunc(all[1:], func(x, y FeedLine) int { return strings.Compare(x.Name.String(), y.Name.String()) })
	for _, p := range f.Active() {
		if p.Coach != nil {
			all = append(all, FeedLine{"coach", p.ID, say.Raw(p.Name), path("coach", p.ID)})
		}
	}
	return all, nil
}

// MakeFeed makes a private address for a calendar; the one before it ends.
func (a *Service) MakeFeed(ctx context.Context, u state.User, scope, target string) (string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return "", err
	}
	if !f.feedable(scope, target) {
		return "", state.NotFound(say.Word(scope), target)
	}
	token := make([]byte, 32)
	rand.Read(token)
	x := store.Feed{Token: base64.RawURLEncoding.EncodeToString(token), Academy: u.Academy, Scope: scope, Target: target, Made: a.Now().UTC()}
	return "/calendar/" + x.Token + ".ics", a.Store.AddFeed(ctx, x)
}

func (f *snapshot) feedable(scope, target string) bool {
	switch scope {
	case "all":
		return target == ""
	case "track":
		_, ok := f.Tracks[target]
		return ok
	case "coach":
		return f.Person[target].Coach != nil
	}
	return false
}

// RevokeFeed ends a calendar's address.
func (a *Service) RevokeFeed(ctx context.Context, u state.User, scope, target string) error {
	return a.Store.RevokeFeed(ctx, u.Academy, scope, target)
}

// Calendar is the published classes behind a private address, as iCalendar.
func (a *Service) Calendar(ctx context.Context, token string) ([]byte, error) {
	feed, err := a.Store.FeedByToken(ctx, token)
	if errors.Is(err, store.ErrMissing) {
		return nil, state.NotFound("calendar", "of that address")
	}
	if err != nil {
		return nil, err
	}
	f, err := state.Known[snapshot](ctx, a.State, feed.Academy)
	if err != nil {
		return nil, err
	}
	return f.calendar(feed, f.Zone, a.Now()), nil
}

func (f *snapshot) calendar(feed store.Feed, zone *time.Location, now time.Time) []byte {
	c := exchange.Calendar{Name: f.Name, Zone: zone, Made: now}
	for _, s := range f.Seasons {
		if s.Published == nil {
			continue
		}
		for _, x := range s.Published.Plan.Placements {
			class, ok := f.Class(x.Class)
			if !ok || feed.Scope == "coach" && x.Lead != feed.Target || feed.Scope == "track" && class.Track != feed.Target {
				continue
			}
			on := s.DayOf(x.Week, class)
			class = class.On(on)
			if !class.Meets(on) || f.SessionPlan(class, on).Closed != "" {
				continue
			}
			c.Events = append(c.Events, exchange.Event{
				ID: academy.Occurrence(class.ID, on) + "@" + feed.Academy + ".vereda", On: on, Hour: class.Begins() / 60, Minute: class.Begins() % 60, Minutes: class.Minutes,
				Title: class.Name + ": " + f.ItemWords(x.Items).String(), Place: class.Mat, Notes: "Led by " + cmp.Or(f.NameOf(x.Lead), "nobody yet"), Revision: s.Published.Number,
			})
		}
	}
	return c.Write()
}
