package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"vereda/app"
	"vereda/app/accounts"
	"vereda/app/state"
	"vereda/store"
)

// accountCommand looks after accounts from the command line: for whoever runs the server, when nobody can sign in.
func accountCommand() *cobra.Command {
	c := &cobra.Command{Use: "account", Short: "Add, reset or list accounts, on VEREDA_DSN or the private database of a running vereda start"}
	var data string
	c.PersistentFlags().StringVar(&data, "data", filepath.Join(".data", "academy"), "folder of the private database, while VEREDA_DSN is not set")
	with := func(do func(ctx context.Context, a *app.App, s *store.Store, args []string) error) func(*cobra.Command, []string) error {
		return func(c *cobra.Command, args []string) error {
			a, s, err := openPrivate(c.Context(), data)
			if err != nil {
				return err
			}
			defer s.Close()
			a.Accounts.URL = cmp.Or(strings.TrimSuffix(os.Getenv("VEREDA_URL"), "/"), "http://127.0.0.1:8080")
			return do(c.Context(), a, s, args)
		}
	}
	var academyID, role, person, email string
	add := &cobra.Command{Use: "add NAME", Short: "Make an account and print the address by which its password is set", Args: cobra.ExactArgs(1), RunE: with(func(ctx context.Context, a *app.App, s *store.Store, args []string) error {
		id, err := oneAcademy(ctx, s, academyID)
		if err != nil {
			return err
		}
		var roles []state.Role
		for _, r := range strings.Split(role, ",") {
			roles = append(roles, state.Role(strings.TrimSpace(r)))
		}
		in, err := a.Accounts.Invite(ctx, operator(id), accounts.Wish{SignIn: args[0], Person: person, Email: email, Roles: roles})
		if err != nil {
			return err
		}
		fmt.Printf("Set the password here, until %s; this address opens once:\n%s\n", in.Until.Local().Format("2 Jan 15:04"), in.Address)
		return nil
	})}
	add.Flags().StringVar(&academyID, "academy", "", "the academy's identifier; may be left out while there is one")
	add.Flags().StringVar(&role, "role", "head instructor", "one or more of head instructor, coach, assistant, front desk, student, guardian, between commas")
	add.Flags().StringVar(&person, "person", "", "whose account it is: the identifier of the person's record")
	add.Flags().StringVar(&email, "email", "", "where letters to it go")
	reset := &cobra.Command{Use: "reset NAME", Short: "Print an address by which another password is set; the second factor is removed", Args: cobra.ExactArgs(1), RunE: with(func(ctx context.Context, a *app.App, s *store.Store, args []string) error {
		account, err := s.AccountBySignIn(ctx, strings.ToLower(args[0]))
		if errors.Is(err, store.ErrMissing) {
			return fmt.Errorf("nobody signs in as %q: vereda account list names them", args[0])
		}
		if err != nil {
			return err
		}
		if err := a.Accounts.ResetSecondFactor(ctx, operator(account.Academy), account.ID); err != nil {
			return err
		}
		in, err := a.Accounts.InviteAgain(ctx, operator(account.Academy), account.ID)
		if err != nil {
			return err
		}
		fmt.Printf("Set another password here, until %s; this address opens once:\n%s\n", in.Until.Local().Format("2 Jan 15:04"), in.Address)
		return nil
	})}
	list := &cobra.Command{Use: "list", Short: "List who can sign in", Args: cobra.NoArgs, RunE: with(func(ctx context.Context, _ *app.App, s *store.Store, _ []string) error {
		all, seen, err := s.Accounts(ctx, "")
		if err != nil {
			return err
		}
		w := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', 0)
		fmt.Fprintln(w, "NAME\tACADEMY\tROLES\tPERSON\tSTATE\tSECOND FACTOR\tLAST SIGNED IN")
		for _, x := range all {
			state, factor, last := "open", "no", "never"
			switch {
			case x.Closed != nil:
				state = "closed"
			case x.Password == "":
				state = "invited"
			}
			if x.Since != nil {
				factor = "yes"
			}
			if at, ok := seen[x.ID]; ok {
				last = at.Local().Format("2006-01-02 15:04")
			}
			fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\t%s\t%s\n", x.SignIn, x.Academy, strings.Join(x.Roles, ", "), cmp.Or(x.Person, "-"), state, factor, last)
		}
		return w.Flush()
	})}
	c.AddCommand(add, reset, list)
	return c
}

// operator is whoever runs the server, for the log.
func operator(academy string) state.User {
	return state.User{Academy: academy, Name: "the server's operator", Roles: []state.Role{state.Head}, Person: state.PlacePrefix + "operator"}
}

func oneAcademy(ctx context.Context, s *store.Store, id string) (string, error) {
	all, err := s.Academies(ctx)
	switch {
	case err != nil:
		return "", err
	case id == "" && len(all) == 1:
		return all[0], nil
	case id == "":
		return "", fmt.Errorf("there are %d academies (%s): name one with --academy", len(all), strings.Join(all, ", "))
	}
	for _, x := range all {
		if x == id {
			return id, nil
		}
	}
	return "", fmt.Errorf("there is no academy %q", id)
}

// openPrivate opens VEREDA_DSN, or the private database that runs in a folder.
func openPrivate(ctx context.Context, data string) (*app.App, *store.Store, error) {
	if os.Getenv("VEREDA_DSN") != "" {
		return open(ctx)
	}
	text, err := os.ReadFile(filepath.Join(data, dsnFile))
	if err != nil {
		return nil, nil, fmt.Errorf("no database: set VEREDA_DSN, or name the folder of a running vereda start with --data (%w)", err)
	}
	return connect(ctx, store.Open, strings.TrimSpace(string(text)), cmp.Or(os.Getenv("VEREDA_FILES"), filepath.Join(data, "files")))
}
