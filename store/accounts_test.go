package store_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/store"
)

// account makes one that can be signed in to.
func account(t *testing.T, s *store.Store, id string, more ...func(*store.Account)) store.Account {
	t.Helper()
	a := store.Account{ID: id, Academy: "hall", SignIn: id, Password: "hash", Roles: []string{"coach", "desk"}, Wards: []string{}, Email: id + "@lantern.example"}
	for _, m := range more {
		m(&a)
	}
	require.NoError(t, s.Act(t.Context(), a.Academy, func(act *store.Act) error { return act.AddAccount(a, at) }))
	got, err := s.AccountByID(t.Context(), id)
	require.NoError(t, err)
	return got
}

func TestAnAccountComesBackAsItWasKept(t *testing.T) {
	s := twoAcademies(t)
	some, err := s.AnyAccount(t.Context())
	require.NoError(t, err)
	assert.False(t, some)
	sol := account(t, s, "sol", func(a *store.Account) { a.Wards = []string{"kit", "noa"} })
	assert.Equal(t, []string{"coach", "desk"}, sol.Roles)
	assert.Equal(t, []string{"kit", "noa"}, sol.Wards)
	assert.WithinDuration(t, at, sol.Created, time.Second)
	some, err = s.AnyAccount(t.Context())
	require.NoError(t, err)
	assert.True(t, some)
	assert.Error(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.AddAccount(store.Account{ID: "sol2", SignIn: "sol"}, at) }), "a name to sign in by is one's own")
	require.NoError(t, s.Act(t.Context(), "other", func(a *store.Act) error { return a.AddAccount(store.Account{ID: "far", SignIn: "far"}, at) }))
	all, seen, err := s.Accounts(t.Context(), "hall")
	require.NoError(t, err)
	require.Len(t, all, 1, "another academy's are its own")
	assert.Empty(t, seen)
	sol.Roles, sol.Email = []string{"desk"}, ""
	closed := at.Add(time.Hour)
	sol.Closed = &closed
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.ChangeAccount(sol, "head") }))
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.SetPassword("sol", "another") }))
	got, err := s.AccountBySignIn(t.Context(), "sol")
	require.NoError(t, err)
	assert.Equal(t, []any{[]string{"desk"}, "", "another", true}, []any{got.Roles, got.Email, got.Password, got.Closed != nil})
	_, err = s.AccountBySignIn(t.Context(), "nobody")
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestTriesToSignInAreCountedByWhatTheyHaveInCommon(t *testing.T) {
	s := twoAcademies(t)
	try := func(name, address, device string, after time.Duration) store.Attempt {
		a, err := s.BeginSignIn(t.Context(), name, address, device, at.Add(after), at.Add(after-15*time.Minute))
		require.NoError(t, err)
		return a
	}
	first := try("sol", "10.0.0.1", "", 0)
	assert.Equal(t, [2]int{1, 1}, [2]int{first.OfName.Count, first.OfAddress.Count})
	require.NoError(t, s.FailSignIn(t.Context(), first, at))
	second := try("sol", "10.0.0.2", "", time.Minute)
	assert.Equal(t, [2]int{2, 1}, [2]int{second.OfName.Count, second.OfAddress.Count}, "the name is tried again, from elsewhere")
	assert.WithinDuration(t, at, second.OfName.Last, time.Second)
	third := try("hana", "10.0.0.2", "", 2*time.Minute)
	assert.Equal(t, [2]int{1, 2}, [2]int{third.OfName.Count, third.OfAddress.Count}, "another name, from there again")
	known := try("sol", "10.0.0.1", "laptop", 3*time.Minute)
	assert.Equal(t, 1, known.OfDevice.Count)
	assert.Equal(t, 2, known.OfName.Count, "one's own device is no stranger's try")
	require.NoError(t, s.ForgetSignIn(t.Context(), second))
	again := try("sol", "10.0.0.9", "", 4*time.Minute)
	assert.Equal(t, 2, again.OfName.Count, "what succeeded is forgotten")
	late := try("sol", "10.0.0.9", "", time.Hour)
	assert.Equal(t, 1, late.OfName.Count, "what is long ago does not count")
	require.NoError(t, s.FailSignIn(t.Context(), late, at.Add(48*time.Hour)))
	var left int
	require.NoError(t, s.DB.QueryRowContext(t.Context(), `SELECT COUNT(*) FROM sign_in_failure`).Scan(&left))
	assert.Zero(t, left, "those older than a day are cleared away")
}

