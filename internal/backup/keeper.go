package backup

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
)

// Keeper makes the backups of a shop in a folder.
type Keeper struct {
	URL       string // for a role that may read everything
	Dir       string
	EachNight bool
}

// Folder is where they are put.
func (k Keeper) Folder() string { return k.Dir }

// Nightly reports whether one is made each night.
func (k Keeper) Nightly() bool { return k.EachNight }

// Open opens one of the folder by its name. Errors: kernel.ErrNotFound.
func (k Keeper) Open(name string) (io.ReadSeekCloser, error) {
	if filepath.Base(name) != name {
		return nil, kernel.ErrNotFound
	}
	f, err := os.Open(filepath.Join(k.Dir, name))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, kernel.ErrNotFound
	}
	return f, err
}

// Make makes a backup that somebody asked for.
func (k Keeper) Make(ctx context.Context, by string) (kernel.Backup, error) {
	return k.make(ctx, "gallipot-", by)
}

// MakeNightly makes the backup of a night.
func (k Keeper) MakeNightly(ctx context.Context) (kernel.Backup, error) {
	return k.make(ctx, nightly, kernel.TheProgram.Name)
}

func (k Keeper) make(ctx context.Context, prefix, by string) (kernel.Backup, error) {
	if err := os.MkdirAll(k.Dir, 0o700); err != nil {
		return kernel.Backup{}, kernel.Refuse("no_folder", "The folder of backups %s cannot be made: %v.", k.Dir, err)
	}
	now := time.Now()
	name := prefix + now.UTC().Format(stamp) + ".backup"
	made, err := Make(ctx, k.URL, filepath.Join(k.Dir, name), now)
	if errors.Is(err, ErrFull) {
		return kernel.Backup{}, kernel.Refuse("full", "The disk is full: no backup was made, and nothing else was "+
			"touched. Make room, or have the folder of backups put on another disk.")
	}
	if err != nil && !errors.Is(err, kernel.ErrAway) && !errors.Is(err, kernel.ErrTimeout) {
		return kernel.Backup{}, kernel.Refuse("no_backup", "No backup was made, and nothing else was touched: %v.", err)
	}
	if err != nil {
		return kernel.Backup{}, err
	}
	return kernel.Backup{At: made.Made, By: by, File: name, Bytes: made.Size, Head: made.Head, SHA256: made.Digest}, nil
}

// stamp is the time in the name of a backup, so fine that no two have the same.
const stamp = "2006-01-02T150405.000Z"

// nightly is how the names of backups begin that are made by themselves.
const nightly = "gallipot-nightly-"

// Kept is how many of those are kept.
const Kept = 14

// Prune takes away the oldest nightly backups of the folder but for the last ones. Others are left.
func (k Keeper) Prune() error {
	files, err := filepath.Glob(filepath.Join(k.Dir, nightly+"*.backup"))
	if err != nil || len(files) <= Kept {
		return err
	}
	// Their names are their times, and Glob sorts them.
	for _, f := range files[:len(files)-Kept] {
		err = errors.Join(err, os.Remove(f))
	}
	return err
}

// LastNightly is when the newest nightly backup of the folder was made; the zero time where there is none.
func (k Keeper) LastNightly() (time.Time, error) {
	files, err := filepath.Glob(filepath.Join(k.Dir, nightly+"*.backup"))
	if err != nil || len(files) == 0 {
		return time.Time{}, err
	}
	name := filepath.Base(files[len(files)-1])
	return time.Parse(stamp, strings.TrimSuffix(strings.TrimPrefix(name, nightly), ".backup"))
}
