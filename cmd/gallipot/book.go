package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/backup"
	"gallipot/internal/cluster"
	"gallipot/internal/core/chain"
	"gallipot/internal/store"
)

// shopFolder is the flag that names the folder of a demo; without it the database is that of the environment.
func shopFolder(flags *flag.FlagSet) *string {
	return flags.String("dir", "", "folder of a demo, as in var; without it the database of DATABASE_URL is meant")
}

// onDatabase calls f with the addresses of a shop's database: that of a demo's folder, running or not, or that of the
// environment.
func onDatabase(ctx context.Context, dir string, f func(store.Addresses) error) error {
	if dir == "" {
		at := configured()
		if at.App == "" {
			return errors.New("set DATABASE_URL to a PostgreSQL database, or name a demo's folder with -dir")
		}
		return f(at)
	}
	folder := filepath.Join(dir, "postgres")
	app, owner, ok, err := cluster.At(folder)
	if err != nil {
		return err
	}
	if ok {
		return f(store.Addresses{App: app, Migrate: owner})
	}
	if !cluster.Holds(folder) {
		return fmt.Errorf("there is no shop in %s", dir)
	}
	pg, err := cluster.Start(ctx, folder)
	if err != nil {
		return err
	}
	defer pg.Stop()
	return f(addresses(pg))
}

// runVerify reads the whole book against itself, and against heads that stand elsewhere.
func runVerify(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("verify", flag.ContinueOnError)
	dir := shopFolder(flags)
	head := flags.String("head", "", "SEQ:DIGEST from a printed batch record, a backup or a head file")
	if err := flags.Parse(args); err != nil {
		return err
	}
	var heads []chain.Head
	if *head != "" {
		h, err := chain.ParseHead(*head)
		if err != nil {
			return err
		}
		heads = append(heads, h)
	}
	return onDatabase(ctx, *dir, func(at store.Addresses) error {
		file := headFileOf(*dir, at.App)
		if h, ok, err := file.read(); err != nil {
			return err
		} else if ok {
			heads = append(heads, h)
			fmt.Fprintf(out, "Held against the head in %s too.\n", file)
		}
		v, err := store.Verify(ctx, at.App, heads...)
		if err != nil {
			return err
		}
		return tellVerified(v, out)
	})
}

func tellVerified(v store.Verified, out io.Writer) error {
	if len(v.Faults) > 0 {
		fmt.Fprintln(out, "The book does not verify. The first that does not fit:")
		for _, f := range v.Faults {
			fmt.Fprintln(out, "  "+f)
		}
		return errors.New("the book does not verify")
	}
	fmt.Fprintf(out, "The book verifies: %d links, %d rows of the journal, %d rows of record.\n", v.Links, v.Changes,
		v.Rows)
	if v.Begun > 1 {
		fmt.Fprintf(out, "It proves itself from link %d on, %s; what is older stands as it stood then.\n", v.Begun,
			v.Since.Local().Format("2 January 2006 15:04"))
	}
	fmt.Fprintf(out, "Head: %s\n", v.Head)
	return nil
}

// runRebuild works out anew where batches stand, of a book that verifies.
func runRebuild(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("rebuild", flag.ContinueOnError)
	dir := shopFolder(flags)
	if err := flags.Parse(args); err != nil {
		return err
	}
	return onDatabase(ctx, *dir, func(at store.Addresses) error {
		a, st, err := open(ctx, at)
		if err != nil {
			return err
		}
		defer st.Close()
		v, err := store.Verify(ctx, at.App)
		if err != nil {
			return err
		}
		if len(v.Faults) > 0 {
			return fmt.Errorf("nothing was rebuilt, because the book does not verify: %s. Restore a backup, or ask "+
				"whoever looks after the database", v.Faults[0])
		}
		n, err := a.Production.Rebuild(ctx)
		if err != nil {
			return err
		}
		fmt.Fprintf(out, "%d batches judged and counted anew\n", n)
		return nil
	})
}

