package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"vereda/api"
	"vereda/app"
	"vereda/app/academies"
	"vereda/app/notify"
	"vereda/demo"
	"vereda/standin/mail"
	"vereda/store"
	"vereda/store/files"
	"vereda/store/mariadb"
)

func startCommand() *cobra.Command {
	var data, listen, restore string
	c := &cobra.Command{Use: "start", Short: "Serve an academy of your own with a private database", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return runPrivate(c.Context(), private{data: data, listen: listen, restore: restore, announce: announceStart})
	}}
	c.Flags().StringVar(&data, "data", filepath.Join(".data", "academy"), "folder for the private database, attached files and backups")
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8080", "address to serve on; another port is taken when this one is not free")
	c.Flags().StringVar(&restore, "restore", "", "a backup to begin with, in a folder that holds nothing yet")
	return c
}

// private is how a server with a private database in a folder is run.
type private struct {
	data, listen string
	restore      string                                                                        // a backup to begin with
	prepare      func(context.Context, *app.App, *store.Store) error                           // fills the database before it is served
	announce     func(ctx context.Context, a *app.App, s *store.Store, url, data string) error // says where it is
	demo         bool
}

func runPrivate(ctx context.Context, p private) error {
	data, listen, prepare, announce := p.data, p.listen, p.prepare, p.announce
	server, err := mariadb.Start(ctx, filepath.Join(data, "mariadb"))
	if err != nil {
		return err
	}
	defer func() {
		if err := server.Stop(); err != nil {
			fmt.Fprintln(os.Stderr, "vereda:", err)
			return
		}
		fmt.Println("Stopped. The data is kept in", data+".")
	}()
	dsn := server.DSN("vereda")
	if err := os.WriteFile(filepath.Join(data, dsnFile), []byte(dsn+"\n"), 0o600); err != nil {
		return err
	}
	folder := cmp.Or(os.Getenv("VEREDA_FILES"), filepath.Join(data, "files"))
	if p.restore != "" {
		kept, err := files.Open(folder)
		if err != nil {
			return err
		}
		m, err := academies.Restore(ctx, dsn, kept, p.restore)
		if err := errors.Join(err, kept.Close()); err != nil {
			return fmt.Errorf("nothing was restored: %w", err)
		}
		fmt.Printf("Restored the backup of %s.\n", m.Made.Local().Format("2 Jan 2006 15:04"))
	}
	a, s, err := connect(ctx, store.Migrate, dsn, folder)
	if err != nil {
		return err
	}
	defer s.Close()
	if prepare != nil {
		if err := prepare(ctx, a, s); err != nil {
			return err
		}
	}
	l, err := listenOn(listen, true)
	if err != nil {
		return err
	}
	url := cmp.Or(strings.TrimSuffix(os.Getenv("VEREDA_URL"), "/"), "http://"+l.Addr().String())
	post := notify.Post{Addr: os.Getenv("VEREDA_SMTP"), From: cmp.Or(os.Getenv("VEREDA_MAIL_FROM"), "vereda@localhost")}
	if !p.demo {
		go a.Academies.BackupDaily(ctx, filepath.Join(data, "backups"), func(name string, err error) {
			if err != nil {
				slog.Error("the daily backup could not be written", "file", name, "error", err)
			} else {
				slog.Info("wrote the daily backup", "file", name)
			}
		})
	}
	if p.demo { // it has a mail server of its own, which keeps letters as files
		standin, err := mail.Start(filepath.Join(data, "mail"))
		if err != nil {
			return err
		}
		defer standin.Close()
		post = notify.Post{Addr: standin.Addr(), From: "hall@lantern-street.example"}
	}
	stop := attend(ctx, a, s, url, post)
	defer stop()
	if err := announce(ctx, a, s, url, data); err != nil {
		return err
	}
	options, err := serveOptions()
	if err != nil {
		return err
	}
	options.Metrics = options.Metrics || p.demo
	return serve(ctx, api.New(a, s, options), l)
}

// dsnFile holds how the private database is reached, for the commands that look after it while it runs.
const dsnFile = "dsn"

// attend starts what goes on beside serving: letters, the sweep of files nobody uses, and what is worked out before the first look.
func attend(ctx context.Context, a *app.App, s *store.Store, url string, post notify.Post) (stop func()) {
	sender := notify.Start(s, post, a.State.Now)
	a.Seasons.Outbox, a.Accounts.Outbox, a.Accounts.URL = sender, sender, url
	go a.Library.SweepDaily(ctx)
	go a.People.ForgetDaily(ctx)
	go a.KeepWarm(ctx)
	return func() {
		a.Seasons.End()
		sender.Stop()
	}
}

func announceStart(ctx context.Context, a *app.App, s *store.Store, url, data string) error {
	fmt.Printf("\n  Vereda:\n\n    %s\n", url)
	if err := announceSetup(ctx, a, s, url); err != nil {
		return err
	}
	fmt.Printf("\n  The data is kept in %s, a backup a day of the last fourteen in %s. Ctrl-C stops everything.\n\n", data, filepath.Join(data, "backups"))
	return nil
}

// announceSetup prints the address of the first page while nobody can sign in.
func announceSetup(ctx context.Context, a *app.App, s *store.Store, url string) error {
	if any, err := s.AnyAccount(ctx); err != nil || any {
		return err
	}
	token, err := a.Accounts.BeginSetup(ctx)
	if err != nil {
		return err
	}
	fmt.Printf("\n  Nobody can sign in yet. Begin here, within an hour; this address opens once:\n\n    %s/link#%s\n", url, token)
	return nil
}

// connected is what every server starts from besides its database.
func connected(a *app.App) *app.App {
	a.Academies.Starter = demo.Starter
	return a
}
