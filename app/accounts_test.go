package app_test

import (
	"errors"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/accounts"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/testkit"
)

// clockwork is the demo with its accounts, and a clock that is set by hand.
func clockwork(t *testing.T) (*app.App, *time.Time) {
	t.Helper()
	at := now
	a := app.New(testkit.New(t), func() time.Time { return at }, time.UTC, testkit.Files(t))
	testkit.LoadDemo(t, a, calendar.DayOf(now))
	testkit.LoadAccounts(t, a)
	a.Accounts.URL = "http://vereda.example"
	return a, &at
}

func enter(t *testing.T, a *app.App, name, password string) accounts.Entered {
	t.Helper()
	in, err := a.Accounts.SignIn(t.Context(), accounts.Try{Name: name, Password: password, Address: "10.0.0.1", Agent: "a test"})
	require.NoError(t, err)
	return in
}

// writeTo gives an account an address for letters, and says which account it is.
func writeTo(t *testing.T, a *app.App, head state.User, signIn, address string) string {
	t.Helper()
	all, err := a.Accounts.Accounts(t.Context(), head)
	require.NoError(t, err)
	i := slices.IndexFunc(all, func(l accounts.AccountLine) bool { return l.SignIn == signIn })
	require.GreaterOrEqual(t, i, 0)
	require.NoError(t, a.Accounts.Change(t.Context(), head, all[i].ID, accounts.Wish{Person: all[i].Person, Roles: all[i].Roles, Email: address}, false))
	return all[i].ID
}

var secretOf = regexp.MustCompile(`/link#([A-Za-z0-9_-]{43})`)

// letterTo is the secret in the newest letter to an address.
func letterTo(t *testing.T, a *app.App, to string) string {
	t.Helper()
	letters, err := a.State.Store.Letters(t.Context(), "lantern-street", 50)
	require.NoError(t, err)
	for _, l := range letters {
		if m := secretOf.FindStringSubmatch(l.Body); l.To == to && m != nil {
			return m[1]
		}
	}
	t.Fatalf("no letter to %s", to)
	return ""
}

