package production

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/people"
)

// Write appends an entry to a batch record. The key makes it safe to send twice: the second time nothing is written,
// and different content with the same key is refused. told is called while the transaction commits, with a function
// that makes the view of the batch; the view is valid only if Write returns no error.
func (a *Room) Write(ctx context.Context, id int64, e bench.Entry, key string, told func(func() BatchView)) error {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return err
	}
	if key == "" || len(key) > kernel.MaxKey {
		return kernel.Mistake("key", "an idempotency key has 1 to %d characters", kernel.MaxKey)
	}
	if e.Kind() == "" {
		return kernel.Mistake("kind", "an entry needs its own details")
	}
	digest := kernel.DigestOf([]any{e.Kind(), e.Body})
	e.ID, e.Seq, e.By, e.Role, e.At = 0, 0, by, kernel.Actor(ctx).Role, a.Now()
	var read kernel.BatchRecord
	var desk *judging
	err = EntryKeyTaken(a.In(ctx, func(st kernel.Store) error {
		before, l, as, err := a.written(st, id, e, key, digest)
		if err != nil {
			return err
		}
		if err := a.sistersToo(ctx, st, before, l); err != nil {
			return err
		}
		told(l.View)
		read, desk = as, l.desk
		return a.settleAfter(ctx, st, []Loaded{l}, map[int64][]bench.Took{id: before.Record.Draws()})
	}))
	if err == nil {
		a.Desk.keep(desk, read)
	}
	return err
}

// written appends an entry unless its key was used before. It returns the batch as it was and as it is afterwards, with
// its record.
func (a *Room) written(st kernel.Store, id int64, e bench.Entry, key string, digest []byte) (before, after Loaded,
	record kernel.BatchRecord, err error) {
	var texts []string
	for _, d := range bench.DrawsOf(e.Body) {
		texts = append(texts, CallsFor(d.Code)...)
	}
	if before, record, err = a.opens(st, id, key, texts); err != nil {
		return before, after, record, err
	}
	switch {
	case record.Digest == nil:
		after, err = a.entered(st, before, &record, e, key, digest)
	case Same(record.Digest, digest):
		after = before
	default:
		err = kernel.OtherContent()
	}
	return before, after, record, err
}

// entered appends an entry to the record of a batch and reads the batch as it is afterwards.
func (a *Room) entered(st kernel.Store, l Loaded, record *kernel.BatchRecord, e bench.Entry, key string,
	digest []byte) (Loaded,
	error) {
	if err := a.checkEntry(st, l, &e); err != nil {
		return l, err
	}
	e.ID, e.Seq = record.Next, len(record.Entries)+1
	stored, err := st.AddEntry(l.Row.ID, e, key, digest)
	if err != nil {
		return l, err
	}
	if err := a.usesVessel(st, l, e, record); err != nil {
		return l, err
	}
	record.Entries = append(slices.Clip(record.Entries), stored)
	return l.desk.recorded(st, *record, l.Needs.Lots)
}

// Same reports whether an entry has the content that was written with its key. Entries without a digest are older than
// digests and count as the same.
func Same(kept, digest []byte) bool { return len(kept) == 0 || bytes.Equal(kept, digest) }

// EntryKeyTaken is the refusal of a key that was used in another batch.
func EntryKeyTaken(err error) error {
	if errors.Is(err, kernel.ErrTaken) {
		return kernel.OtherContent()
	}
	return err
}

// checkEntry checks an entry and fills in what the core computes.
func (a *Room) checkEntry(st kernel.Store, l Loaded, e *bench.Entry) error {
	if err := a.checkBody(st, l, e); err != nil {
		return err
	}
	if err := l.Fold().Refuses(*e); err != nil {
		return RefusalOf(err, l.View())
	}
	if d, ok := e.Body.(*bench.Decided); ok {
		return l.decide(d, e.At, e.By)
	}
	return nil
}