// runBackup makes a backup of a shop that may be at work.
func runBackup(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("backup", flag.ContinueOnError)
	dir := shopFolder(flags)
	if err := flags.Parse(args); err != nil {
		return err
	}
	if flags.NArg() != 1 {
		return errors.New("backup: name the file it is to be written to")
	}
	file, err := filepath.Abs(flags.Arg(0))
	if err != nil {
		return err
	}
	return onDatabase(ctx, *dir, func(at store.Addresses) error {
		made, err := backup.Make(ctx, at.App, file, time.Now())
		if err != nil {
			return err
		}
		var rows int64
		for _, n := range made.Counts {
			rows += n
		}
		fmt.Fprintf(out, "%s: %d rows, %s\n", file, rows, sizeOf(made.Size))
		if made.Head == "" {
			return nil // a shop from before notes no backups
		}
		fmt.Fprintf(out, "Head: %s\n", made.Head)
		return noteBackup(ctx, at, made)
	})
}

// noteBackup writes down that a backup was made. A shop that is not of this program's tables yet is left as it is.
func noteBackup(ctx context.Context, at store.Addresses, made backup.Made) error {
	if made.Version != store.Known() {
		return nil
	}
	st, err := store.OpenAs(ctx, store.Addresses{App: at.App}, 1)
	if err != nil {
		return err
	}
	defer st.Close()
	return st.In(ctx, kernel.Stamp{By: kernel.TheProgram.Name, At: time.Now()}, func(tx kernel.Store) error {
		return tx.AddBackup(&kernel.Backup{At: made.Made, By: kernel.TheProgram.Name, File: made.File, Bytes: made.Size,
			Head: made.Head, SHA256: made.Digest})
	})
}

func sizeOf(n int64) string {
	switch {
	case n >= 1<<30:
		return fmt.Sprintf("%.1f GB", float64(n)/(1<<30))
	case n >= 1<<20:
		return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
	}
	return fmt.Sprintf("%d kB", (n+1023)>>10)
}

// runRestore makes a shop of a backup, in an empty folder or an empty database.
func runRestore(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("restore", flag.ContinueOnError)
	dir := shopFolder(flags)
	if err := flags.Parse(args); err != nil {
		return err
	}
	if flags.NArg() != 1 {
		return errors.New("restore: name the backup")
	}
	if _, err := backup.Read(flags.Arg(0)); err != nil { // before anything is made
		return err
	}
	var m backup.Manifest
	intoFolder := func(at store.Addresses) (err error) {
		owner := at.Migrate
		if owner == "" {
			owner = at.App
		}
		if m, err = backup.Restore(ctx, owner, flags.Arg(0)); err != nil {
			return err
		}
		// What the shop lacks of this program's tables, and what the application's role may do with them.
		st, err := store.OpenAs(ctx, at, 1)
		if err != nil {
			return err
		}
		return st.Close()
	}
	if err := restoreTo(ctx, *dir, intoFolder); err != nil {
		return err
	}
	var rows int64
	for _, n := range m.Counts {
		rows += n
	}
	fmt.Fprintf(out, "Restored %d rows of %d tables, of %s; they were counted, and the head is the manifest's.\n", rows,
		len(m.Counts), m.Made.Local().Format("2 January 2006 15:04"))
	if m.Head == "" {
		return nil
	}
	named := []string{"gallipot", "verify"}
	if *dir != "" {
		named = append(named, "-dir", *dir)
	}
	named = append(named, "-head", m.Head)
	fmt.Fprintf(out, "Now let the book prove itself:\n  %s\n", strings.Join(named, " "))
	return headFileOf(*dir, configured().App).write(m.Head)
}

// restoreTo calls f on an empty database: that of the environment, or a new one in an empty folder, which is taken away
// again where f fails.
func restoreTo(ctx context.Context, dir string, f func(store.Addresses) error) error {
	if dir == "" {
		return onDatabase(ctx, dir, f)
	}
	folder := filepath.Join(dir, "postgres")
	if cluster.Holds(folder) {
		return fmt.Errorf("there is a shop in %s already; nothing was changed. A backup is restored into an empty "+
			"folder", dir)
	}
	pg, err := cluster.Start(ctx, folder)
	if err != nil {
		return err
	}
	err = f(addresses(pg))
	pg.Stop()
	if err != nil {
		return errors.Join(err, cluster.Remove(folder))
	}
	return nil
}