func TestAnInvitationOpensOnceAndOnlyForAWhile(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	ines := enter(t, a, "ines", testkit.Password).User
	in, err := a.Accounts.Invite(ctx, ines, accounts.Wish{SignIn: "Pilar.D", Person: "pilar-dunmore", Email: "pilar@example.net", Roles: []state.Role{state.Student, state.Assistant}})
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(in.Address, "http://vereda.example/link#"))
	token := letterTo(t, a, "pilar@example.net")
	assert.Equal(t, "http://vereda.example/link#"+token, in.Address)
	_, err = a.Accounts.SignIn(ctx, accounts.Try{Name: "pilar.d", Password: "", Address: "10.0.0.2"})
	require.ErrorIs(t, err, accounts.ErrSignIn, "no password opens an account that has none")

	opened, err := a.Accounts.OpenLink(ctx, token)
	require.NoError(t, err)
	assert.Equal(t, accounts.Opened{Kind: "invite", Academy: "Lantern Street Grappling Hall", Name: "Pilar Dunmore", SignIn: "pilar.d", Least: accounts.LeastPassword}, opened)
	for password, why := range map[string]string{"short": "too few", "aaaaaaaaaaaaaaaa": "guessed first", "pilar.d pilar.d": "guessed first", "lantern street grappling hall": "guessed first", strings.Repeat("long words ", 20): "more than"} {
		_, err := a.Accounts.UseLink(ctx, token, accounts.Try{Password: password})
		assert.ErrorContains(t, err, why, password)
	}
	// Of several who use it at once one does.
	var wg sync.WaitGroup
	var mu sync.Mutex
	entered := 0
	for range 6 {
		wg.Go(func() {
			if _, err := a.Accounts.UseLink(ctx, token, accounts.Try{Password: "nine grey herons asleep", Address: "10.0.0.2"}); err == nil {
				mu.Lock()
				entered++
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, entered)
	pilar := enter(t, a, "pilar.d", "nine grey herons asleep").User
	assert.Equal(t, []state.Role{state.Assistant, state.Student}, pilar.Roles, "both, the one with the most to say first")
	assert.True(t, pilar.Is(state.Student) && pilar.Teaches() && pilar.Sees("pilar-dunmore") && !pilar.Sees("oren-vask"))

	again, err := a.Accounts.Invite(ctx, ines, accounts.Wish{SignIn: "gil", Person: "gil-abernath", Roles: []state.Role{state.Student}})
	require.NoError(t, err)
	assert.Empty(t, again.To, "he has no address: it is handed over")
	late := strings.TrimPrefix(again.Address, "http://vereda.example/link#")
	*at = at.Add(73 * time.Hour)
	_, err = a.Accounts.OpenLink(ctx, late)
	assert.ErrorContains(t, err, "too old")

	for name, w := range map[string]accounts.Wish{
		"is taken":            {SignIn: "ines", Person: "wim-aldous", Roles: []state.Role{state.Coach}},
		"without spaces":      {SignIn: "two words", Roles: []state.Role{state.Desk}},
		"choose at least one": {SignIn: "nobody"},
		"belongs to somebody": {SignIn: "nobody", Roles: []state.Role{state.Coach}},
		"choose whose":        {SignIn: "nobody", Roles: []state.Role{state.Guardian}},
		"is not a role":       {SignIn: "nobody", Roles: []state.Role{"caretaker"}},
		"is nobody here":      {SignIn: "nobody", Person: "nobody", Roles: []state.Role{state.Student}},
		"is not one address":  {SignIn: "nobody", Email: "a@b,c@d", Roles: []state.Role{state.Desk}},
	} {
		_, err := a.Accounts.Invite(ctx, ines, w)
		assert.ErrorContains(t, err, name)
	}
}

// A forgotten password: the letter goes to whom there is one for, and nobody learns who that is.
func TestAForgottenPassword(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	ines := enter(t, a, "ines", testkit.Password).User
	writeTo(t, a, ines, "oren", "oren@example.net")
	oren := enter(t, a, "oren", testkit.Password)
	require.NoError(t, a.Accounts.Forgotten(ctx, "nobody", "10.0.0.9"))
	require.NoError(t, a.Accounts.Forgotten(ctx, "Oren ", "10.0.0.9"))
	first := letterTo(t, a, "oren@example.net")
	*at = at.Add(time.Minute)
	require.NoError(t, a.Accounts.Forgotten(ctx, "oren", "10.0.0.9"))
	second := letterTo(t, a, "oren@example.net")
	require.NotEqual(t, first, second)
	_, err := a.Accounts.OpenLink(ctx, first)
	assert.Error(t, err, "the last letter alone counts")
	_, err = a.Accounts.UseLink(ctx, second, accounts.Try{Password: "seven slow barges north"})
	require.NoError(t, err)
	_, err = a.Accounts.UserBySession(ctx, oren.Session, "10.0.0.1")
	assert.ErrorIs(t, err, accounts.ErrSignIn, "whoever was in with the old one is out")
	_, err = a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: testkit.Password, Address: "10.0.0.3"})
	assert.ErrorIs(t, err, accounts.ErrSignIn)
	for range 20 { // asking does not fill the letter box
		require.NoError(t, a.Accounts.Forgotten(ctx, "oren", "10.0.0.9"))
	}
	letters, err := a.State.Store.Letters(ctx, "lantern-street", 100)
	require.NoError(t, err)
	n := 0
	for _, l := range letters {
		if l.To == "oren@example.net" && secretOf.MatchString(l.Body) {
			n++
		}
	}
	assert.LessOrEqual(t, n, 5)
	shown, err := a.Seasons.Letters(ctx, ines)
	require.NoError(t, err)
	for _, l := range shown {
		assert.NotRegexp(t, secretOf, l.Text, "the list of letters gives no door away")
	}
}

