// Command vereda serves an academy, and does its upkeep.
package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/netip"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strings"
	"sync/atomic"
	"syscall"
	"time"
	_ "time/tzdata" // zones on a machine that has none

	"github.com/spf13/cobra"

	"vereda/api"
	"vereda/app"
	"vereda/app/notify"
	"vereda/exchange"
	"vereda/store"
	"vereda/store/files"
	"vereda/store/mariadb"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelInfo})))
	root := &cobra.Command{Use: "vereda", Short: "Library, curricula, seasons, classes and the ledger of a grappling academy", SilenceUsage: true, SilenceErrors: true}
	root.AddCommand(serveCommand(), startCommand(), demoCommand(), accountCommand(), backupCommand(), restoreCommand(), migrateCommand(), importCommand(), exportCommand(), rebuildCommand(), openAPICommand(), withDatabaseCommand(), tableCommand(), mapCommand(), libraryCommand(), auditCommand(), seasonCommand(), rotationCommand(), sheetCommand(), tonightCommand(), readinessCommand(), retentionCommand(), testDayCommand(), schemasCommand())
	badUsage(root)
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "vereda:", err)
		var child *exec.ExitError
		if errors.As(err, &child) {
			os.Exit(child.ExitCode())
		}
		var bad badInput
		if errors.As(err, &bad) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

// badUsage makes a missing argument or an unknown flag bad input (exit code 2), so that 1 is left for conditions in conflict.
func badUsage(c *cobra.Command) {
	c.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return badInput{err} })
	if args := c.Args; args != nil {
		c.Args = func(c *cobra.Command, all []string) error {
			if err := args(c, all); err != nil {
				return badInput{err}
			}
			return nil
		}
	}
	for _, sub := range c.Commands() {
		badUsage(sub)
	}
}

// clock is the wall's, or stands still where VEREDA_CLOCK says: at a time, or at the one that is written in a file it names, which is read
// again each time, so that the clock can be moved while the program runs.
func clock() (func() time.Time, error) {
	text := os.Getenv("VEREDA_CLOCK")
	if text == "" {
		return time.Now, nil
	}
	if fixed, err := time.Parse(time.RFC3339, text); err == nil {
		return func() time.Time { return fixed }, nil
	}
	if _, err := clockFile(text); err != nil {
		return nil, fmt.Errorf("VEREDA_CLOCK %q: write it as 2026-11-24T18:00:00Z, or name a file in which it is written so: %w", text, err)
	}
	var last atomic.Value // while the file is being written it can be empty
	return func() time.Time {
		if at, err := clockFile(text); err == nil {
			last.Store(at)
		}
		at, _ := last.Load().(time.Time)
		return at
	}, nil
}

func clockFile(name string) (time.Time, error) {
	text, err := os.ReadFile(name)
	if err != nil {
		return time.Time{}, err
	}
	return time.Parse(time.RFC3339, strings.TrimSpace(string(text)))
}

// zone is the academy's: the machine's own unless VEREDA_ZONE names another.
func zone() (*time.Location, error) {
	name := os.Getenv("VEREDA_ZONE")
	if name == "" {
		return time.Local, nil
	}
	z, err := time.LoadLocation(name)
	if err != nil {
		return nil, fmt.Errorf("VEREDA_ZONE %q is not a time zone such as Europe/Lisbon", name)
	}
	return z, nil
}

// open connects to the server named in VEREDA_DSN.
func open(ctx context.Context) (*app.App, *store.Store, error) { return openWith(ctx, store.Open) }

func openWith(ctx context.Context, opening func(context.Context, string) (*store.Store, error)) (*app.App, *store.Store, error) {
	dsn := os.Getenv("VEREDA_DSN")
	if dsn == "" {
		return nil, nil, errors.New("VEREDA_DSN is not set: name the database as user:password@tcp(host:3306)/name, or run vereda demo")
	}
	folder, err := attachmentsFolder()
	if err != nil {
		return nil, nil, err
	}
	return connect(ctx, opening, dsn, folder)
}

func connect(ctx context.Context, open func(context.Context, string) (*store.Store, error), dsn, folder string) (*app.App, *store.Store, error) {
	now, err := clock()
	if err != nil {
		return nil, nil, err
	}
	z, err := zone()
	if err != nil {
		return nil, nil, err
	}
	s, err := open(ctx, dsn)
	if err != nil {
		return nil, nil, err
	}
	kept, err := files.Open(folder)
	if err != nil {
		return nil, nil, errors.Join(fmt.Errorf("the folder for attached files: %w: name another one in VEREDA_FILES", err), s.Close())
	}
	a := app.New(s, now, z, kept)
	return connected(a), s, nil
}

// attachmentsFolder is where pictures and clips are kept: VEREDA_FILES, which
// several servers share, or a folder here.
func attachmentsFolder() (string, error) {
	if name := os.Getenv("VEREDA_FILES"); name != "" {
		return name, nil
	}
	return filepath.Abs(filepath.Join(".data", "files"))
}

func serveCommand() *cobra.Command {
	var listen string
	c := &cobra.Command{Use: "serve", Short: "Serve on the database named in VEREDA_DSN", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		a, s, err := open(c.Context())
		if err != nil {
			return err
		}
		defer s.Close()
		l, err := listenOn(listen, false)
		if err != nil {
			return err
		}
		slog.Info("serving", "address", "http://"+l.Addr().String())
		url := cmp.Or(strings.TrimSuffix(os.Getenv("VEREDA_URL"), "/"), "http://"+l.Addr().String())
		stop := attend(c.Context(), a, s, url, notify.Post{Addr: os.Getenv("VEREDA_SMTP"), From: os.Getenv("VEREDA_MAIL_FROM")})
		defer stop()
		if err := announceSetup(c.Context(), a, s, url); err != nil {
			return err
		}
		options, err := serveOptions()
		if err != nil {
			return err
		}
		server := api.New(a, s, options)
		return serve(c.Context(), server, l)
	}}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8080", "address to serve on")
	return c
}

