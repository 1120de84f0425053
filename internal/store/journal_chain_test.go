package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"testing"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/chain"
	"gallipot/internal/core/formula"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// book is a small book that was written through the program, with a way in for somebody who may do anything.
type book struct {
	*testing.T
	url string // for the role that owns it
	app string
	db  *sql.DB
}

var books testdb.Filled

func written(t *testing.T) book {
	t.Helper()
	_, url := books.Beside(t, func(s *store.Store) error { return writeSome(s) })
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	return book{t, url, testdb.ForApp(t, url), db}
}

func writeSome(s *store.Store) error {
	return errors.Join(
		s.In(context.Background(), stamp, func(tx kernel.Store) error {
			return tx.AddIngredient(beet(), false, "Ines")
		}),
		s.In(context.Background(), stamp, func(tx kernel.Store) error {
			return tx.AddFormula(kernel.Formula{ID: "dip", Name: "Dip", CreatedBy: "Ines"})
		}),
		s.In(context.Background(), stamp, func(tx kernel.Store) (err error) {
			for i := range 5 {
				err = errors.Join(err, tx.AddDelivery(&kernel.Delivery{Supplier: "Fallow", Note: fmt.Sprint("n", i),
					Day: "2026-03-01"}))
			}
			return err
		}),
		s.In(context.Background(), stamp, func(tx kernel.Store) error {
			return tx.AddVersion(formula.Blank("dip"), nil, "Ines")
		}),
		s.In(context.Background(), stamp, func(tx kernel.Store) error {
			return tx.AddPerson(&kernel.Person{Name: "Bram", Role: "maker", Secret: "argon2"})
		}))
}

// forge does what somebody may do who owns the database and switches its triggers off.
func (b book) forge(queries ...string) {
	b.Helper()
	tx, err := b.db.Begin()
	require.NoError(b, err)
	for _, q := range append([]string{"SET LOCAL session_replication_role = replica"}, queries...) {
		_, err = tx.Exec(q)
		require.NoError(b, err, q)
	}
	require.NoError(b, tx.Commit())
}

func (b book) verify(heads ...chain.Head) store.Verified {
	b.Helper()
	v, err := store.Verify(context.Background(), b.url, heads...)
	require.NoError(b, err)
	return v
}

// rewritten digests every link anew, as somebody would who knows how it is done.
const rewritten = `DO $$
	DECLARE l record; head bytea := ''; n bigint := 0;
	BEGIN
		FOR l IN SELECT ch.*, c AS row FROM chain ch LEFT JOIN changes c ON c.seq = ch.change ORDER BY ch.seq LOOP
			n := n + 1;
			IF l.change IS NULL THEN head := sha256(head || gallipot_link_of(n, l.what, l.kept));
			ELSE head := sha256(head || gallipot_link_of(n, l.row)); END IF;
			UPDATE chain SET digest = head, seq = n WHERE seq = l.seq;
		END LOOP;
	END $$`

func TestABookProvesItself(t *testing.T) {
	b := written(t)
	for links := range int64(12) {
		store.InParts(t, links+1)
		assert.Empty(t, b.verify().Faults, "%d links at a time", links+1)
	}
	v := b.verify()
	assert.Empty(t, v.Faults)
	assert.EqualValues(t, 1, v.Begun, "a new shop is proved from its first line")
	assert.EqualValues(t, 11, v.Changes)
	assert.EqualValues(t, 12, v.Links)
	assert.EqualValues(t, 10, v.Rows, "the draft is told by what was typed")
	assert.Empty(t, b.verify(v.Head).Faults)
	app, err := store.Verify(context.Background(), b.app)
	require.NoError(t, err)
	assert.Equal(t, v.Head, app.Head, "the application's role may read it")
}