// Whoever owns an account hears by letter when what opens it is changed, whoever changed it.
func TestChangesOfWhatOpensAnAccountAreTold(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	ines := enter(t, a, "ines", testkit.Password).User
	id := writeTo(t, a, ines, "tomas", "tomas@example.net")
	told := func() (subjects []string) {
		letters, err := a.State.Store.Letters(ctx, "lantern-street", 100)
		require.NoError(t, err)
		for _, l := range letters {
			if l.To == "tomas@example.net" && !secretOf.MatchString(l.Body) {
				subjects = append(subjects, l.Subject)
				assert.Contains(t, l.Body, "If it was not, ask for another password")
			}
		}
		slices.Sort(subjects)
		return subjects
	}
	tomas := enter(t, a, "tomas", testkit.Password).User
	require.Error(t, a.Accounts.ChangePassword(ctx, tomas, "wrong", "seven slow barges north"))
	assert.Empty(t, told(), "what was refused changed nothing")
	require.NoError(t, a.Accounts.ChangePassword(ctx, tomas, testkit.Password, "seven slow barges north"))
	assert.Equal(t, []string{"Password changed"}, told())

	f, err := a.Accounts.BeginSecondFactor(ctx, tomas, "seven slow barges north")
	require.NoError(t, err)
	code, err := totp.GenerateCode(f.Secret, *at)
	require.NoError(t, err)
	_, err = a.Accounts.ConfirmSecondFactor(ctx, tomas, code)
	require.NoError(t, err)
	require.NoError(t, a.Accounts.ResetSecondFactor(ctx, ines, id))
	require.NoError(t, a.Accounts.Forgotten(ctx, "tomas", "10.0.0.9"))
	_, err = a.Accounts.UseLink(ctx, letterTo(t, a, "tomas@example.net"), accounts.Try{Password: "eight grey geese awake", Address: "10.0.0.1"})
	require.NoError(t, err)
	assert.Equal(t, []string{"Password changed", "Password changed", "Removed the second factor of tomas", "Second factor begun"}, told())

	// A letter is in the language of the person's record.
	page := personPage(t, a, ines, "tomas-reyl")
	page.Fields.Language = "pt-BR"
	_, err = a.People.Save(ctx, ines, "tomas-reyl", *page.Fields, page.Version)
	require.NoError(t, err)
	_, err = a.Accounts.InviteAgain(ctx, ines, id)
	require.NoError(t, err)
	require.NoError(t, a.Accounts.ResetSecondFactor(ctx, ines, id))
	letters, err := a.State.Store.Letters(ctx, "lantern-street", 100)
	require.NoError(t, err)
	in := map[string]string{}
	for _, l := range letters {
		in[l.Subject] = l.Body
	}
	assert.Contains(t, in["Uma conta em Lantern Street Grappling Hall"], "Ines Falk convida você", "%v", in)
	assert.Contains(t, in["Segundo fator de tomas retirado"], `Na conta "tomas": segundo fator de tomas retirado, por Ines Falk.`, "%v", in)

	// Who has no address hears nothing, and nothing fails for it.
	oren := enter(t, a, "oren", testkit.Password).User
	require.NoError(t, a.Accounts.ChangePassword(ctx, oren, testkit.Password, "seven slow barges north"))
}

