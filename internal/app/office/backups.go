package office

import (
	"context"
	"fmt"
	"io"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/people"
)

// BackupKeeper makes backups of the database that the program runs on and finds them again.
type BackupKeeper interface {
	// Make makes one and says where it lies, how large it is, its head and its digest.
	Make(ctx context.Context, by string) (kernel.Backup, error)
	// Open opens one of its folder by its name. Errors: kernel.ErrNotFound.
	Open(name string) (io.ReadSeekCloser, error)
	Folder() string
	Nightly() bool // whether one is made each night
}

// BackupsView says how the book is kept safe.
type BackupsView struct {
	Folder      string          `json:"folder"`
	Nightly     bool            `json:"nightly"`
	Made        []kernel.Backup `json:"made"`        // the newest first
	Old         string          `json:"old"`         // what is to be said of the last one's age; empty: nothing
	Unprotected string          `json:"unprotected"` // why the program could change the record; empty: it cannot
	Since       time.Time       `json:"since"`       // from when on the book proves itself
	Head        string          `json:"head"`        // the last link of the chain
}

// Health says whether the database answers, and whether the record is protected from the program.
func (a *Room) Health(ctx context.Context) (unprotected string, err error) {
	return a.On(ctx).Unprotected()
}

// oldAfter is the age at which the last backup is told to be old (handbook 12).
const oldAfter = 48 * time.Hour

const mostBackups = 20

// Backups tells an owner how the book is kept safe.
func (a *Room) Backups(ctx context.Context) (BackupsView, error) {
	out := BackupsView{}
	if err := kernel.May(ctx, people.Owner, "Keeping backups"); err != nil {
		return out, err
	}
	st := a.On(ctx)
	made, err := st.Backups(mostBackups)
	if err != nil {
		return out, err
	}
	out.Made = made
	if a.Keeper != nil {
		out.Folder, out.Nightly = a.Keeper.Folder(), a.Keeper.Nightly()
	}
	if out.Since, err = st.ChainBegun(); err != nil {
		return out, err
	}
	if out.Head, err = st.ChainHead(); err != nil {
		return out, err
	}
	if out.Unprotected, err = st.Unprotected(); err != nil {
		return out, err
	}
	out.Old = a.oldBackup(made, out.Since)
	return out, nil
}

// oldBackup says how old the last backup is where it is older than two days.
func (a *Room) oldBackup(made []kernel.Backup, since time.Time) string {
	if len(made) == 0 {
		if a.Now().Sub(since) <= oldAfter {
			return ""
		}
		return "There is no backup of this shop yet."
	}
	age := a.Now().Sub(made[0].At)
	if age <= oldAfter {
		return ""
	}
	return fmt.Sprintf("The last backup is %d days old.", int(age.Hours()/24))
}

// NowInShop is the time of day where the shop is.
func (a *Room) NowInShop(ctx context.Context) (time.Time, error) {
	s, _, err := a.Settings(a.On(ctx))
	return a.TodayIn(s), err
}

// MakeBackup makes a backup now and notes who made it.
func (a *Room) MakeBackup(ctx context.Context) (kernel.Backup, error) {
	if err := kernel.May(ctx, people.Owner, "Making a backup"); err != nil {
		return kernel.Backup{}, err
	}
	if a.Keeper == nil {
		return kernel.Backup{}, kernel.Refuse("no_folder", "No folder is named for backups.")
	}
	b, err := a.Keeper.Make(ctx, kernel.Actor(ctx).Name)
	if err != nil {
		return b, err
	}
	return b, a.In(ctx, func(st kernel.Store) error { return st.AddBackup(&b) })
}

// OpenBackup opens the file of a backup for an owner. Errors: kernel.ErrNotFound where it is not in the folder any
// more.
func (a *Room) OpenBackup(ctx context.Context, id int64) (kernel.Backup, io.ReadSeekCloser, error) {
	if err := kernel.May(ctx, people.Owner, "Taking a backup away"); err != nil {
		return kernel.Backup{}, nil, err
	}
	made, err := a.On(ctx).Backups(mostBackups)
	if err != nil {
		return kernel.Backup{}, nil, err
	}
	for _, b := range made {
		if b.ID == id && a.Keeper != nil {
			f, err := a.Keeper.Open(b.File)
			return b, f, err
		}
	}
	return kernel.Backup{}, nil, kernel.ErrNotFound
}

// backupTask reminds of a backup where the last one is old.
func (a *Room) backupTask(out *kernel.TodayView, st kernel.Store) error {
	made, err := st.Backups(1)
	if err != nil {
		return err
	}
	since, err := st.ChainBegun()
	if err != nil {
		return err
	}
	if old := a.oldBackup(made, since); old != "" {
		out.Tasks = append(out.Tasks, kernel.Task{Kind: "backup", Level: "needs_you", Title: old,
			Text: "What is not backed up is gone with the disk. An owner makes one in Shop settings.",
			Link: "/shop#backups", When: "today"})
	}
	return nil
}