// Forty at once: each sees another number of tries before it, so a limit cannot be raced.
func TestNoTwoTriesSeeTheSameNumber(t *testing.T) {
	s := twoAcademies(t)
	var wg sync.WaitGroup
	var under atomic.Int32
	for i := range 40 {
		wg.Go(func() {
			a, err := s.BeginSignIn(context.Background(), "sol", fmt.Sprint("10.0.0.", i), "", at, at.Add(-time.Minute))
			if assert.NoError(t, err) && a.OfName.Count <= 5 {
				under.Add(1)
			}
		})
	}
	wg.Wait()
	assert.LessOrEqual(t, under.Load(), int32(5))
}

func TestWhereSomebodyIsSignedIn(t *testing.T) {
	s := twoAcademies(t)
	account(t, s, "sol")
	for i, id := range []string{"phone", "desk", "old"} {
		require.NoError(t, s.BeginSession(t.Context(), "sol", store.SignedIn{ID: id, Begun: at.Add(time.Duration(i) * time.Minute), Address: "10.0.0.1", Agent: "a browser"}))
	}
	require.NoError(t, s.SeeSession(t.Context(), "phone", at.Add(time.Hour)))
	a, seen, err := s.Session(t.Context(), "phone")
	require.NoError(t, err)
	assert.Equal(t, "sol", a.ID)
	assert.WithinDuration(t, at.Add(time.Hour), seen, time.Second)
	all, err := s.Sessions(t.Context(), "sol", at.Add(90*time.Second))
	require.NoError(t, err)
	var ids []string
	for _, x := range all {
		ids = append(ids, x.ID)
	}
	assert.Equal(t, []string{"phone", "old"}, ids, "the last used first; what nobody used since is forgotten")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.EndSessions("sol", "", "phone") }))
	_, _, err = s.Session(t.Context(), "old")
	assert.ErrorIs(t, err, store.ErrMissing, "all but the one at hand")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.EndSessions("hana", "", "") }))
	_, _, err = s.Session(t.Context(), "phone")
	assert.NoError(t, err, "nobody ends another one's")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.EndSessions("sol", "phone", "") }))
	_, _, err = s.Session(t.Context(), "phone")
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestKnownDevices(t *testing.T) {
	s := twoAcademies(t)
	account(t, s, "sol")
	knows := func(name, hash string) bool {
		ok, err := s.KnowsDevice(t.Context(), name, hash)
		require.NoError(t, err)
		return ok
	}
	assert.False(t, knows("sol", "laptop"))
	for range 2 { // again is once
		require.NoError(t, s.KeepDevice(t.Context(), "sol", "laptop", at))
	}
	assert.True(t, knows("sol", "laptop"))
	assert.False(t, knows("hana", "laptop"), "a device is known to one account")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.ForgetDevices("sol") }))
	assert.False(t, knows("sol", "laptop"))
}

func TestALinkOpensOnceAndTheLastOneAlone(t *testing.T) {
	s := twoAcademies(t)
	account(t, s, "sol")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.AddLink("first", store.InviteLink, "sol", at.Add(time.Hour), at) }))
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.AddLink("second", store.InviteLink, "sol", at.Add(time.Hour), at) }))
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.AddLink("setup", store.SetupLink, "", at.Add(time.Hour), at) }))
	_, _, err := s.Link(t.Context(), "first", at)
	assert.ErrorIs(t, err, store.ErrMissing, "the last invitation alone counts")
	kind, of, err := s.Link(t.Context(), "second", at)
	require.NoError(t, err)
	assert.Equal(t, []string{store.InviteLink, "sol"}, []string{kind, of})
	kind, of, err = s.Link(t.Context(), "setup", at)
	require.NoError(t, err)
	assert.Equal(t, []string{store.SetupLink, ""}, []string{kind, of})
	_, _, err = s.Link(t.Context(), "second", at.Add(2*time.Hour))
	assert.ErrorIs(t, err, store.ErrMissing, "it is too old then")
	var wg sync.WaitGroup
	var opened atomic.Int32
	for range 10 {
		wg.Go(func() {
			if s.Act(context.Background(), "hall", func(a *store.Act) error { return a.UseLink("second", at) }) == nil {
				opened.Add(1)
			}
		})
	}
	wg.Wait()
	assert.Equal(t, int32(1), opened.Load(), "of ten at once, one")
}

func TestTheSecondFactor(t *testing.T) {
	s := twoAcademies(t)
	account(t, s, "sol")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.SetSecondFactor("sol", "secret", nil, []string{"one", "two"}) }))
	a, err := s.AccountByID(t.Context(), "sol")
	require.NoError(t, err)
	assert.Equal(t, "secret", a.Secret)
	assert.Nil(t, a.Since, "not asked for before it is confirmed")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.SetSecondFactor("sol", "secret", &at, []string{"three", "four"}) }))
	used := func(step int64) bool {
		ok, err := s.UseStep(t.Context(), "sol", step)
		require.NoError(t, err)
		return ok
	}
	assert.Equal(t, []bool{true, false, false, true}, []bool{used(100), used(100), used(99), used(101)}, "no code counts twice, nor an older one after it")
	recovered := func(hash string) bool {
		ok, err := s.UseRecovery(t.Context(), "sol", hash)
		require.NoError(t, err)
		return ok
	}
	assert.Equal(t, []bool{false, true, false}, []bool{recovered("one"), recovered("three"), recovered("three")}, "those of before are gone, and each is used once")
	left, err := s.RecoveryLeft(t.Context(), "sol")
	require.NoError(t, err)
	assert.Equal(t, 1, left)
}