func TestASecondFactor(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	ines := enter(t, a, "ines", testkit.Password).User
	_, err := a.Accounts.BeginSecondFactor(ctx, ines, "wrong")
	assert.ErrorContains(t, err, "not your password")
	f, err := a.Accounts.BeginSecondFactor(ctx, ines, testkit.Password)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(f.Picture, "data:image/png;base64,"))
	code := func() string {
		c, err := totp.GenerateCode(f.Secret, *at)
		require.NoError(t, err)
		return c
	}
	enter(t, a, "ines", testkit.Password) // not asked for before it is confirmed
	_, err = a.Accounts.ConfirmSecondFactor(ctx, ines, "000000")
	assert.ErrorContains(t, err, "is not the one")
	recovery, err := a.Accounts.ConfirmSecondFactor(ctx, ines, code())
	require.NoError(t, err)
	require.Len(t, recovery, 10)

	try := accounts.Try{Name: "ines", Password: testkit.Password, Address: "10.0.0.1"}
	in, err := a.Accounts.SignIn(ctx, try)
	require.NoError(t, err)
	assert.True(t, in.WantsCode)
	assert.Empty(t, in.Session)
	*at = at.Add(time.Minute)
	try.Code = code()
	in, err = a.Accounts.SignIn(ctx, try)
	require.NoError(t, err)
	assert.NotEmpty(t, in.Session)
	_, err = a.Accounts.SignIn(ctx, try)
	assert.ErrorIs(t, err, accounts.ErrCode, "none counts twice")
	try.Code = strings.ToUpper(recovery[3])
	_, err = a.Accounts.SignIn(ctx, try)
	require.NoError(t, err)
	_, err = a.Accounts.SignIn(ctx, try)
	assert.ErrorIs(t, err, accounts.ErrCode, "nor a recovery code")
	own, err := a.Accounts.Own(ctx, ines)
	require.NoError(t, err)
	assert.True(t, own.Factor)
	assert.Equal(t, 9, own.Recovery)

	// A letter alone does not get past it, and guessing its codes is slowed down as guessing passwords is.
	tomas := enter(t, a, "tomas", testkit.Password).User
	_, err = a.Accounts.InviteAgain(ctx, tomas, ines.Account)
	require.NoError(t, err) // that only a head instructor may is the door's to decide
	link := func() string {
		in, err := a.Accounts.InviteAgain(ctx, ines, ines.Account)
		require.NoError(t, err)
		return strings.TrimPrefix(in.Address, "http://vereda.example/link#")
	}()
	in, err = a.Accounts.UseLink(ctx, link, accounts.Try{Password: "nine grey herons asleep"})
	require.NoError(t, err)
	assert.True(t, in.WantsCode)
	limited := false
	for range 12 {
		_, err = a.Accounts.UseLink(ctx, link, accounts.Try{Password: "nine grey herons asleep", Code: "123456", Address: "10.0.0.7"})
		var wait *state.RateLimitError
		limited = limited || errors.As(err, &wait)
	}
	assert.True(t, limited)
	require.NoError(t, a.Accounts.RemoveSecondFactor(ctx, ines, testkit.Password))
	enter(t, a, "ines", testkit.Password)
}

func TestSessionsEnd(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	desk, phone := enter(t, a, "tomas", testkit.Password), enter(t, a, "tomas", testkit.Password)
	is := func(in accounts.Entered) error {
		_, err := a.Accounts.UserBySession(ctx, in.Session, "10.0.0.1")
		return err
	}
	require.NoError(t, is(desk))
	require.NoError(t, a.Accounts.EndSessions(ctx, desk.User, ""))
	assert.NoError(t, is(desk), "here it goes on")
	assert.ErrorIs(t, is(phone), accounts.ErrSignIn)
	*at = at.Add(71 * time.Hour)
	require.NoError(t, is(desk))
	*at = at.Add(73 * time.Hour)
	assert.ErrorIs(t, is(desk), accounts.ErrSignIn, "nobody used it for three days")

	desk, phone = enter(t, a, "tomas", testkit.Password), enter(t, a, "tomas", testkit.Password)
	require.ErrorContains(t, a.Accounts.ChangePassword(ctx, desk.User, "wrong", "nine grey herons asleep"), "not your password")
	require.NoError(t, a.Accounts.ChangePassword(ctx, desk.User, testkit.Password, "nine grey herons asleep"))
	assert.NoError(t, is(desk))
	assert.ErrorIs(t, is(phone), accounts.ErrSignIn)

	ines := enter(t, a, "ines", testkit.Password).User
	require.NoError(t, a.Accounts.Change(ctx, ines, desk.User.Account, accounts.Wish{Person: "tomas-reyl", Roles: []state.Role{state.Coach}}, true))
	assert.ErrorIs(t, is(desk), accounts.ErrSignIn, "a closed account is out at once")
	_, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "tomas", Password: "nine grey herons asleep", Address: "10.0.0.1"})
	assert.ErrorIs(t, err, accounts.ErrSignIn)
	assert.ErrorContains(t, a.Accounts.Change(ctx, ines, ines.Account, accounts.Wish{Person: "ines-falk", Roles: []state.Role{state.Coach}}, false), "nobody else can sign in as head instructor")
	assert.ErrorContains(t, a.Accounts.Change(ctx, ines, ines.Account, accounts.Wish{Person: "ines-falk", Roles: []state.Role{state.Head}}, true), "nobody else")

	lines, err := a.Accounts.Log(ctx, ines)
	require.NoError(t, err)
	var what []string
	for _, l := range lines {
		what = append(what, l.What)
	}
	for _, w := range []string{"Signed in", "Signed out everywhere else", "Password changed", "Closed the account tomas", "Sign-in refused: wrong password"} {
		assert.Contains(t, what, w)
	}
}

