package store

import (
	"gallipot/internal/core/amount"
	"gallipot/internal/core/trace"
)

// What goes out of a lot, and what went into one. They are asked lot by lot on the way, each by an index, so that a
// trace costs as much as it finds, however many lots there are (docs/trace.md).
var (
	out  = query("flow_out")
	into = query("flow_in")
)

// FlowsFrom returns all that lots went into, however many batches lie between; against is what went into them instead.
func (s *Store) FlowsFrom(against bool, lots ...int64) ([]trace.Flow, error) {
	step, end := out, "target"
	if against {
		step, end = into, "source"
	}
	var rows []struct{ Source, Target, Grams int64 }
	err := s.db.Raw(query("flow_head")+step+query("flow_step")+end+query("flow_end")+step+query("flow_tail"),
		idList(lots)).Scan(&rows).Error
	list := make([]trace.Flow, len(rows))
	for i, r := range rows {
		list[i] = trace.Flow{From: r.Source, To: r.Target, Grams: amount.Milligrams(r.Grams)}
	}
	return list, translate(err)
}

// TracedLots returns what a trace shows of lots.
func (s *Store) TracedLots(ids ...int64) ([]trace.Lot, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var out []trace.Lot
	err := s.db.Raw(query("traced_lots"), idList(ids)).Scan(&out).Error
	return out, translate(err)
}

// LotsByText returns the lots that are called by one of these texts: a code of ours, a batch's, or the supplier's
// words.
func (s *Store) LotsByText(texts ...string) ([]int64, error) {
	var ids []int64
	err := s.db.Raw(query("lots_by_text"), texts,
		inSmall(texts)).Scan(&ids).Error
	return ids, translate(err)
}