func TestDoorsByTheirKeys(t *testing.T) {
	s := twoAcademies(t)
	require.NoError(t, s.AddDoor(t.Context(), store.Door{ID: "d2", Academy: "hall", Name: "Side", Made: at}, "hash-2"))
	require.NoError(t, s.AddDoor(t.Context(), store.Door{ID: "d1", Academy: "hall", Name: "Front", Made: at}, "hash-1"))
	require.NoError(t, s.AddDoor(t.Context(), store.Door{ID: "d3", Academy: "other", Name: "Gate", Made: at}, "hash-3"))
	all, err := s.Doors(t.Context(), "hall")
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "Front", all[0].Name)
	assert.Nil(t, all[0].Seen, "no tap yet")
	d, err := s.DoorByKey(t.Context(), "hash-1", at.Add(time.Hour))
	require.NoError(t, err)
	assert.Equal(t, []string{"d1", "hall"}, []string{d.ID, d.Academy})
	all, err = s.Doors(t.Context(), "hall")
	require.NoError(t, err)
	require.NotNil(t, all[0].Seen)
	assert.WithinDuration(t, at.Add(time.Hour), *all[0].Seen, time.Second)
	_, err = s.DoorByKey(t.Context(), "hash-9", at)
	assert.ErrorIs(t, err, store.ErrMissing)
	assert.ErrorIs(t, s.EndDoor(t.Context(), "other", "d1"), store.ErrMissing, "nobody ends another academy's")
	require.NoError(t, s.EndDoor(t.Context(), "hall", "d1"))
	_, err = s.DoorByKey(t.Context(), "hash-1", at)
	assert.ErrorIs(t, err, store.ErrMissing)
}

func TestALetterIsHandedOverByOneServer(t *testing.T) {
	s := twoAcademies(t)
	letters := []store.Letter{{ID: "a", To: "sol@lantern.example", Subject: "Your classes", Body: "Dear Sol", AttachedAs: "brief.pdf", Attachment: []byte{1, 2}, Made: at}, {ID: "b", To: "hana@lantern.example", Made: at.Add(time.Minute)}}
	_, err := s.Commit(t.Context(), "hall", 0, store.Batch{By: "ines", At: at, Letters: letters})
	require.NoError(t, err)
	later := at.Add(time.Hour)
	var wg sync.WaitGroup
	var mu sync.Mutex
	claimed := map[string]int{}
	for i := range 6 {
		wg.Go(func() {
			l, err := s.ClaimLetter(context.Background(), fmt.Sprint("server ", i), later, later.Add(time.Minute))
			if err == nil {
				mu.Lock()
				claimed[l.ID]++
				mu.Unlock()
			} else {
				assert.ErrorIs(t, err, store.ErrMissing)
			}
		})
	}
	wg.Wait()
	assert.Equal(t, map[string]int{"a": 1, "b": 1}, claimed)
	_, err = s.ClaimLetter(t.Context(), "me", later.Add(30*time.Second), later.Add(time.Hour))
	assert.ErrorIs(t, err, store.ErrMissing, "they are claimed")
	mine, err := s.ClaimLetter(t.Context(), "me", later.Add(2*time.Minute), later.Add(time.Hour))
	require.NoError(t, err, "what nobody settled is due again")
	assert.Equal(t, 2, mine.Tries)
	if mine.ID == "a" {
		assert.Equal(t, []byte{1, 2}, mine.Attachment)
	}
	mine.State, mine.Sent = store.LetterSent, &later
	require.NoError(t, s.SettleLetter(t.Context(), "somebody else", mine))
	states := func() map[string]string {
		all, err := s.Letters(t.Context(), "hall", 10)
		require.NoError(t, err)
		m := map[string]string{}
		for _, l := range all {
			m[l.ID] = l.State
			assert.Empty(t, l.Attachment, "a list needs no documents")
		}
		return m
	}
	assert.Equal(t, store.LetterWaiting, states()[mine.ID], "whoever lost the claim settles nothing")
	require.NoError(t, s.SettleLetter(t.Context(), "me", mine))
	assert.Equal(t, store.LetterSent, states()[mine.ID])
}

