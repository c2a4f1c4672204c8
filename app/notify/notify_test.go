package notify_test

import (
	"net"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app/notify"
	"vereda/internal/testkit"
	"vereda/standin/mail"
	"vereda/store"
)

var now = time.Date(2026, 11, 24, 18, 0, 0, 0, time.UTC)

func outbox(t *testing.T, letters ...store.Letter) *store.Store {
	s := testkit.New(t)
	require.NoError(t, s.CreateAcademy(t.Context(), "hall", "The Hall", now))
	require.NoError(t, s.CreateAcademy(t.Context(), "other", "Another", now))
	for i := range letters {
		letters[i].ID, letters[i].Made = store.NewID(), now
	}
	_, err := s.Commit(t.Context(), "hall", 0, store.Batch{By: "ines", At: now, Letters: letters})
	require.NoError(t, err)
	return s
}

func sent(t *testing.T, s *store.Store) int {
	all, err := s.Letters(t.Context(), "hall", 100)
	require.NoError(t, err)
	n := 0
	for _, l := range all {
		if l.State == store.LetterSent {
			n++
		}
	}
	return n
}

// Two servers share an outbox: each letter is handed over once.
func TestEachLetterIsHandedOverOnce(t *testing.T) {
	var letters []store.Letter
	for range 20 {
		letters = append(letters, store.Letter{To: "tomas@hall.example", Subject: "Ōsoto on Tuesday", Body: "Your classes.\n.\nA line of one dot."})
	}
	s := outbox(t, letters...)
	folder := t.TempDir()
	post, err := mail.Start(folder)
	require.NoError(t, err)
	defer post.Close()
	var senders sync.WaitGroup
	for range 2 {
		x := notify.Start(s, notify.Post{Addr: post.Addr(), From: "hall@hall.example"}, func() time.Time { return now })
		senders.Go(func() { time.Sleep(1500 * time.Millisecond); x.Stop() })
	}
	assert.Eventually(t, func() bool { return sent(t, s) == 20 }, 10*time.Second, 20*time.Millisecond)
	senders.Wait()
	handed, err := mail.Letters(folder, 100)
	require.NoError(t, err)
	require.Len(t, handed, 20)
	assert.Equal(t, "Ōsoto on Tuesday", handed[0].Subject)
	assert.Contains(t, handed[0].Text, "A line of one dot.")
	others, err := s.Letters(t.Context(), "other", 100)
	require.NoError(t, err)
	assert.Empty(t, others, "another academy sees none of them")
}

// A mail server that is not there, then is: the letter waits, says why, and goes.
func TestALetterIsTriedAgain(t *testing.T) {
	s := outbox(t, store.Letter{To: "tomas@hall.example", Subject: "Classes", Body: "x"})
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	addr := l.Addr().String()
	require.NoError(t, l.Close())
	clock := now
	var mu sync.Mutex
	at := func() time.Time { mu.Lock(); defer mu.Unlock(); return clock }
	x := notify.Start(s, notify.Post{Addr: addr, From: "hall@hall.example"}, at)
	letter := func() store.Letter {
		all, err := s.Letters(t.Context(), "hall", 1)
		require.NoError(t, err)
		return all[0]
	}
	assert.Eventually(t, func() bool { return letter().Failure != "" }, 10*time.Second, 20*time.Millisecond)
	x.Stop()
	got := letter()
	assert.Equal(t, store.LetterWaiting, got.State)
	assert.Equal(t, now.Add(30*time.Second), got.Due)
	folder := t.TempDir()
	post, err := mail.Start(folder)
	require.NoError(t, err)
	defer post.Close()
	mu.Lock()
	clock = now.Add(31 * time.Second)
	mu.Unlock()
	y := notify.Start(s, notify.Post{Addr: post.Addr(), From: "hall@hall.example"}, at)
	defer y.Stop()
	assert.Eventually(t, func() bool { return sent(t, s) == 1 }, 10*time.Second, 20*time.Millisecond)
	assert.Empty(t, letter().Failure)
}

// A letter nobody takes fails in the end, and says so; one whose server died with it in
// hand is due again.
func TestWhatBecomesOfALetterInTheEnd(t *testing.T) {
	s := outbox(t, store.Letter{To: "tomas@hall.example", Subject: "Classes", Body: "x"})
	first, err := s.ClaimLetter(t.Context(), "dead", now, now.Add(time.Minute))
	require.NoError(t, err)
	_, err = s.ClaimLetter(t.Context(), "alive", now, now.Add(time.Minute))
	assert.ErrorIs(t, err, store.ErrMissing, "claimed already")
	again, err := s.ClaimLetter(t.Context(), "alive", now.Add(2*time.Minute), now.Add(3*time.Minute))
	require.NoError(t, err)
	assert.Equal(t, first.ID, again.ID)
	assert.Equal(t, 2, again.Tries)
	first.State = store.LetterSent
	require.NoError(t, s.SettleLetter(t.Context(), "dead", first))
	assert.Zero(t, sent(t, s), "whoever lost the claim settles nothing")
	again.State, again.Failure = store.LetterFailed, "no such mailbox"
	require.NoError(t, s.SettleLetter(t.Context(), "alive", again))
	_, err = s.ClaimLetter(t.Context(), "later", now.Add(time.Hour), now.Add(2*time.Hour))
	assert.ErrorIs(t, err, store.ErrMissing)
}
