package store_test

import (
	"context"
	"database/sql"
	"errors"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// opened is a batch of ten jars whose record has one entry under the key k1, and a place drawn for the next.
func opened(t *testing.T, s kernel.Store) (kernel.Batch, bench.Entry) {
	t.Helper()
	locked(t, s)
	b := kernel.Batch{Code: "26-061-A", FormulaID: "dip", Version: 1, Jars: 10, MadeOn: time.Now(),
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
	require.NoError(t, s.In(context.Background(), stamp, func(tx kernel.Store) error {
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
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx kernel.Store) error {
		if err := tx.AddIngredient(beet(), false, "Ines"); err != nil {
			return err
		}
		_, err := tx.AddEntry(b.ID, e, "k1", nil)
		assert.NoError(t, err, "nobody has looked yet")
		return err
	}), kernel.ErrTaken)
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx kernel.Store) error {
		_, err := tx.AddEntry(b.ID, e, "k1", nil)
		require.NoError(t, err)
		_, err = tx.Batch(b.ID)
		return err
	}), kernel.ErrTaken, "the reading behind it meets the error")
	_, err := s.Ingredient("beet")
	assert.ErrorIs(t, err, kernel.ErrNotFound)
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	assert.Len(t, all[b.ID], 1)
}

func TestABatchIsOpenedWithWhatItsWriterNeeds(t *testing.T) {
	s := testdb.Signed(t)
	b, _ := opened(t, s)
	open := func(ask kernel.Opening) (out kernel.BatchRecord) {
		require.NoError(t, s.In(context.Background(), stamp, func(tx kernel.Store) (err error) {
			out, err = tx.OpenBatch(b.ID, ask)
			return err
		}))
		return out
	}
	first := open(kernel.Opening{Key: "k1"})
	assert.Equal(t, "26-061-A", first.Batch.Code)
	require.Len(t, first.Entries, 1)
	assert.NotNil(t, first.Digest, "k1 is known, though it has none")
	assert.Nil(t, open(kernel.Opening{Key: "k2"}).Digest)
	assert.Greater(t, first.Next, first.Entries[0].ID)
	require.NotZero(t, first.Mark)

	ask := kernel.Opening{Key: "k2", Since: first.Mark, Beside: []string{"entry"}, Had: &first}
	again := open(ask)
	assert.True(t, again.Still)
	assert.Equal(t, first.Entries, again.Entries)
	_, err := s.AddEntry(b.ID, bench.Entry{At: time.Now(), By: "Ines", Body: &bench.Fill{Jars: 9, At: time.Now()}},
		"k2",
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
	assert.ErrorIs(t, s.In(context.Background(), stamp, func(tx kernel.Store) error {
		_, err := tx.OpenBatch(b.ID+1, ask)
		return err
	}), kernel.ErrNotFound)
}

func TestARecordThatWasKeptIsReadAnewWhenAVesselMovedOn(t *testing.T) {
	s := testdb.Signed(t)
	b, _ := opened(t, s)
	vessel := kernel.Vessel{Name: "12 L cutter"}
	require.NoError(t, s.AddVessel(&vessel))
	turn := kernel.VesselEntry{Vessel: vessel.ID, Kind: bench.VesselUsed, What: "Crab paste", At: time.Now(),
		EnteredAt: time.Now(), Allergens: law.Each[[]string]{}, By: "Ines"}
	ours := turn
	ours.Batch, ours.What = b.ID, "Dip"
	open := func(had *kernel.BatchRecord) (out kernel.BatchRecord) {
		ask := kernel.Opening{}
		if had != nil {
			ask.Since, ask.Had = had.Mark, had
		}
		require.NoError(t, s.In(context.Background(), stamp, func(tx kernel.Store) (err error) {
			out, err = tx.OpenBatch(b.ID, ask)
			return err
		}))
		return out
	}
	had := open(nil)
	assert.Empty(t, had.Vessels)
	require.NoError(t, s.AddVesselEntry(ours))
	had.Turned = 1 // its reader wrote that turn down, and kept what there is then
	had.Vessels = []kernel.VesselTurns{{ID: vessel.ID, Name: "as it was kept"}}
	assert.Equal(t, "as it was kept", open(&had).Vessels[0].Name, "nobody else turned to it")
	require.NoError(t, s.AddVesselEntry(turn))
	now := open(&had).Vessels
	require.Len(t, now, 1)
	assert.Equal(t, "12 L cutter", now[0].Name)
	assert.Len(t, now[0].Turns, 2, "another's turn is seen")
}

func TestRowsThatWaitAreWrittenLikeOthers(t *testing.T) {
	s := testdb.Signed(t)
	b, _ := opened(t, s)
	value, due := 3.9, time.Now().Truncate(time.Microsecond)
	all := kernel.Standing{Batch: b.ID, State: bench.Released, Jars: 10, Value: &value, Target: 4, Limit: 4.2,
		Outcome:  "pass",
		Sentence: "well", Waits: []string{"the lot of Salt"}, Due: &due, EquilibriumOpen: true, RunsOut: &due,
		Weighed: true, Here: 9, Sooner: "sooner", Barred: "barred", Words: "milk", Printed: 8, JarsOut: true,
		Recalled: "recalled", By: "Ines", LastDay: "2026-12-24", DateKind: "best_before"}
	none := kernel.Standing{Batch: b.ID, State: bench.OnHold, Waits: []string{}}
	puts := func(tx kernel.Store) error {
		return errors.Join(tx.PutStandings(), tx.PutStandings(all), tx.PutStandings(none))
	}
	kept := func() kernel.Standing {
		t.Helper()
		list, err := s.ListedBatches([]int64{b.ID})
		require.NoError(t, err)
		require.Len(t, list, 1)
		return list[0].Standing
	}
	require.NoError(t, puts(s))
	alone := kept()
	require.NoError(t, s.PutStandings(all))
	full := kept()
	require.NoError(t, s.In(context.Background(), stamp, puts))
	assert.Equal(t, alone, kept(), "in a transaction they wait, and the later lies over the earlier")
	require.NoError(t, s.In(context.Background(), stamp, func(tx kernel.Store) error { return tx.PutStandings(all) }))
	assert.Equal(t, full, kept())
	assert.Equal(t, all.Words, full.Words)
}

func TestAConnectionThatBrokeMeanwhileIsReplaced(t *testing.T) {
	_, url := testdb.Safe(t)
	s, err := store.Open(context.Background(), url, 1) // a broken one must not be held while another is waited for
	require.NoError(t, err)
	defer s.Close()
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	soon, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	for _, does := range []func(kernel.Store) error{
		func(tx kernel.Store) error { _, err := tx.AllBatches(); return err },
		func(kernel.Store) error { return nil }, // and only ends
		func(tx kernel.Store) error { return tx.LockBatches() },
	} {
		require.NoError(t, s.In(soon, stamp, func(kernel.Store) error { return nil }))
		_, err = db.Exec("SELECT pg_terminate_backend(pid, 5000) FROM pg_stat_activity WHERE pid <> pg_backend_pid()")
		require.NoError(t, err)
		require.NoError(t, s.In(soon, stamp, does))
	}
}

func TestAPanicUndoesAllAndLetsGo(t *testing.T) {
	s := testdb.Signed(t)
	b, e := opened(t, s)
	assert.Panics(t, func() {
		_ = s.In(context.Background(), stamp, func(tx kernel.Store) error {
			require.NoError(t, tx.LockBatches(b.ID))
			_, err := tx.AddEntry(b.ID, e, "k2", nil)
			require.NoError(t, err)
			panic("in the middle of it")
		})
	})
	soon, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	require.NoError(t, s.In(soon, stamp, func(tx kernel.Store) error { return tx.LockBatches(b.ID) }))
	all, err := s.Entries(b.ID)
	require.NoError(t, err)
	assert.Len(t, all[b.ID], 1)
}