func TestAPlanningThatIsOvertakenEnds(t *testing.T) {
	s := twoAcademies(t)
	_, err := s.Planning(t.Context(), "hall", "s1")
	assert.ErrorIs(t, err, store.ErrMissing)
	require.NoError(t, s.BeginPlanning(t.Context(), "hall", "s1", store.Planning{Run: "one", State: "running"}))
	report := func(run string, share float64) bool {
		goOn, err := s.ReportPlanning(t.Context(), "hall", "s1", store.Planning{Run: run, State: "running", Share: share, Coverage: share / 2})
		require.NoError(t, err)
		return goOn
	}
	assert.True(t, report("one", 0.3))
	require.NoError(t, s.BeginPlanning(t.Context(), "hall", "s1", store.Planning{Run: "two", State: "running"}))
	assert.False(t, report("one", 0.9), "another run began")
	p, err := s.Planning(t.Context(), "hall", "s1")
	require.NoError(t, err)
	assert.Equal(t, []any{"two", 0.0}, []any{p.Run, p.Share}, "and what the first one reports is not taken for its own")
	assert.True(t, report("two", 0.2))
	require.NoError(t, s.StopPlanning(t.Context(), "hall", "s1"))
	assert.False(t, report("two", 0.4), "somebody asked it to end")
}

func TestCalendarAddresses(t *testing.T) {
	s := twoAcademies(t)
	feed := store.Feed{Token: "t1", Academy: "hall", Scope: "coach", Target: "sol", Made: at}
	require.NoError(t, s.AddFeed(t.Context(), feed))
	feed.Token = "t2"
	require.NoError(t, s.AddFeed(t.Context(), feed))
	_, err := s.FeedByToken(t.Context(), "t1")
	assert.ErrorIs(t, err, store.ErrMissing, "a new address takes the place of the one before")
	got, err := s.FeedByToken(t.Context(), "t2")
	require.NoError(t, err)
	assert.Equal(t, "sol", got.Target)
	var wg sync.WaitGroup
	for i := range 10 {
		wg.Go(func() {
			assert.NoError(t, s.AddFeed(context.Background(), store.Feed{Token: fmt.Sprint("x", i), Academy: "hall", Scope: "all", Made: at}))
		})
	}
	wg.Wait()
	all, err := s.Feeds(t.Context(), "hall")
	require.NoError(t, err)
	assert.Len(t, all, 2, "of ten made at once one counts")
	require.NoError(t, s.RevokeFeed(t.Context(), "hall", "coach", "sol"))
	_, err = s.FeedByToken(t.Context(), "t2")
	assert.ErrorIs(t, err, store.ErrMissing)
}

// Of two heads who demote each other at once, on two servers, one stays.
func TestTheLastHeadStays(t *testing.T) {
	s := twoAcademies(t)
	other := store.New(s.DB)
	head := func(a *store.Account) { a.Roles = []string{"head"} }
	a, b := account(t, s, "a", head), account(t, s, "b", head)
	for round := range 30 {
		var wg sync.WaitGroup
		errs := make([]error, 2)
		for i, x := range []store.Account{a, b} {
			x.Roles = []string{"coach"}
			wg.Go(func() {
				errs[i] = []*store.Store{s, other}[i].Act(context.Background(), "hall", func(act *store.Act) error { return act.ChangeAccount(x, "head") })
			})
		}
		wg.Wait()
		heads := 0
		all, _, err := s.Accounts(t.Context(), "hall")
		require.NoError(t, err)
		for _, x := range all {
			if slices.Contains(x.Roles, "head") {
				heads++
			}
		}
		require.Equal(t, 1, heads, "round %d: %v", round, errs)
		for _, x := range []store.Account{a, b} {
			require.NoError(t, s.Act(t.Context(), "hall", func(act *store.Act) error { return act.ChangeAccount(x, "head") }))
		}
	}
}

// What is done to accounts is done whole: a link is not used up by what fails after it.
func TestAnActIsWhole(t *testing.T) {
	s := twoAcademies(t)
	account(t, s, "sol")
	require.NoError(t, s.Act(t.Context(), "hall", func(a *store.Act) error { return a.AddLink("link", store.ResetLink, "sol", at.Add(time.Hour), at) }))
	broken := errors.New("the program ends here")
	assert.ErrorIs(t, s.Act(t.Context(), "hall", func(a *store.Act) error {
		return errors.Join(a.UseLink("link", at), a.SetPassword("sol", "new"), broken)
	}), broken)
	_, of, err := s.Link(t.Context(), "link", at)
	require.NoError(t, err)
	assert.Equal(t, "sol", of)
	got, err := s.AccountByID(t.Context(), "sol")
	require.NoError(t, err)
	assert.Equal(t, "hash", got.Password)
}
