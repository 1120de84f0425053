package release

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/law"
	"gallipot/internal/core/trace"
)

// TraceView is a trace with how long the book took to lay it out.
type TraceView struct {
	trace.Drawing
	TookMS float64 `json:"took_ms"`
}

// TraceAsk is what a trace starts from: the lots of these ids, or whatever a code names.
type TraceAsk struct {
	Lots  []int64
	Batch int64
	Code  string
}

// Trace follows lots to every jar that contains any of them, and batches back to every lot that went in. Errors:
// ErrNotFound.
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
	drawing := t.Draw()
	return TraceView{drawing, float64(time.Since(began).Microseconds()) / 1000}, nil
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

// printed lists what a code may stand for: itself, and as a label prints it under each law.
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

// traced reads where lots went and, for batches among them, where they came from.
func traced(st kernel.Store, asked []int64) (trace.Found, error) {
	t := trace.Found{Asked: asked, Lots: map[int64]trace.Lot{}, Ahead: map[int64]bool{}}
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
		t.Ahead[id] = true
	}
	for _, f := range on {
		t.Ahead[f.To] = true
		ids = append(ids, f.From, f.To)
	}
	t.Flows = slices.Concat(back, on)
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
		t.Lots[l.ID] = l
		if t.Reached(l.ID) {
			batches = append(batches, l.Batch)
		}
	}
	if len(batches) > 0 {
		t.Jars, err = st.JarsOf(batches...)
	}
	return t, err
}
