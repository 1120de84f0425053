package api

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// standing reads what is kept beside the records, as text: of every batch and lot, what was drawn, where jars are.
func standing(t *testing.T, db *sql.DB) map[string][]string {
	t.Helper()
	out := map[string][]string{}
	for _, table := range []string{"batch_standing", "lot_standing", "lot_draws", "batch_jars"} {
		rows, err := db.Query("SELECT row_to_json(s)::text FROM " + table + " s ORDER BY 1")
		require.NoError(t, err)
		for rows.Next() {
			var row string
			require.NoError(t, rows.Scan(&row))
			out[table] = append(out[table], row)
		}
		require.NoError(t, rows.Err())
		require.NoError(t, rows.Close())
	}
	return out
}

// TestRebuildFindsWhatWasWrittenWithTheEntries throws away and spoils what is kept of the batches, and has it back.
func TestRebuildFindsWhatWasWrittenWithTheEntries(t *testing.T) {
	t.Parallel()
	c, db := demoBeside(t)
	before := standing(t, db)
	require.Len(t, before["batch_standing"], 23)
	for _, q := range []string{"DELETE FROM batch_standing WHERE batch_id % 3 = 0",
		"UPDATE batch_standing SET state = 'released', runs_out = NULL, last_day = '2030-01-01'",
		"DELETE FROM lot_standing WHERE lot_id % 2 = 0", "UPDATE lot_standing SET state = 'open', bar = '', used = 5",
		"DELETE FROM lot_draws WHERE lot_id % 5 = 0", "DELETE FROM batch_jars WHERE batch_id % 3 = 1"} {
		_, err := db.Exec(q)
		require.NoError(t, err)
	}
	n, err := c.app.Production.Rebuild(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 23, n)
	after := standing(t, db)
	for table, rows := range before {
		assert.Equal(t, rows, after[table], table)
	}
}

// TestListsSayWhatPagesSay compares every row of the list with its batch's own page, after changes that judge anew.
func TestListsSayWhatPagesSay(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	agree := func(after string) {
		t.Helper()
		for _, row := range get[production.BatchPage](c, "/api/batches?all=true").Batches {
			v := get[production.BatchView](c, fmt.Sprintf("/api/batches/%d", row.ID))
			assert.Equal(t, v.Record.State, row.State, "%s: %s", after, row.Code)
			assert.Equal(t, v.LastDay[v.Regime], row.LastDay, "%s: %s", after, row.Code)
		}
	}
	agree("as loaded")
	shop := get[office.ShopView](c, "/api/shop")
	require.NotEmpty(t, shop.Settings.Name)
	for _, e := range get[[]release.EvidenceView](c, "/api/evidence") {
		if !e.Withdrawn {
			c.send("DELETE", fmt.Sprintf("/api/evidence/%d", e.ID)+why, nil).ok()
		}
	}
	agree("after the studies were withdrawn")
}

func TestListsArePagedByKeyWithNothingLostOrTwice(t *testing.T) {
	t.Parallel()
	c, db := demoBeside(t)
	history(t, c, db, 200)
	seen := map[int64]bool{}
	after, pages := "", 0
	last := kernel.BatchRow{MadeOn: "9999-12-31"}
	for {
		p := get[production.BatchPage](c, "/api/batches?after="+after)
		assert.Equal(t, 223, p.All)
		for _, b := range p.Batches {
			assert.False(t, seen[b.ID], "%d came twice", b.ID)
			seen[b.ID] = true
			assert.LessOrEqual(t, b.MadeOn, last.MadeOn, "newest first")
			last = b
		}
		pages++
		if after = p.Next; after == "" {
			break
		}
		require.Less(t, pages, 50)
	}
	assert.Len(t, seen, 223)
	assert.Greater(t, pages, 2)
	c.send("GET", "/api/batches?after=nonsense", nil).refused(422, "after")
	found := get[production.BatchPage](c, "/api/batches?find=BEETROOT")
	require.NotEmpty(t, found.Batches)
	for _, b := range found.Batches {
		assert.Contains(t, strings.ToLower(b.FormulaName+b.Code), "beetroot")
	}
	for _, b := range get[production.BatchPage](c, "/api/batches?state=rejected").Batches {
		assert.Equal(t, "rejected", b.State)
	}
	assert.Less(t, len(get[kernel.TodayView](c, "/api/today").Batches), 120, "the first screen shows a bounded number")
}

// nested is a bundle of six formulas whose twenty lines are each the next formula.
func nested(levels, lines int) string {
	var formulas []string
	for i := range levels {
		var ls []string
		for n := range lines {
			what := fmt.Sprintf(`"component":{"formula":"f%d","version":1}`, i+1)
			if i == levels-1 {
				what = `"ingredient":"water"`
			}
			ls = append(ls, fmt.Sprintf(`{"id":"l%d",%s,"grams":10}`, n, what))
		}
		formulas = append(formulas, fmt.Sprintf(`{"id":"f%d","name":"F %d","versions":[{"formula":"f%d","version":1,
			"state":"locked","lines":[%s],"fill_g":100,"costing_jars":1}]}`, i, i, i, strings.Join(ls, ",")))
	}
	return `{"format":"gallipot-bundle","format_version":2,"shop":{"name":"S","currency":"GBP","regime":"GB"},
		"ingredients":[{"id":"water","name":"Water","composition":{"water":100}}],"formulas":[` +
		strings.Join(formulas, ",") + `]}`
}

