// Package backup makes a whole copy of a shop's database while it is at work, and makes a database of one again.
// PostgreSQL's own tools dump and restore; what is in the file, and whether it is whole, is checked here.
package backup

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"time"

	"gallipot/internal/cluster"
	"gallipot/internal/core/chain"
	"gallipot/internal/store"

	"github.com/jackc/pgx/v5"
)

// Format is that of the file: a zip with the dump first and the manifest last, so that a file that was cut short has
// none.
const Format = 1

const (
	dumpName     = "book.dump"
	manifestName = "manifest.json"
)

// Manifest says what a backup holds.
type Manifest struct {
	Format  int              `json:"format"`
	Made    time.Time        `json:"made"`
	Version int64            `json:"version"` // of the tables: the last migration
	Head    string           `json:"head"`    // the last link of the chain, as SEQ:DIGEST; none in a shop from before
	Counts  map[string]int64 `json:"counts"`  // rows by table; who is signed in is left out
	Bytes   int64            `json:"bytes"`   // of the dump
	SHA256  string           `json:"sha256"`  // of the dump
}

// Made is a backup that was made.
type Made struct {
	Manifest
	File   string
	Size   int64
	Digest string // SHA-256 of the file
}

// ErrFull means that the disk has no room for a backup.
var ErrFull = errors.New("the disk is full: no backup was made, and nothing else was touched. Make room, or name " +
	"another disk")

// Make writes a backup of the database at an address into a file that is not there yet, readable by its owner alone.
// The shop may be at work meanwhile: the backup is of one moment. Errors: ErrFull; of PostgreSQL's tools in their own
// words.
func Make(ctx context.Context, url, file string, now time.Time) (Made, error) {
	if _, err := os.Lstat(file); err == nil {
		return Made{}, fmt.Errorf("%s is there already: a backup never takes the place of another file", file)
	} else if !errors.Is(err, fs.ErrNotExist) {
		return Made{}, err
	}
	part, err := os.OpenFile(file+".part", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return Made{}, fullOr(err)
	}
	defer os.Remove(part.Name()) // gone already where all went well
	whole := &counted{to: part, sum: sha256.New()}
	m, err := write(ctx, url, whole, now)
	if err = errors.Join(whole.err, err, part.Sync(), part.Close()); err != nil {
		return Made{}, fullOr(err)
	}
	if err := os.Rename(part.Name(), file); err != nil {
		return Made{}, err
	}
	return Made{m, file, whole.n, hex.EncodeToString(whole.sum.Sum(nil))}, nil
}

func fullOr(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) {
		return ErrFull
	}
	return err
}

// counted passes bytes on, counts them and takes their digest. It remembers why it could not: pg_dump only says that
// its pipe broke.
type counted struct {
	to  io.Writer
	sum hash.Hash
	n   int64
	err error
}

func (c *counted) Write(p []byte) (int, error) {
	n, err := c.to.Write(p)
	c.sum.Write(p[:n])
	c.n += int64(n)
	if c.err == nil {
		c.err = err
	}
	return n, err
}

func write(ctx context.Context, url string, to io.Writer, now time.Time) (Manifest, error) {
	snapshot, err := store.TakeSnapshot(ctx, url)
	if err != nil {
		return Manifest{}, err
	}
	defer snapshot.Close()
	z := zip.NewWriter(to)
	// The dump is compressed by pg_dump.
	inside, err := z.CreateHeader(&zip.FileHeader{Name: dumpName, Method: zip.Store, Modified: now})
	if err != nil {
		return Manifest{}, err
	}
	dump := &counted{to: inside, sum: sha256.New()}
	args := []string{"--format=custom", "--compress=1", "--no-owner", "--no-privileges", "--snapshot=" + snapshot.ID}
	for _, t := range store.LeftOut {
		args = append(args, "--exclude-table-data="+t)
	}
	if err := tool(ctx, url, "pg_dump", nil, dump, args...); err != nil {
		return Manifest{}, err
	}
	m := Manifest{Format: Format, Made: now.UTC().Truncate(time.Second), Version: snapshot.Version,
		Counts: snapshot.Counts, Bytes: dump.n,
		SHA256: hex.EncodeToString(dump.sum.Sum(nil))}
	if snapshot.Head.Seq > 0 {
		m.Head = snapshot.Head.String()
	}
	raw, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return m, err
	}
	last, err := z.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Deflate, Modified: now})
	if err == nil {
		_, err = last.Write(raw)
	}
	return m, errors.Join(err, z.Close())
}

