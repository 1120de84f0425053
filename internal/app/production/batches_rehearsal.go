package production

import (
	"context"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/judge"
)

// RehearsalView is a rehearsal as it stands. Refused is why its last act was not taken; empty if it was.
type RehearsalView struct {
	Name     string                    `json:"name"`
	Planned  *bench.Planned            `json:"planned"`
	Loads    []bench.LoadState         `json:"loads"`
	Parts    map[string]formula.MakeUp `json:"parts"`
	Expected int                       `json:"jars_expected"`
	Refused  string                    `json:"refused"`
}

// Rehearse replays acts on a plan of a locked version for so many jars. Nothing is written.
func (a *Room) Rehearse(ctx context.Context, ref formula.Ref, jars int, acts []bench.Entry) (RehearsalView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return RehearsalView{}, err
	}
	none := int64(0)
	d, err := a.draft(st, PlanAsk{Ref: ref, Jars: jars, MadeOn: day.Of(a.TodayIn(s)), Vessel: &none})
	if err != nil {
		return RehearsalView{}, err
	}
	p := d.batch.Planned
	p.Errands = slices.DeleteFunc(p.Errands, func(e bench.Errand) bool { return strings.HasPrefix(e.Key, "prep-") })
	who := kernel.Actor(ctx)
	for i := range acts {
		acts[i].ID, acts[i].At, acts[i].By, acts[i].Role = int64(i+1), a.Now(), who.Name, who.Role
	}
	r := bench.Rehearse(p, bench.ForRehearsal(p, d.batch.Targets), acts)
	out := RehearsalView{Name: d.lib.Name(ref.Formula), Planned: p, Loads: r.Loads, Expected: r.Expected,
		Parts: judge.Batch{Version: d.version, Lib: d.lib}.Parts()}
	if r.Refused != nil {
		out.Refused = r.Refused.Error()
	}
	return out, nil
}
