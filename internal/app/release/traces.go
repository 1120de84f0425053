package release

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
	"gallipot/internal/core/trace"
)

// TraceFlow is a band of the drawing: grams between lots, or jars to a place.
type TraceFlow struct {
	From  string       `json:"from"`
	To    string       `json:"to"`
	Grams amount.Grams `json:"grams"`
	Jars  int          `json:"jars"`
}

// TraceView is where a lot went, or where what is in a jar came from.
type TraceView struct {
	Of      string             `json:"of"` // lot or batch
	Title   string             `json:"title"`
	Nodes   []kernel.TraceNode `json:"nodes"`
	Flows   []TraceFlow        `json:"flows"`
	Columns []string           `json:"columns"`
	Account trace.Account      `json:"account"` // of the jars of all batches that it reached
	TookMS  float64            `json:"took_ms"`
}

// TraceAsk is what a trace is asked of: lots of these ids, or whatever a text calls.
type TraceAsk struct {
	Lots  []int64
	Batch int64
	Code  string
}

// Trace follows lots to every jar that has something of them, and batches back to every lot that went into them.
// Errors: ErrNotFound.
func (a *Room) Trace(ctx context.Context, ask TraceAsk) (TraceView, error) {
	began := time.Now()
	st := a.On(ctx)
	ids, err := tracedIDs(st, ask)
	if err != nil {
		return TraceView{}, err
	}
	t, err := traced(st, ids)
	if err != nil {
		return TraceView{}, err
	}
	out := t.view()
	out.TookMS = float64(time.Since(began).Microseconds()) / 1000
	return out, nil
}

func tracedIDs(st kernel.Store, ask TraceAsk) ([]int64, error) {
	ids := ask.Lots
	switch {
	case ask.Batch != 0:
		own, err := st.LotsOfBatches(ask.Batch)
		if err != nil {
			return nil, err
		}
		for _, l := range own {
			ids = append(ids, l.ID)
		}
	case ask.Code != "":
		var err error
		if ids, err = st.LotsByText(printed(ask.Code)...); err != nil {
			return nil, err
		}
	}
	if len(ids) == 0 {
		return nil, fmt.Errorf("lot to trace: %w", kernel.ErrNotFound)
	}
	return ids, nil
}

// printed are what a code may stand for: as it was typed, and as a label prints it under each law.
func printed(code string) []string {
	code = strings.TrimSpace(code)
	out := production.CallsFor(code)
	for _, under := range law.All() {
		if n := len(under.LotPrefix); len(code) > n && strings.EqualFold(code[:n], under.LotPrefix) {
			out = append(out, production.CallsFor(code[n:])...)
		}
	}
	return out
}

// tracing is a trace as it was read.
type tracing struct {
	asked []int64
	lots  map[int64]kernel.TracedLot
	flows []trace.Flow
	ahead map[int64]bool // what was asked about, and all that it went into
	jars  map[int64][]bench.JarsAt
}

// traced reads where lots went, and of batches among them where they came from.
func traced(st kernel.Store, asked []int64) (tracing, error) {
	t := tracing{asked: asked, lots: map[int64]kernel.TracedLot{}, ahead: map[int64]bool{}}
	on, err := st.FlowsFrom(false, asked...)
	if err != nil {
		return t, err
	}
	back, err := st.FlowsFrom(true, asked...)
	if err != nil {
		return t, err
	}
	ids := slices.Clone(asked)
	for _, f := range back {
		ids = append(ids, f.From, f.To)
	}
	for _, id := range asked {
		t.ahead[id] = true
	}
	for _, f := range on {
		t.ahead[f.To] = true
		ids = append(ids, f.From, f.To)
	}
	t.flows = slices.Concat(back, on)
	slices.Sort(ids)
	list, err := st.TracedLots(slices.Compact(ids)...)
	if err != nil {
		return t, err
	}
	if len(list) == 0 {
		return t, fmt.Errorf("lot to trace: %w", kernel.ErrNotFound)
	}
	var batches []int64
	for _, l := range list {
		t.lots[l.ID] = l
		if l.Kind == "batch" && t.ahead[l.ID] {
			batches = append(batches, l.Batch)
		}
	}
	if len(batches) > 0 {
		t.jars, err = st.JarsOf(batches...)
	}
	return t, err
}