func TestABundleThatMultipliesIsRefusedInAPlainWord(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	start := time.Now()
	got := c.raw("POST", "/api/bundle", "application/json", []byte(nested(6, 20)))
	assert.GreaterOrEqual(t, got.status, 400, string(got.body))
	assert.Contains(t, string(got.body), "more than 5000 ingredients")
	assert.Less(t, time.Since(start), 20*time.Second, "it ends at all")
}

// leaving is a context that ends after it was asked so many times.
type leaving struct {
	context.Context
	left int
}

func (l *leaving) Err() error {
	if l.left--; l.left < 0 {
		return context.Canceled
	}
	return nil
}

func TestWorkEndsWhenTheClientLeaves(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	ctx, leave := context.WithCancel(context.Background())
	leave()
	_, err := c.app.Catalog.Pantry(ctx)
	require.ErrorIs(t, err, context.Canceled)
	r, err := http.NewRequestWithContext(ctx, "POST", c.base+"/api/bundle", strings.NewReader(nested(5, 20)))
	require.NoError(t, err)
	_, err = http.DefaultClient.Do(r)
	require.ErrorIs(t, err, context.Canceled)

	var many office.Bundle
	for i := range 9 {
		id := fmt.Sprintf("f%d", i)
		v := formula.Blank(id)
		v.FillGrams = amount.G(-1)
		many.Formulas = append(many.Formulas, formula.Formula{ID: id, Name: id, Versions: []formula.Version{v}})
	}
	wrong := func(ctx context.Context) (n int) {
		for _, f := range many.Check(ctx) {
			if strings.HasSuffix(f.Field, "fill_g") {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 9, wrong(context.Background()), "all are looked at while somebody waits")
	assert.Equal(t, 4, wrong(&leaving{context.Background(), 4}), "none after the one who asked has left")
	_, err = c.app.Office.Import(&leaving{context.Background(), 0}, office.Bundle{Shop: many.Shop}, false)
	assert.Error(t, err)
}

func TestLotCodesCountTheBatchesOfADayAndFormulasTheirBatches(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	count := func() int {
		for _, f := range get[[]catalog.FormulaRow](c, "/api/formulas") {
			if f.ID == "beetroot_horseradish_dip" {
				return f.Batches
			}
		}
		t.Fatal("the formula is in the list")
		return 0
	}
	plan := func(day string) string {
		return into[production.BatchView](c.send("POST", "/api/batches",
			map[string]any{"formula": "beetroot_horseradish_dip",
				"version": 2, "jars": 12, "made_on": day}).ok()).Code
	}
	before := count()
	for n := range 28 {
		want := "26-001-" + string(rune('A'+n%26))
		if n >= 26 {
			want = "26-001-A" + string(rune('A'+n-26))
		}
		assert.Equal(t, want, plan("2026-01-01"))
	}
	assert.Equal(t, "26-002-A", plan("2026-01-02"), "each day begins with A")
	assert.Equal(t, before+29, count())
}

// TestRecordsAreFoundByDay: what was written down on a day, by kind and by person, each with what it is of.
func TestRecordsAreFoundByDay(t *testing.T) {
	t.Parallel()
	now := clock()
	c := withDemo(t)
	b := released(t, c, now)
	day := now.Format(time.DateOnly)
	decisions := get[office.RecordsView](c, "/api/records?what=decisions&day="+day)
	mine := slices.IndexFunc(decisions.Rows, func(r office.RecordRow) bool { return r.Of == b.view().Code })
	require.GreaterOrEqual(t, mine, 0)
	assert.Contains(t, decisions.Rows[mine].Said, "released")
	assert.Equal(t, fmt.Sprintf("/batches/%d/record", b.id), decisions.Rows[mine].Link)
	assert.Equal(t, b.view().FormulaName, decisions.Rows[mine].Name)
	for _, what := range []string{"batches", "readings", "prints", "jars", "lots", "recalls", "formulas", "pantry",
		"shop"} {
		v := get[office.RecordsView](c, "/api/records?day=2026-11-25&by=Bram&what="+what)
		for _, r := range v.Rows {
			assert.Equal(t, "Bram", r.By)
			assert.Equal(t, "2026-11-25", r.At.In(now.Location()).Format(time.DateOnly))
		}
		for _, d := range v.Days {
			assert.Positive(t, d.Count)
		}
	}
	seen, before := map[int64]bool{}, int64(0)
	last := time.Date(2100, 1, 1, 0, 0, 0, 0, time.UTC)
	for {
		v := get[office.RecordsView](c, fmt.Sprintf("/api/records?day=2026-11-25&before=%d", before))
		for _, r := range v.Rows {
			assert.False(t, seen[r.Seq], "each once")
			assert.False(t, r.At.After(last), "the newest first")
			seen[r.Seq], last = true, r.At
		}
		if before = v.Next; before == 0 {
			break
		}
	}
	all := get[office.RecordsView](c, "/api/records?day=2026-11-25").Days
	at := slices.IndexFunc(all, func(d kernel.DayCount) bool { return d.Day == "2026-11-25" })
	assert.LessOrEqual(t, len(seen), all[at].Count, "typing of one sitting stands together")
	assert.Greater(t, len(seen), 200)
	c.send("GET", "/api/records?day=yesterday", nil).refused(422, "day")
	c.send("GET", "/api/records?what=joy", nil).refused(422, "")
}
