package api

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/people"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// ledger is what a lot's grams must be, told apart from the program's own books.
type ledger struct {
	in, corrected, parted amount.Grams
	used                  map[string]amount.Grams // by batch and line
}

func (l ledger) left() amount.Grams {
	g := l.in.Plus(l.corrected).Minus(l.parted)
	for _, u := range l.used {
		g = g.Minus(u)
	}
	return g
}

// chance is a history of one salt that is played at random.
type chance struct {
	*testing.T
	ctx     context.Context
	app     *app.App
	r       *rand.Rand
	books   map[int64]*ledger
	ids     []int64
	batches []production.BatchView
	turn    int
}

func (c *chance) key() string {
	c.turn++
	return fmt.Sprintf("chance-%d", c.turn)
}

// may lets refusals pass and nothing else.
func (c *chance) may(err error) bool {
	var no kernel.Problem
	if err != nil {
		require.ErrorAs(c, err, &no)
	}
	return err == nil
}

func (c *chance) lot() int64 { return c.ids[c.r.IntN(len(c.ids))] }

func (c *chance) grams(most int) amount.Grams {
	return amount.Milligrams(int64(1 + c.r.IntN(most*1000)))
}

func (c *chance) receive() {
	grams := 100 + c.r.IntN(900)
	taken, err := c.app.Production.Receive(c.ctx, production.NewDelivery{Supplier: "Saltpan Row",
		Day:  day.Of(noon()),
		Lots: []production.NewLot{{Ingredient: "salt_sea_fine", Pack: fmt.Sprintf("%d g", grams), Accept: true}}})
	require.NoError(c, err)
	id := taken.Lots[0].ID
	c.ids = append(c.ids, id)
	c.books[id] = &ledger{in: amount.G(float64(grams)), used: map[string]amount.Grams{}}
}

// weigh weighs a line of some batch from one lot or two, in the place of what was weighed before.
func (c *chance) weigh() {
	b := c.batches[c.r.IntN(len(c.batches))]
	v, err := c.app.Production.Batch(c.ctx, b.ID)
	require.NoError(c, err)
	line := v.Record.Lines[5] // the salt
	list, err := c.app.Store.With(c.ctx).LotStandings(c.lot(), c.lot())
	require.NoError(c, err)
	w := bench.Weighing{Line: line.Line, Over: line.Entry}
	for _, l := range list {
		g := c.grams(60)
		w.Grams = w.Grams.Plus(g)
		w.Draws = append(w.Draws, bench.Draw{Code: l.Code, Grams: g, Reason: "the history asks for it"})
	}
	draws := append([]bench.Draw{}, w.Draws...)
	if err := c.app.Production.Write(c.ctx, b.ID, bench.Entry{Body: &w}, c.key(),
		func(func() production.BatchView) {}); !c.may(err) {
		return
	}
	at := fmt.Sprintf("%d/%s", b.ID, line.Line)
	for _, l := range c.books {
		delete(l.used, at)
	}
	for i, l := range list {
		c.books[l.ID].used[at] = draws[i].Grams
	}
}

func (c *chance) act(id int64, act any) bool {
	_, err := c.app.Production.ActOnLot(c.ctx, id, act, c.key())
	return c.may(err)
}

// step is one random act.
func (c *chance) step() {
	id := c.lot()
	switch c.r.IntN(9) {
	case 0:
		c.receive()
	case 1, 2, 3:
		c.weigh()
	case 4:
		change := c.grams(200)
		if c.r.IntN(2) == 0 {
			change = amount.Grams{}.Minus(change)
		}
		if c.act(id, &lots.Counted{Change: change, Reason: "counted by hand"}) {
			c.books[id].corrected = c.books[id].corrected.Plus(change)
		}
	case 5:
		change := amount.Grams{}.Minus(c.grams(300))
		if c.act(id, &lots.Counted{Change: change, Thrown: true, Reason: "spilt on the floor"}) {
			c.books[id].corrected = c.books[id].corrected.Plus(change)
		}
	case 6:
		part, err := c.app.Production.Freeze(c.ctx, id, c.grams(150), day.Of(noon()))
		if c.may(err) {
			c.books[id].parted = c.books[id].parted.Plus(part.In)
			c.books[part.ID] = &ledger{in: part.In, used: map[string]amount.Grams{}}
			c.ids = append(c.ids, part.ID)
		}
	case 7:
		grams := 50 + c.r.IntN(900)
		if c.act(id, &production.Correction{NewLot: production.NewLot{Ingredient: "salt_sea_fine",
			Pack: fmt.Sprintf("%d g", grams)},
			Supplier: "Saltpan Row", Day: day.Of(noon()), Why: "weighed again"}) {
			c.books[id].in = amount.G(float64(grams))
		}
	case 8:
		if !c.act(id, &lots.Held{Reason: "looks wet"}) {
			c.act(id, &lots.Freed{Reason: "dried again"})
		}
	}
}

