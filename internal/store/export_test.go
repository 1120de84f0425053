package store

import (
	"context"
	"database/sql"
	"io/fs"

	"github.com/pressly/goose/v3"
)

// Exec runs raw SQL, so that tests can try what the program never does.
func (s *Store) Exec(sql string) error { return translate(s.db.Exec(sql).Error) }

// MigrateTo brings an empty database to the schema of an earlier program.
func MigrateTo(ctx context.Context, db *sql.DB, version int64) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, dir)
	if err != nil {
		return err
	}
	_, err = p.UpTo(ctx, version)
	return err
}

// InParts has the chain followed so many links at a time, until the test ends.
func InParts(t interface{ Cleanup(func()) }, links int64) {
	was := linksAtOnce
	linksAtOnce = links
	t.Cleanup(func() { linksAtOnce = was })
}
