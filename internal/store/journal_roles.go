package store

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
)

// What the application's role may do with each table; with one that stands nowhere it may do nothing.
var (
	// appended are records: nothing in them changes.
	appended = []string{"changes", "batch_entries", "lot_entries", "recall_entries", "meter_checks", "meter_looks",
		"deliveries", "lots", "allergen_changes", "vessel_entries", "version_locks", "batch_splits", "backups"}
	// changed keep what they were in the journal; nobody takes a row out.
	changed = []string{"shops", "people", "ingredients", "price_offers", "house_measures", "preparations", "formulas",
		"trials", "recipes", "evidence", "labels", "parties", "vessels", "shop_words", "price_ways", "recalls"}
	// free are drafts and marks, whose going is noted, and what follows from the records or lasts no longer than a
	// session.
	free = []string{"versions", "shop_marks", "batch_standing", "lot_standing", "lot_draws", "batch_jars", "keys",
		"sessions", "sign_in_tries", "single_sign_ins"}
	// looked are written by the database itself, and by migrations.
	looked = []string{"chain", "goose_db_version"}
)

// may is what the application's role may do with each table, as letters: S to read, I to add, U to change, D to take
// out.
func may() map[string]string {
	out := map[string]string{"batches": "SI"}
	for letters, tables := range map[string][]string{"S": looked, "SI": appended, "SIU": changed, "SIUD": free} {
		for _, t := range tables {
			out[t] = letters
		}
	}
	return out
}

// protected reports whether the role may do exactly that already.
func protected(ctx context.Context, raw *sql.DB, app string) (bool, error) {
	rows, err := raw.QueryContext(ctx, query("privileges"), app)
	if err != nil {
		return false, err
	}
	defer rows.Close()
	left := may()
	for rows.Next() {
		var table, letters string
		if err := rows.Scan(&table, &letters); err != nil {
			return false, err
		}
		if left[table] != letters {
			return false, nil
		}
		delete(left, table)
	}
	return len(left) == 0, rows.Err()
}

// protect lets the application's role do what it needs and no more.
func protect(ctx context.Context, raw *sql.DB, app string) error {
	role := pgx.Identifier{app}.Sanitize()
	grants := with("grants", "{{role}}", role, "{{looked}}", strings.Join(looked, ", "), "{{appended}}",
		strings.Join(appended, ", "), "{{changed}}", strings.Join(changed, ", "), "{{free}}", strings.Join(free, ", "))
	tx, err := raw.BeginTx(ctx, nil)
	if err != nil {
		return fmt.Errorf("protect the record: %w", err)
	}
	defer tx.Rollback() // after a commit it does nothing
	if _, err := tx.ExecContext(ctx, grants); err != nil {
		return fmt.Errorf("protect the record: %w", err)
	}
	return tx.Commit()
}

// Unprotected says why the record is not protected from the role that this store writes as; empty where it is.
func (s *Store) Unprotected() (string, error) {
	var is struct {
		Super, Owner, Change bool
		Role                 string
	}
	err := s.db.Raw(query("may_rewrite"), slices.Concat(appended, looked)).Scan(&is).Error
	switch {
	case err != nil:
		return "", translate(err)
	case is.Super:
		return fmt.Sprintf("the role %q, as which Gallipot writes, may do anything in the database", is.Role), nil
	case is.Owner:
		return fmt.Sprintf("the role %q, as which Gallipot writes, owns the tables of the record", is.Role), nil
	case is.Change:
		return fmt.Sprintf("the role %q, as which Gallipot writes, may change the record", is.Role), nil
	}
	return "", nil
}
