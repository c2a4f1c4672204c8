package app_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/app"
	"vereda/app/academies"
	"vereda/app/accounts"
	"vereda/app/people"
	"vereda/core/safety"
	"vereda/exchange"
	"vereda/internal/testkit"
	"vereda/store"
)

// A backup restored into an empty database is the same academy: records, log, accounts, files; and its log is whole.
func TestABackupIsTheWholeOfIt(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	ctx := t.Context()
	testkit.LoadAccounts(t, a)
	require.NoError(t, a.People.Hold(ctx, head, "oren-vask", people.NewHold{Regions: []safety.Region{"knee"}, Note: "“twisted” <on> Sunday – ō"}))
	_, err := a.People.Promote(ctx, head, nil, []people.RankDecision{{Student: "oren-vask", Outcome: "rank"}})
	require.NoError(t, err)
	folder := t.TempDir()
	file := filepath.Join(folder, "all.zip")
	m, err := a.Academies.Backup(ctx, file)
	require.NoError(t, err)
	assert.Positive(t, m.Tables["event"])
	assert.NotContains(t, m.Tables, "sessions", "who is signed in stays here")
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads it")

	dsn := testkit.Empty(t)
	kept := testkit.Files(t)
	_, err = academies.Restore(ctx, dsn, kept, file)
	require.NoError(t, err)
	s, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	defer s.Close()
	b := app.New(s, func() time.Time { return now }, time.UTC, kept)
	text := func(a *app.App) string {
		bundle, err := a.Academies.Export(ctx, head.Academy)
		require.NoError(t, err)
		out, err := exchange.Write(bundle)
		require.NoError(t, err)
		return string(out)
	}
	assert.True(t, text(a) == text(b), "given out, both are the same")
	held, anew, gaps, err := b.State.Reprojected(ctx, head.Academy)
	require.NoError(t, err)
	assert.Empty(t, gaps)
	assert.Empty(t, held.Differences(anew))
	in, err := b.Accounts.SignIn(ctx, accounts.Try{Name: "ines", Password: testkit.Password, Address: "here"})
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", in.User.Name)
	_, err = academies.Restore(ctx, dsn, kept, file)
	assert.ErrorIs(t, err, store.ErrNotEmpty, "it overwrites nothing")

	// What is not whole is refused, and nothing of it stays.
	torn := filepath.Join(folder, "torn.zip")
	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(torn, whole[:len(whole)/2], 0o600))
	other := testkit.Empty(t)
	_, err = academies.Restore(ctx, other, testkit.Files(t), torn)
	assert.ErrorContains(t, err, "cannot be read as a backup")
	_, err = academies.Restore(ctx, other, testkit.Files(t), file)
	assert.NoError(t, err)
}

// A backup that somebody's hand or a broken disk changed is refused, and nothing of it stays.
func TestABrokenBackupIsRefused(t *testing.T) {
	testkit.NothingAtOnce(t)
	a := open(t)
	folder := t.TempDir()
	file := filepath.Join(folder, "whole.zip")
	_, err := a.Academies.Backup(t.Context(), file)
	require.NoError(t, err)
	dsn, kept := testkit.Empty(t), testkit.Files(t)
	for name, change := range map[string]func(file string, text []byte) []byte{
		"lacks the table event": func(file string, text []byte) []byte {
			if file == "manifest.json" {
				return regexp.MustCompile(`"event":\d+,`).ReplaceAll(text, nil)
			}
			return text
		},
		"names 0 columns": func(file string, text []byte) []byte {
			if file == "tables/event.jsonl" {
				return []byte("[]\n[]\n")
			}
			return text
		},
		"has 1 values": func(file string, text []byte) []byte {
			if file == "tables/academy.jsonl" {
				head, _, _ := bytes.Cut(text, []byte("\n"))
				return append(head, []byte("\n[\"x\"]\n")...)
			}
			return text
		},
		"names a table \"nothing\"": func(file string, text []byte) []byte {
			if file == "manifest.json" {
				return bytes.Replace(text, []byte(`"tables":{`), []byte(`"tables":{"nothing":0,`), 1)
			}
			return text
		},
		"the backup is of version 0": func(file string, text []byte) []byte {
			if file == "manifest.json" {
				return regexp.MustCompile(`"schema":\d+`).ReplaceAll(text, []byte(`"schema":0`))
			}
			return text
		},
	} {
		broken := filepath.Join(folder, "broken.zip")
		rezip(t, file, broken, change)
		_, err := academies.Restore(t.Context(), dsn, kept, broken)
		assert.ErrorContains(t, err, name)
	}
	_, err = academies.Restore(t.Context(), dsn, kept, file)
	assert.NoError(t, err, "nothing of those stayed")
}

// rezip writes a zip again with its files changed.
func rezip(t *testing.T, from, to string, change func(file string, text []byte) []byte) {
	t.Helper()
	in, err := zip.OpenReader(from)
	require.NoError(t, err)
	defer in.Close()
	var b bytes.Buffer
	out := zip.NewWriter(&b)
	for _, f := range in.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		w, err := out.Create(f.Name)
		require.NoError(t, err)
		_, err = w.Write(change(f.Name, text))
		require.NoError(t, err)
	}
	require.NoError(t, out.Close())
	require.NoError(t, os.WriteFile(to, b.Bytes(), 0o600))
}

// The newest fourteen days are kept.
func TestDailyBackups(t *testing.T) {
	a, mara := begun(t)
	_ = mara
	folder := filepath.Join(t.TempDir(), "backups")
	require.NoError(t, os.MkdirAll(folder, 0o700))
	for day := 1; day <= 20; day++ {
		require.NoError(t, os.WriteFile(filepath.Join(folder, time.Date(2026, 10, day, 0, 0, 0, 0, time.UTC).Format("vereda-2006-01-02.zip")), nil, 0o600))
	}
	told := make(chan error, 1)
	go a.Academies.BackupDaily(t.Context(), folder, func(_ string, err error) { told <- err })
	require.NoError(t, <-told)
	all, err := filepath.Glob(filepath.Join(folder, "*"))
	require.NoError(t, err)
	require.Len(t, all, 14)
	assert.Equal(t, "vereda-2026-11-24.zip", filepath.Base(all[13]))
	assert.Equal(t, "vereda-2026-10-08.zip", filepath.Base(all[0]))
}