// tool runs one of PostgreSQL's own on a database. The password goes by the environment, where other people of the
// machine do not see it.
func tool(ctx context.Context, url, name string, in io.Reader, out io.Writer, args ...string) error {
	bin, err := cluster.Tool(name)
	if err != nil {
		return err
	}
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return fmt.Errorf("address of the database: %w", err)
	}
	var said bytes.Buffer
	cmd := exec.CommandContext(ctx, bin, args...)
	// A restore builds every index, which goes faster with more memory.
	cmd.Env = append(os.Environ(), "PGOPTIONS=-c maintenance_work_mem=256MB", "PGHOST="+config.Host,
		"PGPORT="+strconv.Itoa(int(config.Port)), "PGUSER="+config.User,
		"PGPASSWORD="+config.Password, "PGDATABASE="+config.Database)
	if config.TLSConfig == nil {
		cmd.Env = append(cmd.Env, "PGSSLMODE=disable")
	}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, &said
	if err := cmd.Run(); err != nil {
		if said := strings.TrimSpace(said.String()); said != "" {
			return fmt.Errorf("%s: %w: %s", name, err, said)
		}
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}

// Read checks that a backup is whole and of a kind that this program knows, and returns its manifest. Nothing is
// changed by it.
func Read(file string) (Manifest, error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return Manifest{}, fmt.Errorf("there is no file %s", file)
		}
		return Manifest{}, fmt.Errorf("%s is no whole backup: it was cut short, or it is another kind of file (%w)",
			file, err)
	}
	defer z.Close()
	var m Manifest
	raw, err := fs.ReadFile(z, manifestName)
	if err == nil {
		err = json.Unmarshal(raw, &m)
	}
	if err != nil {
		return m, fmt.Errorf("%s is no backup: it has no manifest (%w)", file, err)
	}
	if m.Format > Format {
		return m, fmt.Errorf("%s was made by a newer Gallipot (format %d, this program reads up to %d); nothing was "+
			"changed. Restore it with the newer program", file, m.Format, Format)
	}
	if m.Version > store.Known() {
		return m, fmt.Errorf("%s holds a shop of a newer Gallipot (tables of number %d, this program knows them up to "+
			"%d); nothing was changed. Restore it with the newer program", file, m.Version, store.Known())
	}
	dump, err := z.Open(dumpName)
	if err != nil {
		return m, fmt.Errorf("%s is no backup: it has no dump (%w)", file, err)
	}
	defer dump.Close()
	sum := sha256.New()
	n, err := io.Copy(sum, dump)
	if err != nil || n != m.Bytes || hex.EncodeToString(sum.Sum(nil)) != m.SHA256 {
		return m, fmt.Errorf("%s is damaged: its dump is not what its manifest says; nothing was changed", file)
	}
	return m, nil
}

// Restore makes a shop of a backup in an empty database, as the role that is to own it, and compares what came with
// the manifest. Errors: a file that is not whole, a database that is not empty; nothing is changed then.
func Restore(ctx context.Context, url, file string) (Manifest, error) {
	m, err := Read(file)
	if err != nil {
		return m, err
	}
	empty, err := store.IsEmpty(ctx, url)
	if err != nil {
		return m, err
	}
	if !empty {
		return m, errors.New("there is a shop already where the backup is to go; nothing was changed. A backup is " +
			"restored into an empty database or an empty folder")
	}
	z, err := zip.OpenReader(file)
	if err != nil {
		return m, err
	}
	defer z.Close()
	dump, err := z.Open(dumpName)
	if err != nil {
		return m, err
	}
	defer dump.Close()
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return m, fmt.Errorf("address of the database: %w", err)
	}
	if err := tool(ctx, url, "pg_restore", dump, io.Discard, "--no-owner", "--no-privileges", "--single-transaction",
		"--exit-on-error", "--dbname="+config.Database); err != nil {
		return m, fmt.Errorf("nothing was restored: %w", err)
	}
	if err := same(ctx, url, m); err != nil {
		return m, errors.Join(fmt.Errorf("nothing was restored: %w", err), store.Empty(ctx, url))
	}
	return m, nil
}

// same compares what stands in a database with a manifest.
func same(ctx context.Context, url string, m Manifest) error {
	is, err := store.TakeSnapshot(ctx, url)
	if err != nil {
		return err
	}
	defer is.Close()
	for table, n := range m.Counts {
		if is.Counts[table] != n {
			return fmt.Errorf("the manifest counts %d rows of %s, and %d came", n, table, is.Counts[table])
		}
	}
	if m.Head == "" {
		return nil
	}
	head, err := chain.ParseHead(m.Head)
	if err == nil && head != is.Head {
		err = fmt.Errorf("the manifest's head is %s, and the book's is %s", head, is.Head)
	}
	return err
}
