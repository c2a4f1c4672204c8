package academies

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"vereda/store"
	"vereda/store/files"
)

// Backup writes one file with everything of every academy: the tables as of one moment, and the attached files, which are never
// changed once they are kept. The file is there whole or not at all, and for nobody else to read.
func (a *Service) Backup(ctx context.Context, name string) (store.BackupManifest, error) {
	var m store.BackupManifest
	f, err := os.CreateTemp(filepath.Dir(name), ".backup-*") // 0600
	if err != nil {
		return m, err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	z := zip.NewWriter(f)
	if m, err = a.Store.Backup(ctx, z, a.Now()); err != nil {
		return m, err
	}
	academies, err := a.Store.Academies(ctx)
	if err != nil {
		return m, err
	}
	for _, id := range academies {
		err := a.Files.Each(ctx, id, func(digest string, content io.Reader) error {
			w, err := z.Create("files/" + url.PathEscape(id) + "/" + digest)
			if err != nil {
				return err
			}
			_, err = io.Copy(w, content)
			return err
		})
		if err != nil {
			return m, fmt.Errorf("the files of %s: %w", id, err)
		}
	}
	if err := errors.Join(z.Close(), f.Sync(), f.Close()); err != nil {
		return m, err
	}
	return m, os.Rename(f.Name(), name)
}

// Restore fills an empty database, and the place for attached files, with a backup.
func Restore(ctx context.Context, dsn string, kept *files.Files, name string) (store.BackupManifest, error) {
	z, err := zip.OpenReader(name)
	if err != nil {
		return store.BackupManifest{}, fmt.Errorf("%s cannot be read as a backup: %w", name, err)
	}
	defer z.Close()
	for _, f := range z.File {
		rest, ok := strings.CutPrefix(f.Name, "files/")
		if !ok {
			continue
		}
		academy, digest, _ := strings.Cut(rest, "/")
		id, err := url.PathUnescape(academy)
		if err != nil {
			return store.BackupManifest{}, fmt.Errorf("%s: %q is no file of a backup", name, f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return store.BackupManifest{}, err
		}
		k, err := kept.Put(id, r)
		r.Close()
		if err == nil && k.Digest != digest {
			err = errors.New("its content was damaged")
		}
		if err != nil {
			return store.BackupManifest{}, fmt.Errorf("%s: the file %s: %w", name, digest, err)
		}
	}
	return store.Restore(ctx, dsn, &z.Reader)
}

// backupsKept is how many daily backups are kept.
const backupsKept = 14

// BackupDaily writes a backup into a folder once a day, at the first chance of each day, and keeps the newest fourteen. It ends with the
// context; done is told of each.
func (a *Service) BackupDaily(ctx context.Context, folder string, done func(name string, err error)) {
	for {
		name := filepath.Join(folder, "vereda-"+a.Now().UTC().Format("2006-01-02")+".zip")
		if _, err := os.Stat(name); errors.Is(err, os.ErrNotExist) {
			err := os.MkdirAll(folder, 0o700)
			if err == nil {
				_, err = a.Backup(ctx, name)
			}
			if err == nil {
				err = sweepBackups(folder)
			}
			if ctx.Err() != nil {
				return
			}
			done(name, err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(15 * time.Minute):
		}
	}
}

// sweepBackups deletes all but the newest daily backups; their names sort by day.
func sweepBackups(folder string) error {
	all, err := filepath.Glob(filepath.Join(folder, "vereda-????-??-??.zip"))
	if err != nil {
		return err
	}
	for i := 0; i < len(all)-backupsKept; i++ { // Glob sorts
		if err := os.Remove(all[i]); err != nil {
			return err
		}
	}
	return nil
}