// TestWhatASuperuserRewritesIsNamed changes, removes, swaps and cuts with every trigger off.
func TestWhatASuperuserRewritesIsNamed(t *testing.T) {
	for name, c := range map[string]struct {
		forge []string
		said  string
	}{
		"a row of the journal changed": {[]string{"UPDATE changes SET by_whom = 'Eve' WHERE seq = 6"},
			"row 6 of the journal (link 7: insert delivery by Eve"},
		"what a row told changed": {[]string{"UPDATE changes SET after = after || '{\"note\": \"x\"}' WHERE seq = 5"},
			"row 5 of the journal"},
		"a row of the journal removed": {[]string{"DELETE FROM changes WHERE seq = 3"},
			"row 3 of the journal (link 4) is gone"},
		"a row and its link removed": {[]string{"DELETE FROM changes WHERE seq = 3", "DELETE FROM chain WHERE seq = 4"},
			"link 4 of the chain is missing"},
		"two rows swapped": {[]string{"UPDATE changes SET seq = -1 WHERE seq = 4", "UPDATE changes SET seq = 4 WHERE seq = 5",
			"UPDATE changes SET seq = 5 WHERE seq = -1"}, "row 4 of the journal"},
		"a row put beside the chain": {[]string{"INSERT INTO changes (at, by_whom, act, what, which)" +
			" VALUES (now(), 'Eve', 'insert', 'batch', '1')"}, "is no link of the chain"},
		"the links cut off and the journal left": {[]string{"DELETE FROM chain WHERE seq > 8"},
			"row 8 of the journal is no link"},
		"a record changed": {[]string{"UPDATE deliveries SET supplier = 'Eve' WHERE id = 2"},
			"delivery 2 is not as the journal tells it"},
		"the number of a delivery note changed": {[]string{"UPDATE deliveries SET note = 'n9' WHERE id = 2"},
			"delivery 2 is not as the journal tells it"},
		"a record removed": {[]string{"DELETE FROM deliveries WHERE id = 2"}, "delivery 2 is gone"},
		"a record put in": {[]string{"INSERT INTO deliveries (id, supplier, note, day, created_at, created_by)" +
			" VALUES (99, 'Eve', '', '2026-03-01', now(), 'Eve')"}, "delivery 99 stands in the book"},
		"somebody's PIN exchanged": {[]string{"UPDATE people SET secret = 'mine'"}, "person 1 is not as"},
		"a format exchanged":       {[]string{"UPDATE ingredients SET format = 1"}, "ingredient beet is not as"},
		"the journal emptied":      {[]string{"TRUNCATE changes"}, "row 1 of the journal"},
	} {
		t.Run(name, func(t *testing.T) {
			b := written(t)
			b.forge(c.forge...)
			for _, links := range []int64{50_000, 1, 2, 4} { // however it is read
				store.InParts(t, links)
				v := b.verify()
				require.NotEmpty(t, v.Faults)
				assert.Contains(t, v.Faults[0], c.said, "%d links at a time", links)
			}
		})
	}
}

// TestAHeadFromEarlierShowsWhatTheBookAloneCannot: whoever may write all of it anew can make it fit; a head that stands
// somewhere else tells.
func TestAHeadFromEarlierShowsWhatTheBookAloneCannot(t *testing.T) {
	b := written(t)
	head := b.verify().Head
	b.forge("DELETE FROM deliveries WHERE id > 3", "DELETE FROM people", "DELETE FROM chain WHERE seq > 8",
		"DELETE FROM changes WHERE seq > 7", "DELETE FROM versions")
	assert.Empty(t, b.verify().Faults, "a book whose end is cut off everywhere fits")
	v := b.verify(head)
	require.NotEmpty(t, v.Faults)
	assert.Contains(t, v.Faults[0], "the head names link 12, and the book ends at link 8: its end was cut off")

	b = written(t)
	head = b.verify().Head
	b.forge("UPDATE deliveries SET supplier = 'Eve' WHERE id = 2",
		`UPDATE changes SET after = after || '{"supplier": "Eve"}' WHERE what = 'delivery' AND after->>'id' = '2'`,
		rewritten)
	assert.Empty(t, b.verify().Faults, "a book that was written anew fits")
	v = b.verify(head)
	require.NotEmpty(t, v.Faults)
	assert.Contains(t, v.Faults[0], "the book was written anew")
}