// A clock that was set back keeps nobody out.
func TestAClockSetBackLocksNobodyOut(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	for range 30 {
		_, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: "guess", Address: "10.0.0.1"})
		require.Error(t, err)
	}
	*at = at.Add(-24 * time.Hour)
	_, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: testkit.Password, Address: "10.0.0.1"})
	require.NoError(t, err)
	*at = at.Add(24*time.Hour - 30*time.Second) // another server's clock, half a minute behind
	_, err = a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: testkit.Password, Address: "10.0.0.1"})
	var wait *state.RateLimitError
	require.ErrorAs(t, err, &wait, "what was tried a moment ago counts still")
	assert.LessOrEqual(t, wait.Wait, 15*time.Minute)
}

// Where letters to an account go is a way in: whoever had them until now is told when it changes.
func TestTheOldAddressIsTold(t *testing.T) {
	a, _ := clockwork(t)
	ctx := t.Context()
	ines := enter(t, a, "ines", testkit.Password).User
	id := writeTo(t, a, ines, "tomas", "tomas@example.net")
	moved := func(to string) (n int) {
		letters, err := a.State.Store.Letters(ctx, "lantern-street", 100)
		require.NoError(t, err)
		for _, l := range letters {
			if l.To == to && l.Subject == "Letters go to another address" {
				assert.Contains(t, l.Body, "Ines Falk")
				n++
			}
		}
		return n
	}
	assert.Zero(t, moved("tomas@example.net"))
	wish := accounts.Wish{Person: "tomas-reyl", Roles: []state.Role{state.Coach}, Email: "TOMAS@example.net"}
	require.NoError(t, a.Accounts.Change(ctx, ines, id, wish, false))
	assert.Zero(t, moved("tomas@example.net"), "the same address")
	wish.Email = "else@example.net"
	require.NoError(t, a.Accounts.Change(ctx, ines, id, wish, false))
	assert.Equal(t, 1, moved("TOMAS@example.net"))
	// And where the account has none of its own, so that the person's counts.
	wish.Email = ""
	page := personPage(t, a, ines, "tomas-reyl")
	page.Fields.Email = "at-home@example.net"
	_, err := a.People.Save(ctx, ines, "tomas-reyl", *page.Fields, page.Version)
	require.NoError(t, err)
	require.NoError(t, a.Accounts.Change(ctx, ines, id, wish, false))
	assert.Equal(t, 1, moved("else@example.net"))
	page = personPage(t, a, ines, "tomas-reyl")
	page.Fields.Email = "new@example.net"
	_, err = a.People.Save(ctx, ines, "tomas-reyl", *page.Fields, page.Version)
	require.NoError(t, err)
	assert.Equal(t, 1, moved("at-home@example.net"))
}

// Somebody far away who guesses keeps the owner out of no browser they know, and of a new one for a minute at most.
func TestNobodyIsLockedOutByOthers(t *testing.T) {
	a, at := clockwork(t)
	ctx := t.Context()
	known := enter(t, a, "oren", testkit.Password).Device
	for i := range 200 {
		_, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: "guess", Address: "192.0.2." + string(rune('0'+i%10))})
		require.Error(t, err)
	}
	in, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: testkit.Password, Address: "10.0.0.1", Device: known})
	require.NoError(t, err)
	assert.Equal(t, known, in.Device)
	*at = at.Add(61 * time.Second)
	_, err = a.Accounts.SignIn(ctx, accounts.Try{Name: "oren", Password: testkit.Password, Address: "10.0.0.1"})
	require.NoError(t, err)

	// Thirty people behind one address who mistype once each are all let in.
	for i := range 30 {
		_, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "nobody" + string(rune('a'+i)), Password: "x", Address: "10.9.9.9"})
		require.ErrorIs(t, err, accounts.ErrSignIn)
	}
	_, err = a.Accounts.SignIn(ctx, accounts.Try{Name: "ines", Password: testkit.Password, Address: "10.9.9.9"})
	require.NoError(t, err)
}

