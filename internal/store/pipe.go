package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"gallipot/internal/app"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// pipe is the connection of a transaction on which statements may wait, to be sent with the next one in one exchange
// with the database. Their errors come out there.
type pipe struct {
	conn  *sql.Conn
	waits pgx.Batch
}

// send sends what waits and reads the answers in turn.
func (p *pipe) send(ctx context.Context) error {
	if p.waits.Len() == 0 {
		return nil
	}
	waits := p.waits
	p.waits = pgx.Batch{}
	return p.conn.Raw(func(driver any) error {
		c, is := driver.(*stdlib.Conn)
		if !is {
			return fmt.Errorf("%T is no connection of pgx", driver)
		}
		return c.Conn().SendBatch(ctx, &waits).Close()
	})
}

// The four statements of gorm's pool of connections: each sends first what waits.

func (p *pipe) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	if err := p.send(ctx); err != nil {
		return nil, err
	}
	return p.conn.ExecContext(ctx, query, args...)
}

func (p *pipe) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	if err := p.send(ctx); err != nil {
		return nil, err
	}
	return p.conn.QueryContext(ctx, query, args...)
}

func (p *pipe) PrepareContext(ctx context.Context, query string) (*sql.Stmt, error) {
	if err := p.send(ctx); err != nil {
		return nil, err
	}
	return p.conn.PrepareContext(ctx, query)
}

// QueryRowContext has no way to tell the error of what waited: the transaction it broke refuses the row.
func (p *pipe) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	_ = p.send(ctx)
	return p.conn.QueryRowContext(ctx, query, args...)
}

// begin opens the transaction at once: a connection that broke in the pool shows here.
func (p *pipe) begin(ctx context.Context) error {
	_, err := p.conn.ExecContext(ctx, "BEGIN")
	return err
}

// commit ends the transaction in the exchange with what waits. Where one of them fails it is not reached.
func (p *pipe) commit(ctx context.Context) error {
	p.waits.Queue("COMMIT")
	return p.send(ctx)
}

// undo gives up the transaction, also where its context is over. A connection that cannot even do that is not used
// again: the pool meets its open transaction.
func (p *pipe) undo(ctx context.Context) {
	const patience = 5 * time.Second
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience)
	defer cancel()
	_, _ = p.conn.ExecContext(ctx, "ROLLBACK")
}

// piped runs f in a transaction on a pipe. Where the pool hands out a connection that broke meanwhile it takes another.
func piped(db *gorm.DB, f func(tx *gorm.DB, p *pipe) error) error {
	const tries = 3
	var err error
	for range tries {
		began := false
		err = db.Connection(func(one *gorm.DB) error {
			conn, is := one.Statement.ConnPool.(*sql.Conn)
			if !is {
				return fmt.Errorf("%T is no connection", one.Statement.ConnPool)
			}
			p := &pipe{conn: conn}
			if err := p.begin(one.Statement.Context); err != nil {
				return err
			}
			began = true
			return p.run(one, f)
		})
		if began || !errors.Is(translate(err), app.ErrAway) {
			return err
		}
	}
	return err
}

// run does f in the transaction that was begun, and ends it.
func (p *pipe) run(db *gorm.DB, f func(tx *gorm.DB, p *pipe) error) error {
	done := false
	defer func() {
		if !done {
			p.undo(db.Statement.Context)
		}
	}()
	tx := db.Session(&gorm.Session{NewDB: true})
	tx.Statement.ConnPool = p
	err := f(tx, p)
	if err == nil {
		err = p.commit(db.Statement.Context)
	}
	done = err == nil
	return err
}

// later has what write does wait for the next statement of the transaction, or its end.
func (s *Store) later(write func(*gorm.DB) *gorm.DB) error {
	p, is := s.db.Statement.ConnPool.(*pipe)
	if !is {
		return translate(write(s.db).Error)
	}
	made := write(s.db.Session(&gorm.Session{DryRun: true}))
	if made.Error != nil {
		return translate(made.Error)
	}
	p.waits.Queue(made.Statement.SQL.String(), made.Statement.Vars...)
	return nil
}

// exec has a statement wait like that.
func (s *Store) exec(query string, args ...any) error {
	return s.later(func(db *gorm.DB) *gorm.DB { return db.Exec(query, args...) })
}

// collect has the rows of a statement that waits in a pipe read into a list.
func collect[T any](p *pipe, into *[]T, query string, args ...any) {
	p.waits.Queue(query, args...).Query(func(rows pgx.Rows) error {
		var err error
		*into, err = pgx.CollectRows(rows, pgx.RowToStructByNameLax[T])
		return err
	})
}

// each turns rows into what they are.
func each[R, T any](rows []R, domain func(R) (T, error)) ([]T, error) {
	out := make([]T, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = domain(r); err != nil {
			return nil, err
		}
	}
	return out, nil
}
