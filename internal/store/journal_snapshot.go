package store

import (
	"context"
	"fmt"
	"slices"

	"gallipot/internal/core/chain"

	"github.com/jackc/pgx/v5"
)

// Snapshot is one state of a database that others can read too while it is open: what a backup is made of.
type Snapshot struct {
	ID      string           // by which pg_dump reads the same state
	Version int64            // of the tables: the last migration
	Counts  map[string]int64 // rows, by table
	Head    chain.Head
	conn    *pgx.Conn
}

// LeftOut are the tables whose rows stay out of a backup: whoever is signed in, and addresses that sign in once.
var LeftOut = []string{"sessions", "single_sign_ins"}

// TakeSnapshot opens one. The caller closes it.
func TakeSnapshot(ctx context.Context, url string) (*Snapshot, error) {
	config, err := configOf(url)
	if err != nil {
		return nil, err
	}
	c, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return nil, translate(err)
	}
	s := &Snapshot{conn: c}
	if err := s.read(ctx); err != nil {
		s.Close()
		return nil, translate(err)
	}
	return s, nil
}

// Close lets go of the state.
func (s *Snapshot) Close() { _ = s.conn.Close(context.Background()) } // it only read

func (s *Snapshot) read(ctx context.Context) (err error) {
	if _, err := s.conn.Exec(ctx, query("reads_begin")); err != nil {
		return err
	}
	if err := s.conn.QueryRow(ctx, query("snapshot_taken")).Scan(&s.ID); err != nil {
		return err
	}
	if err := s.conn.QueryRow(ctx, query("tables_version")).Scan(&s.Version); err != nil {
		return err
	}
	if s.Counts, err = countsOf(ctx, s.conn); err != nil {
		return err
	}
	if _, ok := s.Counts["chain"]; ok { // a shop from before has none
		s.Head, err = headOf(ctx, s.conn)
	}
	return err
}

// tablesOf lists the tables of a database, none where it is empty.
func tablesOf(ctx context.Context, c *pgx.Conn) ([]string, error) {
	rows, err := c.Query(ctx, query("tables_there"))
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

func countsOf(ctx context.Context, c *pgx.Conn) (map[string]int64, error) {
	tables, err := tablesOf(ctx, c)
	if err != nil {
		return nil, err
	}
	out := map[string]int64{}
	for _, t := range tables {
		if slices.Contains(LeftOut, t) {
			continue
		}
		var n int64
		if err := c.QueryRow(ctx, with("count_rows", "{{table}}", pgx.Identifier{t}.Sanitize())).Scan(&n); err != nil {
			return nil, err
		}
		out[t] = n
	}
	return out, nil
}

// IsEmpty reports whether a database holds no table yet.
func IsEmpty(ctx context.Context, url string) (bool, error) {
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return false, translate(err)
	}
	defer c.Close(ctx)
	tables, err := tablesOf(ctx, c)
	return len(tables) == 0, translate(err)
}

// Empty throws away whatever a database holds, after a restore that did not come out right.
func Empty(ctx context.Context, url string) error {
	c, err := pgx.Connect(ctx, url)
	if err != nil {
		return translate(err)
	}
	defer c.Close(ctx)
	_, err = c.Exec(ctx, query("emptied"))
	return translate(err)
}

// Known is the number of the tables that this program knows.
func Known() int64 {
	files, err := migrations.ReadDir("migrations")
	if err != nil {
		panic(fmt.Sprintf("the embedded migrations: %v", err)) // they are compiled in
	}
	return int64(len(files))
}
