// Package store keeps everything in PostgreSQL through GORM: one file an area, migrations as numbered SQL.
//
// SQL by hand stands in seven files, each for a reason:
//   - queries/locks.sql: locks, counters and the stamp of a transaction, for which GORM has no words;
//   - queries/capture.sql: what an act at the bench needs, in one exchange, because a hand waits for it;
//   - queries/sheet.sql: a sheet with all that lies under it in one exchange, read at each gram that is typed;
//   - queries/lists.sql: lists and counts over tens of thousands of batches, lots and entries;
//   - queries/trace.sql: the flow from lots to jars and back, which is recursive;
//   - queries/chain.sql: the book read against itself, and what the application's role may do with each table;
//   - insertion.go: inserts of a row type as one statement, made once, that waits for its exchange.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"strconv"
	"strings"
	"time"

	"gallipot/internal/app/kernel"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is a connection to the database, or a transaction in it.
type Store struct {
	db *gorm.DB
	at time.Time // of the stamp of its transaction; nothing else says what time it is
	by string    // of the same stamp: keys of acts are bound to who acts
}

// now is the time at which everything in the transaction happens.
func (s *Store) now() time.Time { return s.at }

// UsualConnections is how many connections a shop of a few people needs; each request takes one at a time.
const UsualConnections = 16

// What every connection asks of the database: time limits that it keeps by itself, whatever becomes of the program, and
// no compiling of statements, which are all short.
var asked = map[string]string{
	"jit":                                 "off",
	"statement_timeout":                   "25s",
	"lock_timeout":                        "10s",
	"idle_in_transaction_session_timeout": "30s",
}

const (
	connectTimeout  = 5 * time.Second
	startTimeout    = 30 * time.Second // at the start nobody waits for an answer yet
	connectionsLive = 30 * time.Minute
)

// Addresses are those of one database for two roles: App, which appends to the record and cannot change it, and
// Migrate, which owns the tables. The record is protected only where they are two.
type Addresses struct{ App, Migrate string }

// Open connects with at most so many connections and migrates, all of it as one role.
func Open(ctx context.Context, url string, connections int) (*Store, error) {
	return OpenAs(ctx, Addresses{url, url}, connections)
}

// OpenAs connects as one role with at most so many connections. Where the tables are not up to date, or the role may do
// other than it should, it puts that right as the role that owns them. Errors: NewerError.
func OpenAs(ctx context.Context, at Addresses, connections int) (*Store, error) {
	if at.Migrate == "" {
		at.Migrate = at.App
	}
	config, err := configOf(at.App)
	if err != nil {
		return nil, err
	}
	for name, limit := range asked {
		if _, set := config.RuntimeParams[name]; !set {
			config.RuntimeParams[name] = limit
		}
	}
	pool := stdlib.OpenDB(*config)
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	pool.SetConnMaxLifetime(connectionsLive)
	if err := upToDate(ctx, pool, at, config.User); err != nil {
		return nil, errors.Join(err, pool.Close())
	}
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: pool}),
		&gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true})
	if err != nil {
		return nil, errors.Join(fmt.Errorf("open database: %w", err), pool.Close())
	}
	return &Store{db: db}, nil
}

// upToDate asks over the program's own connection whether there is anything to migrate or to grant; mostly there is
// not.
func upToDate(ctx context.Context, pool *sql.DB, at Addresses, app string) error {
	is, err := versionOf(ctx, pool)
	if err != nil {
		return fmt.Errorf("open database: %w", err)
	}
	if is == Known() {
		if at.Migrate == at.App {
			return nil
		}
		if ok, err := protected(ctx, pool, app); err != nil || ok {
			return err
		}
	}
	return migrate(ctx, at.Migrate, app)
}

func configOf(url string) (*pgx.ConnConfig, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("open database: %w", err)
	}
	config.ConnectTimeout = connectTimeout
	return config, nil
}

// NewerError means that a newer program has written this database: this one would not know what it means.
type NewerError struct{ Is, Known int64 }

func (e NewerError) Error() string {
	return fmt.Sprintf("this database was written by a newer Gallipot (its tables are of number %d, this program "+
		"knows them up to %d); nothing was changed. Start the newer program", e.Is, e.Known)
}

// migrate brings the tables up to date, as the program, and says what another role may do with them. Migrations have
// no time limit: they pass once over all that a shop ever wrote.
func migrate(ctx context.Context, url, app string) error {
	config, err := configOf(url)
	if err != nil {
		return err
	}
	config.ConnectTimeout = startTimeout
	config.RuntimeParams["gallipot.by"] = kernel.TheProgram.Name
	raw := stdlib.OpenDB(*config)
	defer raw.Close()
	is, err := versionOf(ctx, raw)
	switch {
	case err != nil:
		return fmt.Errorf("migrate: %w", err)
	case is > Known():
		return NewerError{is, Known()}
	case is < Known():
		if err := oneByOne(ctx, raw); err != nil {
			return err
		}
	}
	if config.User == app {
		return nil
	}
	return protect(ctx, raw, app)
}

// versionOf is the number of a database's tables, 0 where it has none or the role may not see them yet.
func versionOf(ctx context.Context, raw *sql.DB) (is int64, err error) {
	var none *pgconn.PgError
	err = raw.QueryRowContext(ctx, query("tables_version")).Scan(&is)
	if errors.As(err, &none) && (none.Code == "42P01" || none.Code == "42501") {
		return 0, nil
	}
	return is, err
}

