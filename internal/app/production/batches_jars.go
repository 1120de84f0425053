package production

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/pantry"
)

// JarsRow is a batch with the places of its jars.
type JarsRow struct {
	kernel.BatchRow
	Jars  []bench.JarsAt `json:"at"`
	Ready int            `json:"ready"`   // that may leave the shop today
	Why   string         `json:"why_not"` // none may
}

// JarsView lists batches with jars here, and those called back.
type JarsView struct {
	Today   day.Day        `json:"today"`
	Rows    []JarsRow      `json:"rows"`
	More    bool           `json:"more"`
	Parties []kernel.Party `json:"parties"`
}

// mostJarsRows bounds the list of jars.
const mostJarsRows = 200

// WhereJarsAre lists the batches that are called back or have jars here, the earliest end first.
func (a *Room) WhereJarsAre(ctx context.Context) (JarsView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return JarsView{}, err
	}
	out := JarsView{Today: day.Of(a.TodayIn(s)), Rows: []JarsRow{}}
	rows, err := st.BatchesWithJars(mostJarsRows + 1)
	if err != nil {
		return out, err
	}
	if len(rows) > mostJarsRows {
		rows, out.More = rows[:mostJarsRows], true
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Batch
	}
	jars, err := st.JarsOf(ids...)
	if err != nil {
		return out, err
	}
	spoken, err := a.spokenFor(st, rows)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		x := JarsRow{BatchRow: RowOf(r), Jars: jars[r.Batch]}
		if err := bench.MayLeave(r.State, r.LastDay, out.Today, r.Doubt()); err != nil {
			x.Why = err.Error()
		} else {
			x.Ready = max(0, r.Here-spoken[r.Batch])
		}
		out.Rows = append(out.Rows, x)
	}
	out.Parties, err = st.Parties()
	return out, err
}

// spokenFor returns how many jars of each batch were opened for the bowl, or split off, as lots.
func (a *Room) spokenFor(st kernel.Store, rows []kernel.Listed) (map[int64]int, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Batch
	}
	own, err := st.LotsOfBatches(ids...)
	if err != nil {
		return nil, err
	}
	lotIDs := make([]int64, len(own))
	of := map[int64]int64{}
	for i, l := range own {
		lotIDs[i], of[l.ID] = l.ID, l.Batch
	}
	list, err := st.LotStandings(lotIDs...)
	if err != nil {
		return nil, err
	}
	here := map[int64]int{}
	for _, r := range rows {
		here[r.Batch] = r.Here
	}
	out := map[int64]int{}
	for _, s := range list {
		batch := of[s.ID]
		out[batch] = bench.JarsOpened(here[batch], s.In, s.In.Minus(s.Left))
	}
	return out, nil
}

// checkMove fills in who has the jars of a move, and refuses to let jars leave that may not.
func (a *Room) checkMove(st kernel.Store, l Loaded, m *bench.Moved) error {
	m.Group, m.PartyName = "", ""
	if m.From != bench.With && m.To != bench.With {
		m.Party = 0
		return nil
	}
	p, err := st.Party(m.Party)
	if errors.Is(err, kernel.ErrNotFound) {
		return kernel.Mistake("moved.party", "with whom? Nobody of this number is in the list")
	}
	if err != nil {
		return err
	}
	m.PartyName = p.Name
	if p.Day != "" {
		s, _, err := a.Settings(st)
		if err != nil {
			return err
		}
		m.PartyName = p.Name + ", " + plainDay(p.Day, s.Tongue())
	}
	if m.To != bench.With {
		return nil
	}
	if p.Retired {
		return kernel.Mistake("moved.party", "%s is retired", p.Name)
	}
	return a.mayLeave(st, l, m.Jars)
}

// mayLeave refuses jars that are out of date or opened for the bowl.
func (a *Room) mayLeave(st kernel.Store, l Loaded, jars int) error {
	row := l.Listed()
	today := day.Of(a.TodayIn(l.Book.Settings))
	if err := bench.MayLeave(row.State, row.LastDay, today, row.Doubt()); err != nil {
		return RefusalOf(err, nil)
	}
	spoken, err := a.spokenFor(st, []kernel.Listed{row})
	if err != nil {
		return err
	}
	if free := row.Here - spoken[l.Row.ID]; jars > free && spoken[l.Row.ID] > 0 {
		return kernel.Mistake("moved.jars", "only %d are free: %d were opened for the bowl", free, spoken[l.Row.ID])
	}
	return nil
}

// SendRow is a number of jars of a product, or of one batch of it, to be sent.
type SendRow struct {
	Formula string `json:"formula"`
	Batch   int64  `json:"batch"` // 0: what ends first
	Jars    int    `json:"jars"`
	Reason  string `json:"reason"` // for a batch that does not end first
}

// Send is what leaves the shop together.
type Send struct {
	Party int64     `json:"party"`
	Rows  []SendRow `json:"rows"`
}

// Sent is what left the shop.
type Sent struct {
	Party kernel.Party  `json:"party"`
	Parts []bench.Ready `json:"parts"`
}

