package store_test

import (
	"context"
	"database/sql"
	"testing"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/bench"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// opened is a batch of ten jars whose record has one entry under the key k1, and a place drawn for the next.
func opened(t *testing.T, s app.Store) (app.Batch, bench.Entry) {
	t.Helper()
	locked(t, s)
	b := app.Batch{Code: "26-061-A", FormulaID: "dip", Version: 1, Jars: 10, MadeOn: time.Now(),
		Targets: []bench.Target{}, CreatedBy: "Ines"}
	require.NoError(t, s.AddBatch(&b))
	e := bench.Entry{At: time.Now(), By: "Ines", Body: &bench.Fill{Jars: 10, At: time.Now()}}
	first, err := s.AddEntry(b.ID, e, "k1", nil)
	require.NoError(t, err)
	e.ID, e.Seq = first.ID+1, 2
	return b, e
}

func TestWhatWaitsInATransactionIsThereForTheNextReading(t *testing.T) {
	s := testdb.Signed(t)
	b, e := opened(t, s)
	require.NoError(t, s.In(context.Background(), stamp, func(tx app.Store) error {
		if _, err := tx.AddEntry(b.ID, e, "k2", nil); err != nil {
			return err
		}
		all, err := tx.Entries(b.ID)
		assert.Len(t, all[b.ID], 2)
		e.ID, e.Seq = e.ID+1, 3
		if err == nil {
			_, err = tx.AddEntry(b.ID, e, "k3", nil)
		}
		return err
	}))
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	assert.Len(t, all[b.ID], 3, "what waited last is sent before the end")
}

func TestWhatWaitedAndFailsUndoesAll(t *testing.T) {
	s := testdb.Signed(t)
	b, e := opened(t, s)
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx app.Store) error {
		if err := tx.AddIngredient(beet(), false, "Ines"); err != nil {
			return err
		}
		_, err := tx.AddEntry(b.ID, e, "k1", nil)
		assert.NoError(t, err, "nobody has looked yet")
		return err
	}), app.ErrTaken)
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx app.Store) error {
		_, err := tx.AddEntry(b.ID, e, "k1", nil)
		require.NoError(t, err)
		_, err = tx.Batch(b.ID)
		return err
	}), app.ErrTaken, "the reading behind it meets the error")
	_, err := s.Ingredient("beet")
	assert.ErrorIs(t, err, app.ErrNotFound)
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	assert.Len(t, all[b.ID], 1)
}

func TestABatchIsOpenedWithWhatItsWriterNeeds(t *testing.T) {
	s := testdb.Signed(t)
	b, _ := opened(t, s)
	open := func(ask app.Opening) (out app.BatchRecord) {
		require.NoError(t, s.In(context.Background(), stamp, func(tx app.Store) (err error) {
			out, err = tx.OpenBatch(b.ID, ask)
			return err
		}))
		return out
	}
	first := open(app.Opening{Key: "k1"})
	assert.Equal(t, "26-061-A", first.Batch.Code)
	require.Len(t, first.Entries, 1)
	assert.NotNil(t, first.Digest, "k1 is known, though it has none")
	assert.Nil(t, open(app.Opening{Key: "k2"}).Digest)
	assert.Greater(t, first.Next, first.Entries[0].ID)
	require.NotZero(t, first.Mark)

	ask := app.Opening{Key: "k2", Since: first.Mark, Beside: []string{"entry"}, Had: &first}
	again := open(ask)
	assert.True(t, again.Still)
	assert.Equal(t, first.Entries, again.Entries)
	_, err := s.AddEntry(b.ID, bench.Entry{At: time.Now(), By: "Ines", Body: &bench.Fill{Jars: 9, At: time.Now()}}, "k2",
		nil)
	require.NoError(t, err)
	more := open(ask)
	assert.True(t, more.Still, "entries do not count")
	require.Len(t, more.Entries, 2)
	assert.Equal(t, 9, more.Entries[1].Body.(*bench.Fill).Jars)

	require.NoError(t, s.AddIngredient(beet(), false, "Ines"))
	assert.False(t, open(ask).Still)
	other := ask
	other.Since.At = other.Since.At.Add(time.Second)
	assert.False(t, open(other).Still, "a mark of another book is none")
	assert.Len(t, open(other).Entries, 2, "and then all is read")
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx app.Store) error {
		_, err := tx.OpenBatch(b.ID+1, ask)
		return err
	}), app.ErrNotFound)
}

func TestAConnectionThatBrokeMeanwhileIsReplaced(t *testing.T) {
	s, url := testdb.Safe(t)
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	for range 3 {
		require.NoError(t, s.In(context.Background(), stamp, func(app.Store) error { return nil }))
		_, err = db.Exec("SELECT pg_terminate_backend(pid, 5000) FROM pg_stat_activity WHERE pid <> pg_backend_pid()")
		require.NoError(t, err)
		require.NoError(t, s.In(context.Background(), stamp, func(tx app.Store) error {
			_, err := tx.AllBatches()
			return err
		}))
	}
}

func TestAPanicUndoesAllAndLetsGo(t *testing.T) {
	s := testdb.Signed(t)
	b, e := opened(t, s)
	assert.Panics(t, func() {
		_ = s.In(context.Background(), stamp, func(tx app.Store) error {
			require.NoError(t, tx.LockBatches(b.ID))
			_, err := tx.AddEntry(b.ID, e, "k2", nil)
			require.NoError(t, err)
			panic("in the middle of it")
		})
	})
	soon, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	require.NoError(t, s.In(soon, stamp, func(tx app.Store) error { return tx.LockBatches(b.ID) }))
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	assert.Len(t, all[b.ID], 1)
}