// oneByOne runs what is missing, under a lock: of several programs that start at once, one migrates.
func oneByOne(ctx context.Context, raw *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	p, err := goose.NewProvider(goose.DialectPostgres, raw, dir)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	c, err := raw.Conn(ctx)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	defer c.Close()
	if _, err := c.ExecContext(ctx, query("lock_migrations")); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	// Where it fails the lock goes with the connections, which the caller ends.
	defer func() { _, _ = c.ExecContext(ctx, query("unlock_migrations")) }()
	done, err := p.Up(ctx)
	if err != nil {
		return mayNot(err)
	}
	for _, r := range done {
		slog.Info("migrated", "file", r.Source.Path, "took", r.Duration.Round(time.Millisecond))
	}
	return nil
}

// mayNot says what to do where the role may not migrate.
func mayNot(err error) error {
	var denied *pgconn.PgError
	if errors.As(err, &denied) && denied.Code == "42501" {
		return fmt.Errorf("the tables are to be brought up to date, and this role may not: "+
			"set MIGRATE_DATABASE_URL to the role that owns them (%w)", err)
	}
	return fmt.Errorf("migrate: %w", err)
}

// Close ends all connections.
func (s *Store) Close() error {
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	return raw.Close()
}

// stamped says for the rest of a transaction who writes, when and why.
var stamped = query("stamped")

// In runs f in one transaction; an error rolls everything back. What is written in it is noted with the stamp's person
// and time; without a person nothing of record can be written.
func (s *Store) In(ctx context.Context, by kernel.Stamp, f func(kernel.Store) error) error {
	return translate(piped(s.db.WithContext(ctx), func(tx *gorm.DB, p *pipe) error {
		p.queue(stamped, by.By, by.At.Format(time.RFC3339Nano), by.Why)
		return f(&Store{tx, by.At, by.By})
	}))
}

// With binds the store to a context.
func (s *Store) With(ctx context.Context) kernel.Store { return &Store{db: s.db.WithContext(ctx)} }

// translate maps what the database says to the errors of this package.
func translate(err error) error {
	if err == nil || errors.Is(err, kernel.ErrUnsure) {
		return err
	}
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return kernel.ErrNotFound
	}
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return away(err)
	}
	switch pg.Code {
	case "53100":
		return fmt.Errorf("%w (%s)", kernel.ErrFull, pg.Message)
	case "57014", "55P03": // statement or lock timeout
		return fmt.Errorf("%w (%s)", kernel.ErrTimeout, pg.Message)
	case "57P01", "57P02", "57P03", "53300": // shutting down, crashed, starting up, no connection left
		return fmt.Errorf("%w (%s)", kernel.ErrAway, pg.Message)
	case "23505":
		return fmt.Errorf("%w (%s)", kernel.ErrTaken, pg.ConstraintName)
	case "23503":
		return fmt.Errorf("%w (%s)", kernel.ErrInUse, pg.ConstraintName)
	case "23001":
		return kernel.ErrLocked
	case "42501": // what the application's role may not do, whatever the program asks
		return fmt.Errorf("%w (%s)", kernel.ErrLocked, pg.Message)
	case "28000": // a write that names nobody
		return fmt.Errorf("%w (%s)", kernel.ErrNobody, pg.Message)
	}
	return err
}

// away tells a connection that broke, or could not be made, from other errors.
func away(err error) error {
	var connect *pgconn.ConnectError
	var network net.Error
	switch {
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return err
	case errors.As(err, &connect), errors.As(err, &network), errors.Is(err, driver.ErrBadConn),
		errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, sql.ErrConnDone),
		errors.Is(err, net.ErrClosed):
		return fmt.Errorf("%w (%w)", kernel.ErrAway, err)
	}
	return err
}

// unsure is the error of a statement that stores for good, once it was sent: unless the database said no, it may have
// stored it and broken off before it could say so.
func unsure(err error) error {
	var pg *pgconn.PgError
	if err == nil || errors.As(err, &pg) && !strings.HasPrefix(pg.Code, "57P") {
		return err
	}
	return fmt.Errorf("%w (%w)", kernel.ErrUnsure, err)
}

// retire takes rows out of use that are met and in use, with the reason. Errors: ErrConflict where there is none.
func retire(rows *gorm.DB, why string, by kernel.Stamp) error {
	return changedOne(rows.Where("retired_at IS NULL").Updates(map[string]any{"retired_at": by.At, "retired_by": by.By,
		"retired_why": why}))
}

// changedOne turns an update that met no row of the expected revision into ErrConflict.
func changedOne(tx *gorm.DB) error {
	if tx.Error != nil {
		return translate(tx.Error)
	}
	if tx.RowsAffected == 0 {
		return kernel.ErrConflict
	}
	return nil
}

// idList is a list of ids as one value, so that a statement reads the same however many there are, and its plan is
// kept.
type idList []int64

// Value writes it as an array.
func (l idList) Value() (driver.Value, error) {
	out := make([]string, len(l))
	for i, id := range l {
		out[i] = strconv.FormatInt(id, 10)
	}
	return "{" + strings.Join(out, ",") + "}", nil
}