// traces looks at every lot from its own side and from the batches': forward and back agree, with the books and with
// each other, and every jar is in one place.
func (c *chance) traces() {
	ids := func(v release.TraceView, kind string) map[int64]bool {
		out := map[int64]bool{}
		for _, n := range v.Nodes {
			out[n.ID] = out[n.ID] || n.Kind == kind || kind == "lot" && (n.Kind == "incoming" || n.Kind == "part")
		}
		return out
	}
	back := map[int64]map[int64]bool{}
	for _, b := range c.batches {
		v, err := c.app.Release.Trace(c.ctx, release.TraceAsk{Batch: b.ID})
		require.NoError(c, err)
		back[b.ID] = ids(v, "lot")
		assert.Equal(c, v.Account.Made, v.Account.With+v.Account.Here+v.Account.Samples+v.Account.Gone+
			v.Account.Unwritten)
	}
	for _, id := range c.ids {
		v, err := c.app.Release.Trace(c.ctx, release.TraceAsk{Lots: []int64{id}})
		require.NoError(c, err)
		forward := ids(v, "batch")
		for _, b := range c.batches {
			assert.Equal(c, forward[b.ID], back[b.ID][id], "lot %d and batch %d", id, b.ID)
			drawn := false
			for at, grams := range c.books[id].used {
				drawn = drawn || strings.HasPrefix(at, fmt.Sprintf("%d/", b.ID)) && grams.IsPositive()
			}
			assert.True(c, !drawn || forward[b.ID], "lot %d was weighed into batch %d", id, b.ID)
		}
	}
}

// TestWhatCameInIsOnHandUsedOrCorrected plays random histories and keeps books of its own beside the program's.
func TestWhatCameInIsOnHandUsedOrCorrected(t *testing.T) {
	t.Parallel()
	for seed := range uint64(3) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			cl := withDemo(t)
			c := &chance{T: t, ctx: kernel.As(context.Background(), people.Person{Name: "Ines", Role: people.Owner}),
				app: cl.app, r: rand.New(rand.NewPCG(seed, 10)), books: map[int64]*ledger{}}
			for range 2 {
				b, err := c.app.Production.PlanBatch(c.ctx,
					production.PlanAsk{Ref: formula.Ref{Formula: "beetroot_horseradish_dip",
						Version: 2},
						Jars: 12, MadeOn: day.Of(noon())})
				require.NoError(t, err)
				c.batches = append(c.batches, b)
			}
			c.receive()
			for range 60 {
				c.step()
			}
			list, err := c.app.Store.With(c.ctx).LotStandings(c.ids...)
			require.NoError(t, err)
			require.Len(t, list, len(c.books))
			for _, l := range list {
				assert.Equal(t, c.books[l.ID].left(), l.Left, "%s", l.Code)
				assert.Equal(t, l.In.Plus(l.Corrected), l.Left.Plus(l.Used).Plus(l.Parted), "%s", l.Code)
			}
			_, err = c.app.Production.Rebuild(context.Background())
			require.NoError(t, err)
			again, err := c.app.Store.With(c.ctx).LotStandings(c.ids...)
			require.NoError(t, err)
			assert.Equal(t, list, again, "worked out anew it is the same")
			c.traces()
			_, err = c.app.Production.Lot(c.ctx, 999_999)
			require.True(t, errors.Is(err, kernel.ErrNotFound))
		})
	}
}