// Dispatch sends jars to a customer or a market day, the earliest end first, all of them or none.
func (a *Room) Dispatch(ctx context.Context, s Send) (Sent, error) {
	if _, err := kernel.Signed(ctx); err != nil {
		return Sent{}, err
	}
	if n := len(s.Rows); n == 0 || n > 50 {
		return Sent{}, kernel.Mistake("rows", "between 1 and 50 rows")
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (Sent, error) {
		if err := st.LockBatches(); err != nil {
			return Sent{}, err
		}
		var out Sent
		var err error
		if out.Party, err = st.Party(s.Party); errors.Is(err, kernel.ErrNotFound) {
			return out, kernel.Mistake("party", "choose who gets them")
		} else if err != nil {
			return out, err
		}
		for i, r := range s.Rows {
			parts, err := a.sendRow(ctx, st, s.Party, r)
			if err != nil {
				return out, inSendRow(err, i)
			}
			out.Parts = append(out.Parts, parts...)
		}
		return out, nil
	})
}

func inSendRow(err error, i int) error {
	p, ok := err.(kernel.Problem)
	if !ok {
		return err
	}
	if len(p.Fields) == 0 {
		p.Fields = []pantry.FieldError{{Field: "jars", Message: p.Message}}
	}
	p.Fields = slices.Clone(p.Fields)
	for k := range p.Fields {
		p.Fields[k].Field = fmt.Sprintf("rows[%d].%s", i, strings.TrimPrefix(p.Fields[k].Field, "moved."))
	}
	return p
}

func (a *Room) sendRow(ctx context.Context, st kernel.Store, party int64, r SendRow) ([]bench.Ready, error) {
	if r.Jars < 1 || r.Jars > 100_000 {
		return nil, kernel.Mistake("jars", "between 1 and 100 000 jars")
	}
	ready, err := a.ready(st, r.Formula)
	if err != nil {
		return nil, err
	}
	parts, missing := bench.FirstExpired(ready, r.Jars)
	if r.Batch != 0 {
		if parts, missing, err = chosen(ready, r); err != nil {
			return nil, err
		}
	}
	if missing > 0 {
		return nil, kernel.Mistake("jars",
			"only %d jars may leave: the others are on hold, past their date or elsewhere",
			r.Jars-missing)
	}
	for _, p := range parts {
		m := bench.Moved{To: bench.With, Party: party, Reason: r.Reason}
		if err := a.sendPart(ctx, st, p, m); err != nil {
			return nil, err
		}
	}
	return parts, nil
}

// chosen takes jars of one batch; if another batch of the product ends earlier, a reason is required.
func chosen(ready []bench.Ready, r SendRow) ([]bench.Ready, int, error) {
	at := slices.IndexFunc(ready, func(x bench.Ready) bool { return x.Batch == r.Batch })
	if at < 0 {
		return nil, r.Jars, nil
	}
	first := slices.MinFunc(ready, func(x, y bench.Ready) int { return cmp.Compare(x.LastDay, y.LastDay) })
	if first.LastDay < ready[at].LastDay && strings.TrimSpace(r.Reason) == "" {
		return nil, 0, kernel.Mistake("reason", "%s ends first, on %s: say why this one goes", first.Code,
			first.LastDay)
	}
	parts, missing := bench.FirstExpired(ready[at:at+1], r.Jars)
	return parts, missing, nil
}

// ready returns a product's batches with jars that may leave today, the earliest end first.
func (a *Room) ready(st kernel.Store, formula string) ([]bench.Ready, error) {
	s, _, err := a.Settings(st)
	if err != nil {
		return nil, err
	}
	rows, err := st.ReadyBatches(formula, day.Of(a.TodayIn(s)), mostJarsRows)
	if err != nil {
		return nil, err
	}
	spoken, err := a.spokenFor(st, rows)
	if err != nil {
		return nil, err
	}
	out := []bench.Ready{}
	for _, r := range rows {
		if free := r.Here - spoken[r.Batch]; free > 0 {
			out = append(out, bench.Ready{Batch: r.Batch, Code: r.Code, LastDay: r.LastDay, Jars: free})
		}
	}
	return out, nil
}

// sendPart moves jars of one batch out from where they stand.
func (a *Room) sendPart(ctx context.Context, st kernel.Store, p bench.Ready, m bench.Moved) error {
	l, err := a.Load(st, p.Batch)
	if err != nil {
		return err
	}
	left, who := p.Jars, kernel.Actor(ctx)
	e, _ := ctx.Value(kernel.ErrandKey{}).(kernel.Errand)
	for _, from := range []string{bench.Untold, bench.ColdRoom, bench.Filled} {
		n := min(left, l.Record.JarsIn(from))
		if n == 0 {
			continue
		}
		left -= n
		move := m
		move.From, move.Jars = from, n
		if err := a.checkMove(st, l, &move); err != nil {
			return err
		}
		move.Group = e.Key
		entry := bench.Entry{At: a.Now(), By: who.Name, Role: who.Role, Body: &move}
		if err := l.Fold().Refuses(entry); err != nil {
			return RefusalOf(err, nil)
		}
		key := fmt.Sprintf("sent-%d-after-%d", p.Batch, l.Record.Last)
		if _, err := st.AddEntry(p.Batch, entry, key, nil); err != nil {
			return EntryKeyTaken(err)
		}
		if l, err = a.Load(st, p.Batch); err != nil {
			return err
		}
	}
	return a.settle(ctx, st, []Loaded{l})
}
