// Package notify hands letters to a mail server. A letter is written into the
// outbox in one act with the change it tells of; a sender on each server takes what is
// due and tries again where the mail server does not answer. So a mail server that hangs
// holds nobody up, and a program that is killed forgets nobody.
package notify

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strconv"
	"time"

	"github.com/wneessen/go-mail"

	"vereda/core/validation"
	"vereda/store"
)

// Post is the mail server letters are handed to.
type Post struct {
	Addr string // host:port; nothing is sent when empty, letters wait
	From string
}

// patience is how long one letter may take, and how long after it another
// server may take the same one over.
const (
	patience = 20 * time.Second
	claimed  = 2 * time.Minute
)

// waits are the pauses between tries; after the last one a letter has failed.
var waits = []time.Duration{30 * time.Second, 2 * time.Minute, 10 * time.Minute, time.Hour, 6 * time.Hour, 24 * time.Hour}

// Sender hands over what is due until it is stopped.
type Sender struct {
	store *store.Store
	post  Post
	now   func() time.Time
	wake  chan struct{}
	stop  context.CancelFunc
	done  chan struct{}
}

// Start begins to hand over letters. With an empty Post it does nothing.
func Start(s *store.Store, post Post, now func() time.Time) *Sender {
	ctx, cancel := context.WithCancel(context.Background())
	x := &Sender{store: s, post: post, now: now, wake: make(chan struct{}, 1), stop: cancel, done: make(chan struct{})}
	if post.Addr == "" {
		close(x.done)
		return x
	}
	go x.run(ctx)
	return x
}

// Wake says that a letter was written just now.
func (x *Sender) Wake() {
	select {
	case x.wake <- struct{}{}:
	default:
	}
}

// Stop ends the sender; what is not handed over waits in the outbox.
func (x *Sender) Stop() {
	x.stop()
	<-x.done
}

func (x *Sender) run(ctx context.Context) {
	defer close(x.done)
	tick := time.NewTicker(5 * time.Second)
	defer tick.Stop()
	for {
		x.handOver(ctx)
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		case <-x.wake:
		}
	}
}

// handOver sends everything that is due now.
func (x *Sender) handOver(ctx context.Context) {
	defer func() {
		if broken := recover(); broken != nil {
			slog.Error("handing over letters panicked", "error", broken)
		}
	}()
	for ctx.Err() == nil {
		claim := store.NewID()
		now := x.now().UTC()
		l, err := x.store.ClaimLetter(ctx, claim, now, now.Add(claimed))
		if errors.Is(err, store.ErrMissing) {
			return
		}
		if err != nil {
			if ctx.Err() == nil {
				slog.Error("the outbox could not be read", "error", err)
			}
			return
		}
		l = settled(l, x.send(ctx, l), x.now().UTC())
		if l.Failure != "" {
			slog.Error("a letter could not be handed over", "academy", l.Academy, "letter", l.ID, "try", l.Tries, "error", l.Failure)
		}
		if err := x.store.SettleLetter(context.WithoutCancel(ctx), claim, l); err != nil {
			slog.Error("what became of a letter could not be kept", "letter", l.ID, "error", err)
			return
		}
	}
}

// settled is a letter after a try.
func settled(l store.Letter, err error, now time.Time) store.Letter {
	if err == nil {
		l.State, l.Failure, l.Sent = store.LetterSent, "", &now
		return l
	}
	l.Failure = validation.Shorten(err.Error(), 480)
	if l.Tries > len(waits) {
		l.State = store.LetterFailed
		return l
	}
	l.Due = now.Add(waits[l.Tries-1])
	return l
}

func (x *Sender) send(ctx context.Context, l store.Letter) error {
	host, port, err := net.SplitHostPort(x.post.Addr)
	if err != nil {
		return fmt.Errorf("the mail server %q: %w", x.post.Addr, err)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the mail server's port %q is no number", port)
	}
	m := mail.NewMsg()
	if err := errors.Join(m.From(x.post.From), m.To(l.To)); err != nil {
		return err
	}
	m.Subject(l.Subject)
	m.SetDateWithValue(l.Made)
	m.SetGenHeader(mail.HeaderMessageID, "<"+l.ID+"@vereda>")
	m.SetBodyString(mail.TypeTextPlain, l.Body)
	if l.AttachedAs != "" {
		if err := m.AttachReader(l.AttachedAs, bytes.NewReader(l.Attachment)); err != nil {
			return err
		}
	}
	client, err := mail.NewClient(host, mail.WithPort(n), mail.WithTimeout(patience), mail.WithTLSPolicy(mail.TLSOpportunistic))
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return client.DialAndSendWithContext(ctx, m)
}