// TestTheApplicationsRoleCannotRewrite tries everything that changes a record, as the role that the program has.
func TestTheApplicationsRoleCannotRewrite(t *testing.T) {
	b := written(t)
	db, err := sql.Open("pgx", b.app)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("SELECT set_config('gallipot.by', 'Eve', false)")
	require.NoError(t, err)
	for _, q := range []string{
		"TRUNCATE changes", "TRUNCATE batch_entries", "DELETE FROM changes", "UPDATE changes SET by_whom = 'Eve'",
		"UPDATE batch_entries SET body = '{}'", "DELETE FROM batch_entries", "UPDATE lot_entries SET body = '{}'",
		"INSERT INTO chain VALUES (99, 1, NULL, NULL, '')", "DELETE FROM chain", "UPDATE chain SET digest = ''",
		"UPDATE batches SET jars = 1", "DELETE FROM ingredients", "DELETE FROM evidence", "UPDATE version_locks SET data = '{}'",
		"ALTER TABLE changes DISABLE TRIGGER ALL", "ALTER TABLE changes DISABLE TRIGGER link", "DROP TRIGGER link ON changes",
		"SET session_replication_role = replica", "ALTER TABLE batch_entries ADD COLUMN x int", "DROP TABLE changes",
		"CREATE TABLE mine (n int)", "UPDATE goose_db_version SET version_id = 1", "SET ROLE gallipot",
		"CREATE OR REPLACE FUNCTION gallipot_link() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NULL; END'",
	} {
		_, err := db.Exec(q)
		assert.ErrorContains(t, err, "", q)
		assert.Regexp(t, "permission denied|must be owner", fmt.Sprint(err), q)
	}
	assert.Empty(t, b.verify().Faults)
}

func TestABookFromBeforeTheChainIsToldSo(t *testing.T) {
	url := testdb.Address(t)
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, store.MigrateTo(context.Background(), db, 16))
	_, err = store.Verify(context.Background(), url)
	assert.ErrorContains(t, err, "from before Gallipot chained its journal")
}

func TestTheStoreKnowsWhetherTheRecordIsProtected(t *testing.T) {
	b := written(t)
	ctx := context.Background()
	for name, c := range map[string]struct {
		at   store.Addresses
		said string
	}{
		"two roles":      {store.Addresses{App: b.app, Migrate: b.url}, ""},
		"one for both":   {store.Addresses{App: b.url}, "may do anything"},
		"the app's only": {store.Addresses{App: b.app}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			s, err := store.OpenAs(ctx, c.at, 1)
			require.NoError(t, err)
			defer s.Close()
			why, err := s.Unprotected()
			require.NoError(t, err)
			if c.said == "" {
				assert.Empty(t, why)
			}
			assert.Contains(t, why, c.said)
		})
	}
}

// TestADatabaseOfANewerProgramIsRefused: this one would not know what stands there.
func TestADatabaseOfANewerProgramIsRefused(t *testing.T) {
	b := written(t)
	_, err := b.db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (900, true)")
	require.NoError(t, err)
	_, err = store.OpenAs(context.Background(), store.Addresses{App: b.app, Migrate: b.url}, 1)
	var newer store.NewerError
	require.ErrorAs(t, err, &newer)
	assert.Contains(t, err.Error(), "written by a newer Gallipot")
	_, err = store.OpenAs(context.Background(), store.Addresses{App: b.app}, 1)
	require.ErrorAs(t, err, &newer)
}

func TestARoleThatMayNotMigrateIsToldWhich(t *testing.T) {
	address := testdb.Address(t)
	_, err := store.Open(context.Background(), testdb.ForApp(t, address), 1)
	require.Error(t, err)
	assert.True(t, strings.Contains(err.Error(), "MIGRATE_DATABASE_URL"), err.Error())
}

// TestWhatTheRoleMayDoIsPutRightAtTheStart: granted more by hand, it is taken away again.
func TestWhatTheRoleMayDoIsPutRightAtTheStart(t *testing.T) {
	b := written(t)
	_, err := b.db.Exec("GRANT UPDATE, DELETE ON changes, batch_entries TO gallipot_app;" +
		" REVOKE INSERT ON lots FROM gallipot_app")
	require.NoError(t, err)
	s, err := store.OpenAs(context.Background(), store.Addresses{App: b.app, Migrate: b.url}, 1)
	require.NoError(t, err)
	defer s.Close()
	assert.ErrorIs(t, s.Exec("DELETE FROM batch_entries"), kernel.ErrLocked)
	var may bool
	require.NoError(t, b.db.QueryRow("SELECT has_table_privilege('gallipot_app', 'lots', 'INSERT')"+
		" AND NOT has_table_privilege('gallipot_app', 'changes', 'UPDATE, DELETE')").Scan(&may))
	assert.True(t, may)
}
