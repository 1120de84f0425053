package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/backup"
	"gallipot/internal/core/chain"
	"gallipot/internal/store"

	"github.com/jackc/pgx/v5"
)

// stateFolder is where the program keeps what is to lie beside the database and not in it: what the service manager
// names, or the usual one of the user.
func stateFolder() string {
	if dir := os.Getenv("STATE_DIRECTORY"); dir != "" {
		return dir
	}
	if dir := os.Getenv("XDG_STATE_HOME"); dir != "" {
		return filepath.Join(dir, "gallipot")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "gallipot-state"
	}
	return filepath.Join(home, ".local", "state", "gallipot")
}

// headFile keeps the last link of a chain outside the database: whoever cuts the book or writes it anew there is found
// out by it.
type headFile string

// headFileOf is that of a demo's folder, or that of a database in the state folder.
func headFileOf(dir, url string) headFile {
	if dir != "" {
		return headFile(filepath.Join(dir, "head"))
	}
	name := "head"
	if config, err := pgx.ParseConfig(url); err == nil {
		name = strings.ReplaceAll(fmt.Sprintf("head-%s-%d-%s", config.Host, config.Port, config.Database), "/", "_")
	}
	return headFile(filepath.Join(stateFolder(), name))
}

// read returns the head that the file holds; ok is false where there is no file yet.
func (f headFile) read() (head chain.Head, ok bool, err error) {
	raw, err := os.ReadFile(string(f))
	if errors.Is(err, os.ErrNotExist) {
		return head, false, nil
	}
	if err != nil {
		return head, false, err
	}
	if head, err = chain.ParseHead(string(raw)); err != nil {
		return head, false, fmt.Errorf("%s: %w", f, err)
	}
	return head, true, nil
}

// write puts a head into the file, all of it or nothing.
func (f headFile) write(head string) error {
	if err := os.MkdirAll(filepath.Dir(string(f)), 0o700); err != nil {
		return err
	}
	part := string(f) + ".part"
	if err := os.WriteFile(part, []byte(head+"\n"), 0o644); err != nil {
		return err
	}
	return os.Rename(part, string(f))
}

// renew writes the head of today, if the book still holds the one that the file has. If it does not, the file stays:
// it is the only witness.
func (f headFile) renew(st *store.Store) error {
	before, ok, err := f.read()
	if err != nil {
		return err
	}
	if ok {
		there, err := st.Reaches(before)
		if err != nil {
			return err
		}
		if !there {
			return fmt.Errorf("the book does not hold the head of %s any more: it was cut off or written anew, or "+
				"an older backup was restored. Run `gallipot verify`; the file stays as it is", f)
		}
	}
	head, err := st.ChainHead()
	if err != nil {
		return err
	}
	return f.write(head)
}

// headEvery is how often the head file is renewed (handbook 12).
const headEvery = time.Minute

// keepHead renews the head file until the context ends, and once more then.
func keepHead(ctx context.Context, f headFile, st *store.Store) {
	said := ""
	renew := func() {
		if err := f.renew(st); err != nil && err.Error() != said {
			said = err.Error()
			slog.Error("head file", "error", err)
		}
	}
	renew()
	for {
		select {
		case <-ctx.Done():
			renew()
			return
		case <-time.After(headEvery):
			renew()
		}
	}
}

// nightlyHour is when the shop's night is deepest; lookEvery is how often it is looked whether it has come.
const (
	nightlyHour = 3
	lookEvery   = 5 * time.Minute
)

// keepNightly makes a backup each night, and one at once where there is none of last night.
func keepNightly(ctx context.Context, k backup.Keeper, a *app.App) {
	for {
		if err := tonight(ctx, k, a); err != nil && ctx.Err() == nil {
			slog.Error("nightly backup", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookEvery):
		}
	}
}

// tonight makes the backup of the night if it is due.
func tonight(ctx context.Context, k backup.Keeper, a *app.App) error {
	last, err := k.LastNightly()
	if err != nil {
		return err
	}
	now, err := a.Office.NowInShop(ctx)
	if err != nil || !last.Before(nightBefore(now)) {
		return err
	}
	b, err := k.MakeNightly(ctx)
	if err != nil {
		return err
	}
	slog.Info("nightly backup", "file", b.File, "bytes", b.Bytes)
	err = a.In(kernel.As(ctx, kernel.TheProgram), func(st kernel.Store) error { return st.AddBackup(&b) })
	return errors.Join(err, k.Prune())
}

// nightBefore is the last hour of the night that has come, in the zone of a time.
func nightBefore(now time.Time) time.Time {
	at := time.Date(now.Year(), now.Month(), now.Day(), nightlyHour, 0, 0, 0, now.Location())
	if at.After(now) {
		at = at.AddDate(0, 0, -1)
	}
	return at
}
