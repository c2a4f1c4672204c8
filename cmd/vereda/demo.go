package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"vereda/api"
	"vereda/app"
	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/demo"
	"vereda/demo/life"
	"vereda/store"
)

// demoPassword opens every demo account. The demo listens on this machine alone.
const demoPassword = "lantern"

// demoAccounts are printed at the start.
var demoAccounts = []struct {
	signIn string
	role   state.Role
	person string
}{
	{"ines", state.Head, "ines-falk"},
	{"tomas", state.Coach, "tomas-reyl"},
	{"desk", state.Desk, ""},
	{"oren", state.Student, "oren-vask"},
	{"kaisa", state.Assistant, "kaisa-brandt"},
}

func demoCommand() *cobra.Command {
	var data, listen string
	c := &cobra.Command{Use: "demo", Short: "Serve the Lantern Street demo with a private database", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return runDemo(c.Context(), data, listen)
	}}
	c.Flags().StringVar(&data, "data", ".data", "folder for the private database")
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8080", "address to serve on; another port is taken when this one is not free")
	return c
}

func runDemo(ctx context.Context, data, listen string) error {
	return runPrivate(ctx, private{data: data, listen: listen, demo: true, prepare: loadDemo, announce: func(_ context.Context, _ *app.App, _ *store.Store, url, _ string) error {
		fmt.Printf("\n  Vereda, with the Lantern Street Grappling Hall:\n\n    %s\n\n", url)
		for _, x := range demoAccounts {
			fmt.Printf("    %-7s password %s   %s\n", x.signIn, demoPassword, x.role)
		}
		fmt.Printf("\n  Ctrl-C stops everything.\n\n")
		return nil
	}})
}

// loadDemo imports the demo academy when there is no academy yet, as of
// today, and makes the demo's accounts that are missing. Each is one act or
// none, so a start that was interrupted is made whole by the next.
func loadDemo(ctx context.Context, a *app.App, s *store.Store) error {
	all, err := s.Academies(ctx)
	if err != nil {
		return err
	}
	if len(all) == 0 {
		if err := importDemo(ctx, a); err != nil {
			return err
		}
	} else if !slices.Contains(all, demo.Academy) {
		return nil
	}
	for _, x := range demoAccounts {
		if _, err := s.AccountBySignIn(ctx, x.signIn); !errors.Is(err, store.ErrMissing) {
			if err != nil {
				return err
			}
			continue
		}
		if err := a.Accounts.AddAccount(ctx, demo.Academy, x.signIn, demoPassword, x.role, x.person); err != nil {
			return err
		}
	}
	return nil
}

func importDemo(ctx context.Context, a *app.App) error {
	now, err := clock()
	if err != nil {
		return err
	}
	z, err := zone()
	if err != nil {
		return err
	}
	b, err := life.Academy(calendar.DayOf(now().In(z)))
	if err != nil {
		return err
	}
	_, err = a.Academies.Import(ctx, b)
	return err
}

// listenOn listens on an address; when its port is taken and another one will
// do, on any free port.
func listenOn(address string, otherwise bool) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err == nil || !otherwise {
		if err != nil {
			return nil, fmt.Errorf("cannot serve on %s (%w): choose another with --listen", address, err)
		}
		return l, nil
	}
	host, _, splitErr := net.SplitHostPort(address)
	if splitErr != nil {
		return nil, fmt.Errorf("--listen %q is not an address such as 127.0.0.1:8080", address)
	}
	fmt.Printf("%s is taken; another port is used.\n", address)
	return net.Listen("tcp", net.JoinHostPort(host, "0"))
}

// serve answers until the context ends, then lets what is under way finish.
func serve(ctx context.Context, s *api.Server, l net.Listener) error {
	server := s.HTTP()
	server.RegisterOnShutdown(s.Stop)
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := server.Shutdown(end); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return nil
}
