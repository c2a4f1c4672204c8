package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"vereda/app/academies"
	"vereda/store/files"
)

func backupCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "backup FILE", Short: "Write one file with everything, attached files and accounts too, as of one moment", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		a, s, err := openPrivate(c.Context(), data)
		if err != nil {
			return err
		}
		defer s.Close()
		if _, err := os.Stat(args[0]); err == nil {
			return fmt.Errorf("%s is there already: name another file", args[0])
		}
		m, err := a.Academies.Backup(c.Context(), args[0])
		if err != nil {
			return err
		}
		rows := 0
		for _, n := range m.Tables {
			rows += n
		}
		fmt.Printf("Wrote %s: %d rows of %d tables. It holds passwords' hashes and health notes: keep it where nobody else reads it.\n", args[0], rows, len(m.Tables))
		return nil
	}}
	c.Flags().StringVar(&data, "data", filepath.Join(".data", "academy"), "folder of the private database, while VEREDA_DSN is not set")
	return c
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{Use: "restore FILE", Short: "Fill the empty database named in VEREDA_DSN with a backup", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		dsn := os.Getenv("VEREDA_DSN")
		if dsn == "" {
			return errors.New("VEREDA_DSN is not set: name the empty database as user:password@tcp(host:3306)/name; a private one is restored by vereda start --restore FILE into a new --data folder")
		}
		folder, err := attachmentsFolder()
		if err != nil {
			return err
		}
		kept, err := files.Open(folder)
		if err != nil {
			return err
		}
		defer kept.Close()
		m, err := academies.Restore(c.Context(), dsn, kept, args[0])
		if err != nil {
			return fmt.Errorf("nothing was restored: %w", err)
		}
		fmt.Printf("Restored the backup of %s. vereda rebuild looks whether its log is whole.\n", m.Made.Local().Format("2 Jan 2006 15:04"))
		return nil
	}}
}
