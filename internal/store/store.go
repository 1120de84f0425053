// Package store keeps everything in PostgreSQL through GORM: one file an area, migrations as numbered SQL.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"gallipot/internal/app"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/pressly/goose/v3"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is a connection to the database, or a transaction in it.
type Store struct{ db *gorm.DB }

// Open connects and migrates.
func Open(ctx context.Context, url string) (*Store, error) {
	db, err := gorm.Open(postgres.Open(url), &gorm.Config{Logger: logger.Discard, TranslateError: false, SkipDefaultTransaction: true, PrepareStmt: true})
	if err != nil {
		return nil, fmt.Errorf("open database: %w", err)
	}
	raw, err := db.DB()
	if err != nil {
		return nil, fmt.Errorf("open database: %w", err)
	}
	raw.SetMaxOpenConns(16)
	raw.SetMaxIdleConns(16)
	if err := migrate(ctx, raw); err != nil {
		return nil, err
	}
	return &Store{db}, nil
}

func migrate(ctx context.Context, raw *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	p, err := goose.NewProvider(goose.DialectPostgres, raw, dir)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	done, err := p.Up(ctx)
	if err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	for _, r := range done {
		slog.Info("migrated", "file", r.Source.Path, "took", r.Duration.Round(time.Millisecond))
	}
	return nil
}

// Close ends all connections.
func (s *Store) Close() error {
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	return raw.Close()
}

// In runs f in one transaction; an error rolls everything back.
func (s *Store) In(ctx context.Context, f func(app.Store) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return f(&Store{tx}) })
}

// With binds the store to a context.
func (s *Store) With(ctx context.Context) app.Store { return &Store{s.db.WithContext(ctx)} }

// translate maps what the database says to the errors of this package.
func translate(err error) error {
	if err == nil {
		return nil
	}
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return app.ErrNotFound
	}
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return err
	}
	switch pg.Code {
	case "23505":
		return fmt.Errorf("%w (%s)", app.ErrTaken, pg.ConstraintName)
	case "23503":
		return fmt.Errorf("%w (%s)", app.ErrInUse, pg.ConstraintName)
	case "23001":
		return app.ErrLocked
	}
	return err
}

// changedOne turns an update that met no row of the expected revision into ErrConflict.
func changedOne(tx *gorm.DB) error {
	if tx.Error != nil {
		return translate(tx.Error)
	}
	if tx.RowsAffected == 0 {
		return app.ErrConflict
	}
	return nil
}
