package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// pipe is a transaction's connection on which statements can be queued; they are sent together with the next statement,
// in one exchange with the database, and their errors are returned there. BEGIN is queued the same way.
type pipe struct {
	pool  *sql.DB
	conn  *sql.Conn
	waits []waiting
	sent  bool // something was
}

// waiting is a queued statement with the function that reads its rows.
type waiting struct {
	query string
	args  []any
	rows  func(pgx.Rows) error
}

func (p *pipe) queue(query string, args ...any) {
	p.waits = append(p.waits, waiting{query: query, args: args})
}

// send sends the queued statements and reads their answers in order. If the pool handed out a broken connection, the
// first exchange, which has no effect yet, is repeated on another one.
func (p *pipe) send(ctx context.Context) error {
	if len(p.waits) == 0 {
		return nil
	}
	waits := p.waits
	p.waits = nil
	err := p.exchange(ctx, waits)
	for tries := 2; tries > 0 && !p.sent && errors.Is(translate(err), kernel.ErrAway); tries-- {
		_ = p.conn.Close() // first: whoever else holds a broken one waits for it
		another, none := p.pool.Conn(ctx)
		if none != nil {
			return none
		}
		p.conn = another
		err = p.exchange(ctx, waits)
	}
	p.sent = true
	return err
}

func (p *pipe) exchange(ctx context.Context, waits []waiting) error {
	var batch pgx.Batch
	for _, w := range waits {
		if q := batch.Queue(w.query, w.args...); w.rows != nil {
			q.Query(w.rows)
		}
	}
	return p.conn.Raw(func(driver any) error {
		c, ok := driver.(*stdlib.Conn)
		if !ok {
			return fmt.Errorf("%T is no connection of pgx", driver)
		}
		return c.Conn().SendBatch(ctx, &batch).Close()
	})
}

// The four methods of gorm's ConnPool; each sends the queued statements first.

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

// QueryRowContext cannot return the error of a queued statement; the aborted transaction then refuses the row.
func (p *pipe) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	_ = p.send(ctx)
	return p.conn.QueryRowContext(ctx, query, args...)
}

// commit sends COMMIT together with the statements that are still queued. If nothing was sent before, those go first,
// in an exchange of their own, since the first exchange may be repeated on another connection and a commit must not
// be. If a queued statement fails, the database never reaches the COMMIT. Errors: ErrUnsure where the exchange broke
// off.
func (p *pipe) commit(ctx context.Context) error {
	if !p.sent {
		if err := p.send(ctx); err != nil {
			return err
		}
	}
	p.queue("COMMIT")
	return unsure(p.send(ctx))
}

// undo rolls the transaction back, even after its context has ended. If that fails, the connection is discarded, since
// a transaction is still open on it.
func (p *pipe) undo(ctx context.Context) {
	const patience = 5 * time.Second
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience)
	defer cancel()
	_, _ = p.conn.ExecContext(ctx, "ROLLBACK")
}

// piped runs f in a transaction on a pipe.
func piped(db *gorm.DB, f func(tx *gorm.DB, p *pipe) error) error {
	pool, err := db.DB()
	if err != nil {
		return err
	}
	ctx := db.Statement.Context
	conn, err := pool.Conn(ctx)
	if err != nil {
		return err
	}
	p := &pipe{pool: pool, conn: conn}
	p.queue("BEGIN")
	done := false
	defer func() {
		if !done {
			p.undo(ctx)
		}
		_ = p.conn.Close()
	}()
	tx := db.Session(&gorm.Session{NewDB: true})
	tx.Statement.ConnPool = p
	if err = f(tx, p); err == nil {
		err = p.commit(ctx)
	}
	done = err == nil
	return err
}

// exec queues a statement without a result; it is sent with the next one or at the end of the transaction.
func (s *Store) exec(query string, args ...any) error {
	p, ok := s.db.Statement.ConnPool.(*pipe)
	if !ok {
		return translate(s.db.Exec(query, args...).Error)
	}
	made := s.db.Session(&gorm.Session{DryRun: true}).Exec(query, args...)
	if made.Error != nil {
		return translate(made.Error)
	}
	p.queue(made.Statement.SQL.String(), made.Statement.Vars...)
	return nil
}

// collect queues a query whose rows are appended to a list once it is sent.
func collect[T any](p *pipe, into *[]T, query string, args ...any) {
	p.waits = append(p.waits, waiting{query, args, func(rows pgx.Rows) error {
		var err error
		*into, err = pgx.CollectRows(rows, pgx.RowToStructByNameLax[T])
		return err
	}})
}

// each converts rows to the values they stand for.
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