func (t tracing) view() TraceView {
	out := TraceView{Of: "lot", Nodes: []kernel.TraceNode{}, Flows: []TraceFlow{}}
	columns := trace.Columns(t.flows)
	last := 0
	for _, id := range t.ids() {
		l := t.lots[id]
		n := nodeOf(l, columns[id], slices.Contains(t.asked, id))
		if n.Asked && n.Kind == "batch" {
			out.Of = "batch"
		}
		if n.Asked && out.Title == "" {
			out.Title = l.Name + ", " + l.Code
		}
		last = max(last, n.Column)
		out.Nodes = append(out.Nodes, n)
	}
	for _, f := range t.flows {
		out.Flows = append(out.Flows, TraceFlow{From: kernel.LotKey(f.From), To: kernel.LotKey(f.To), Grams: f.Grams})
	}
	t.places(&out, last+1)
	out.Columns = columnWords(last, len(out.Nodes) > len(t.lots))
	return out
}

func (t tracing) ids() []int64 {
	ids := make([]int64, 0, len(t.lots))
	for id := range t.lots {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return ids
}

// places adds where the jars are, one node for each place and party, in the order of a jar's way.
func (t tracing) places(out *TraceView, column int) {
	at := map[string]*kernel.TraceNode{}
	var order []*kernel.TraceNode
	var all [][]bench.JarsAt
	for _, id := range t.ids() {
		l := t.lots[id]
		if l.Kind != "batch" || !t.ahead[id] {
			continue
		}
		all = append(all, t.jars[l.Batch])
		for _, j := range t.jars[l.Batch] {
			if j.Jars == 0 {
				continue
			}
			key := fmt.Sprintf("place-%s-%d", j.Place, j.Party)
			n := at[key]
			if n == nil {
				n = &kernel.TraceNode{Key: key, Column: column, Kind: "place", ID: j.Party, Code: j.Place,
					Name: cmp.Or(j.PartyName, kernel.PlaceWords[j.Place])}
				at[key] = n
				order = append(order, n)
			}
			n.Jars += j.Jars
			out.Flows = append(out.Flows, TraceFlow{From: kernel.LotKey(id), To: key, Jars: j.Jars})
		}
	}
	slices.SortStableFunc(order, func(x, y *kernel.TraceNode) int {
		return slices.Index(bench.Places, x.Code) - slices.Index(bench.Places, y.Code)
	})
	for _, n := range order {
		out.Nodes = append(out.Nodes, *n)
	}
	out.Account = trace.AccountOf(all...)
}

func nodeOf(l kernel.TracedLot, column int, asked bool) kernel.TraceNode {
	n := kernel.TraceNode{Key: kernel.LotKey(l.ID), Column: column, Kind: l.Kind, ID: l.ID, Code: l.Code, Name: l.Name,
		Day: day.Of(l.Day), Supplier: l.Supplier, Said: l.Said, By: l.By, State: l.State, Bar: l.Bar,
		Ends: l.Ends, Received: amount.Milligrams(l.ReceivedMg), Used: amount.Milligrams(l.UsedMg), Jars: l.Jars,
		Value: l.Value, Frozen: l.Frozen, Asked: asked}
	if l.Kind == "batch" {
		n.ID = l.Batch
	}
	return n
}

// columnWords head the columns of a drawing whose lots end in a column, and whose jars, if there are any, come after.
func columnWords(last int, jars bool) []string {
	words := []string{"came in"}
	for c := 1; c <= last; c++ {
		words = append(words, "became")
	}
	if last > 0 {
		words[last] = "went into"
	}
	if jars {
		words = append(words, "is now")
	}
	return words
}