// checkBody checks an entry of its kind and fills in what it leaves to the program.
func (a *Room) checkBody(st kernel.Store, l Loaded, e *bench.Entry) error {
	if !bench.WrittenByHand(e.Kind()) {
		return kernel.Mistake("kind", "an entry of kind %q is not written by hand", e.Kind())
	}
	if err := bench.Tidy(*e); err != nil {
		return RefusalOf(err, nil)
	}
	switch x := e.Body.(type) {
	case *bench.Weighing:
		if err := a.checkWeighing(st, l, x); err != nil {
			return err
		}
		return a.checkCorrection(st, l, e.Role, x)
	case bench.LoadAct, *bench.Cooled:
		return a.checkBench(st, l, e)
	case *bench.Fill:
		return a.checkFill(l, x)
	case *bench.Counted:
		return RefusalOf(l.Made().RefusesCount(x), nil)
	case *acidity.Reading:
		return a.checkReading(st, l, x)
	case *bench.Laboratory:
		return l.questioned(e.Role, x)
	case *bench.Decided:
		return cmp.Or(kernel.OfRecall(st, l.Row.ID, x.State), ofSisters(st, l.Row.ID, x, e.Role), l.checkDecision(x))
	case *bench.Moved:
		return a.checkMove(st, l, x)
	}
	return nil
}

// toTheMinute turns a time typed as the current minute into now.
func (a *Room) toTheMinute(at time.Time) time.Time {
	if now := a.Now(); at.Second() == 0 && at.Nanosecond() == 0 && now.Truncate(time.Minute).Equal(at) {
		return now
	}
	return at
}

func (a *Room) checkFill(l Loaded, f *bench.Fill) error {
	if f.Jars < 0 || f.Jars > 100_000 || f.Rejected < 0 || f.Rejected > 100_000 {
		return kernel.Mistake("fill.jars", "between 0 and 100 000 jars")
	}
	if f.At.IsZero() {
		return kernel.Mistake("fill.at", "when was the last jar closed?")
	}
	f.At = a.toTheMinute(f.At)
	if l.beforeMaking(f.At) {
		return kernel.Mistake("fill.at", "the filling lies between the day of making and now")
	}
	f.Followed, f.Weighed = true, true
	return RefusalOf(l.Made().RefusesFill(f), nil)
}

// beforeMaking reports whether a time lies before the shop's day on which the batch was made.
func (l Loaded) beforeMaking(at time.Time) bool {
	return day.Of(at.In(l.Book.Settings.Zone())) < day.Of(l.Row.MadeOn)
}

// questioned refuses a laboratory's value far below the estimate unless an owner, who has the report, enters it.
func (l Loaded) questioned(role people.Role, x *bench.Laboratory) error {
	aw := l.panel.WaterActivity
	if aw == nil || !acidity.FarUnder(x.WaterActivity, *aw) || role.May(people.Owner) {
		return nil
	}
	return kernel.Problem{Kind: kernel.Forbidden, Code: entry.NotYours,
		Message: fmt.Sprintf(
			"%.3f lies more than %.2f under the estimate of %.3f: an owner enters it, with the report in hand.",
			x.WaterActivity, acidity.QuestionedUnder, *aw)}
}

func (l Loaded) checkDecision(d *bench.Decided) error {
	d.Way, d.Sentence, d.Value, d.Rested = "", "", 0, nil
	if d.Seen == 0 && l.Record.Last > 0 {
		return kernel.Mistake("decision.seen", "a decision names the last entry its author saw")
	}
	return nil
}

// decide fills in what a decision rests on, once the record does not refuse it. Only measurements release a batch, and
// only if the rules give it a storage life.
func (l Loaded) decide(d *bench.Decided, at time.Time, by string) error {
	d.Value, d.Sentence = l.Record.Acidity.Value, l.Record.Acidity.Sentence
	if d.State == bench.Released {
		if missing := l.standing(); len(missing) > 0 {
			return kernel.Refuse(entry.NotReady, "Not released. Still needed: %s.", strings.Join(missing, "; "))
		}
		if v := l.judged(l.Book.Law); v.Days == nil {
			return kernel.Refuse("no_life", "Not released. %s", v.Reason)
		}
		d.Way = l.Record.Acidity.Way
	}
	var err error
	d.Rested, err = json.Marshal(l.restsOn(d.State, at, by))
	return err
}