// The first page opens once, by an address that lasts an hour; two who open it at once make one academy.
func TestTheFirstPageOpensOnce(t *testing.T) {
	at := now
	a := app.New(testkit.New(t), func() time.Time { return at }, time.UTC, testkit.Files(t))
	ctx := t.Context()
	token, err := a.Accounts.BeginSetup(ctx)
	require.NoError(t, err)
	first := accounts.First{Academy: "Harbour Row Mats", Zone: "Europe/Lisbon", WeekStart: 7, Name: "Mara Quince", SignIn: "mara", Password: "nine grey herons asleep"}
	for field, spoil := range map[string]func(*accounts.First){
		"academy": func(f *accounts.First) { f.Academy = " " }, "zone": func(f *accounts.First) { f.Zone = "Middle/Nowhere" }, "name": func(f *accounts.First) { f.Name = "" },
		"sign_in": func(f *accounts.First) { f.SignIn = "a b" }, "password": func(f *accounts.First) { f.Password = "mara quince mara quince" }, "week_start": func(f *accounts.First) { f.WeekStart = 8 },
	} {
		f := first
		spoil(&f)
		_, err := a.Accounts.Setup(ctx, token, f, accounts.Try{})
		var refused *state.ValidationError
		require.ErrorAs(t, err, &refused, field)
		assert.Equal(t, field, refused.Problems[0].Field)
	}
	var wg sync.WaitGroup
	var mu sync.Mutex
	made := 0
	for range 4 {
		wg.Go(func() {
			if _, err := a.Accounts.Setup(ctx, token, first, accounts.Try{}); err == nil {
				mu.Lock()
				made++
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 1, made)
	all, err := a.State.Store.Academies(ctx)
	require.NoError(t, err)
	assert.Len(t, all, 1)
	late, err := a.Accounts.BeginSetup(ctx)
	require.NoError(t, err)
	at = at.Add(61 * time.Minute)
	_, err = a.Accounts.Setup(ctx, late, first, accounts.Try{})
	assert.ErrorContains(t, err, "too old")
}

// Where the academy wants a second factor, a head instructor without one sets it up before anything else.
func TestASecondFactorThatTheAcademyWants(t *testing.T) {
	a, _ := clockwork(t)
	ctx := t.Context()
	page, err := a.Academies.Academy(ctx, head)
	require.NoError(t, err)
	x := page.Form
	x.SecondFactor = true
	_, err = a.Academies.SaveSettings(ctx, head, x, page.Version)
	require.NoError(t, err)
	for name, wants := range map[string]bool{"ines": true, "tomas": false, "desk": false} {
		in, err := a.Accounts.SignIn(ctx, accounts.Try{Name: name, Password: testkit.Password, Address: "127.0.0.9"})
		require.NoError(t, err)
		assert.Equal(t, wants, in.User.WantsFactor, name)
		u, err := a.Accounts.UserBySession(ctx, in.Session, "127.0.0.9")
		require.NoError(t, err)
		assert.Equal(t, wants, u.WantsFactor, name)
	}
}

// Whoever keeps trying while they have to wait makes nobody's pause longer, wherever a secret is asked for.
func TestARefusedTryIsForgotten(t *testing.T) {
	a, _ := clockwork(t)
	ctx := t.Context()
	in, err := a.Accounts.SignIn(ctx, accounts.Try{Name: "ines", Password: testkit.Password, Address: "127.0.0.9"})
	require.NoError(t, err)
	waits := []time.Duration{}
	for range 12 {
		_, err := a.Accounts.BeginSecondFactor(ctx, in.User, "wrong")
		var wait *state.RateLimitError
		if errors.As(err, &wait) {
			waits = append(waits, wait.Wait.Round(time.Second))
		}
	}
	require.Greater(t, len(waits), 2)
	assert.Equal(t, waits[0], waits[len(waits)-1], "a refused try is not counted")
}