// serveOptions are how the server stands in the world: VEREDA_SECURE=yes behind TLS, VEREDA_PROXIES the
// addresses of trusted proxies (10.0.0.0/8, …), VEREDA_METRICS=yes to show /metrics.
func serveOptions() (api.Options, error) {
	o := api.Options{Secure: os.Getenv("VEREDA_SECURE") == "yes", Metrics: os.Getenv("VEREDA_METRICS") == "yes"}
	for _, text := range strings.FieldsFunc(os.Getenv("VEREDA_PROXIES"), func(r rune) bool { return r == ',' || r == ' ' }) {
		p, err := netip.ParsePrefix(text)
		if err != nil {
			return o, fmt.Errorf("VEREDA_PROXIES %q is not a network such as 10.0.0.0/8", text)
		}
		o.Proxies = append(o.Proxies, p)
	}
	return o, nil
}

func migrateCommand() *cobra.Command {
	return &cobra.Command{Use: "migrate", Short: "Bring the tables of VEREDA_DSN up to date; servers of this version start on them then", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		_, s, err := openWith(c.Context(), store.Migrate)
		if err != nil {
			return err
		}
		return s.Close()
	}}
}

func importCommand() *cobra.Command {
	return &cobra.Command{Use: "import FILE", Short: "Import a bundle: all of it or nothing; - is standard input", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		text, err := readFile(args[0])
		if err != nil {
			return err
		}
		b, err := exchange.Read(text)
		if err != nil {
			return fmt.Errorf("%s: nothing was imported:\n%w", args[0], err)
		}
		a, s, err := open(c.Context())
		if err != nil {
			return err
		}
		defer s.Close()
		done, err := a.Academies.Import(c.Context(), b)
		if err != nil {
			return err
		}
		fmt.Printf("Imported %s: %d records, %d new events.\n", b.Academy.Name, done.Documents, done.Events)
		return nil
	}}
}

func readFile(name string) ([]byte, error) {
	if name == "-" {
		return io.ReadAll(os.Stdin)
	}
	return os.ReadFile(name)
}

func exportCommand() *cobra.Command {
	return &cobra.Command{Use: "export ACADEMY", Short: "Write a whole academy as a bundle to standard output", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		a, s, err := open(c.Context())
		if err != nil {
			return err
		}
		defer s.Close()
		b, err := a.Academies.Export(c.Context(), args[0])
		if errors.Is(err, store.ErrMissing) {
			return fmt.Errorf("there is no academy %q on this database", args[0])
		}
		if err != nil {
			return err
		}
		text, err := exchange.Write(b)
		if err != nil {
			return err
		}
		_, err = os.Stdout.Write(text)
		return err
	}}
}

func rebuildCommand() *cobra.Command {
	return &cobra.Command{Use: "rebuild", Short: "Project every academy anew from its whole log, and report differences", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		a, s, err := open(c.Context())
		if err != nil {
			return err
		}
		defer s.Close()
		all, err := s.Academies(c.Context())
		if err != nil {
			return err
		}
		different := 0
		for _, id := range all {
			r, err := a.Academies.Rebuild(c.Context(), id)
			if err != nil {
				return err
			}
			fmt.Printf("%s: %d events, %d students, %d different\n", id, r.Events, r.Students, len(r.Different))
			for _, what := range r.Different {
				fmt.Println("  ", what)
			}
			different += len(r.Different)
		}
		if different > 0 {
			return fmt.Errorf("%d things were not what the log says", different)
		}
		return nil
	}}
}

func openAPICommand() *cobra.Command {
	return &cobra.Command{Use: "openapi", Short: "Write the OpenAPI document to standard output", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		text, err := api.Document()
		if err != nil {
			return err
		}
		_, err = os.Stdout.Write(text)
		return err
	}}
}

// inMemory is a folder in memory where the machine has one: what a test keeps
// need not wait for a disk. Empty means the ordinary one.
func inMemory() string {
	const shared = "/dev/shm"
	probe, err := os.MkdirTemp(shared, "vereda-probe-")
	if err != nil {
		return ""
	}
	_ = os.Remove(probe)
	return shared
}

// withDatabaseCommand runs another command with a private server that is
// stopped afterwards: how the tests get theirs.
func withDatabaseCommand() *cobra.Command {
	return &cobra.Command{Use: "with-database COMMAND [ARGUMENT...]", Short: "Run a command with a private database in VEREDA_TEST_DSN", Args: cobra.MinimumNArgs(1), DisableFlagParsing: true,
		RunE: func(c *cobra.Command, args []string) error {
			folder, err := os.MkdirTemp(inMemory(), "vereda-test-")
			if err != nil {
				return err
			}
			defer os.RemoveAll(folder)
			if err := os.Chmod(folder, 0o755); err != nil {
				return err
			}
			server, err := mariadb.StartForgetful(c.Context(), folder)
			if err != nil {
				return err
			}
			defer server.Stop()
			child := exec.CommandContext(c.Context(), args[0], args[1:]...)
			child.Env = append(os.Environ(), "VEREDA_TEST_DSN="+server.DSN(""))
			child.Stdin, child.Stdout, child.Stderr = os.Stdin, os.Stdout, os.Stderr
			child.Cancel = func() error { return child.Process.Signal(os.Interrupt) }
			return child.Run()
		}}
}
