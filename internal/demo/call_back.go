package demo

import (
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/release"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
)

// tellCallBack tells of a batch that was released on its first readings, with labels on its jars, and failed the next
// day. It is being worked off: the jars are marked, and one was read again.
func (r *room) tellCallBack(now time.Time) error {
	ctx, a := r.ctx, r.app
	s := story{formula: "beetroot_horseradish_dip", version: 2, daysAgo: 2, jars: 48, short: 1, firstDay: 4.02,
		spread: 0.03, perished: 22}
	made := time.Date(now.Year(), now.Month(), now.Day(), 8, 0, 0, 0, now.Location()).AddDate(0, 0, -s.daysAgo)
	id, err := r.tell(now, len(stories), s)
	if err != nil {
		return err
	}
	t := &teller{ctx: ctx, app: a, id: id, tag: "back"}
	released := made.Add(6 * time.Hour)
	if err := t.write(released, owner, bench.Entry{Body: &bench.Decided{State: bench.Released}}); err != nil {
		return err
	}
	labels, err := a.Release.Labels(ctx)
	if err != nil {
		return err
	}
	for _, l := range labels {
		if l.Formula != s.formula || l.Regime != law.GB {
			continue
		}
		if _, err := at(a, released.Add(10*time.Minute)).Release.Print(ctx, l.ID,
			release.PrintAsk{Batch: id, Count: s.jars - s.short}, "demo-back"); err != nil {
			return err
		}
	}
	if err := r.sendBack(t, released.Add(2*time.Hour)); err != nil {
		return err
	}
	if err := t.read(made.Add(30*time.Hour), 1, 4.66, 0.05, s.formula); err != nil {
		return err
	}
	for _, l := range labels {
		if l.Formula != s.formula || l.Regime != law.GB {
			continue
		}
		if _, err := at(a, made.Add(31*time.Hour)).Release.Print(kernel.As(ctx, maker), l.ID,
			release.PrintAsk{Batch: id, Count: 31}, "demo-marked"); err != nil {
			return err
		}
	}
	return nil
}
