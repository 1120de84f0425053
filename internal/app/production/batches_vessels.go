package production

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/labelart"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/allergen"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/law"
	"gallipot/internal/core/people"
)

// VesselView is a vessel with what it carries now and what happened to it, the newest first.
type VesselView struct {
	kernel.Vessel
	Carries law.Each[[]allergen.Carry] `json:"carries"` // since its last clean-down
	Entries []kernel.VesselEntry       `json:"entries"`
}

// mostTurns is how many turns of a vessel are shown.
const mostTurns = 30

// Vessels lists the vessels with what was last in them.
func (a *Room) Vessels(ctx context.Context) ([]VesselView, error) { return vesselViews(a.On(ctx)) }

func vesselViews(st kernel.Store) ([]VesselView, error) {
	list, err := st.Vessels()
	if err != nil {
		return nil, err
	}
	turns, err := turnsOf(st, list)
	if err != nil {
		return nil, err
	}
	out := []VesselView{}
	for _, v := range list {
		own := turns[v.ID]
		x := VesselView{Vessel: v, Entries: []kernel.VesselEntry{},
			Carries: allergen.CarriedInto(append(asTurns(own), allergen.Turn{Batch: -1}), -1, nil)}
		for _, l := range law.All() {
			if x.Carries[l.Regime] == nil {
				x.Carries[l.Regime] = []allergen.Carry{}
			}
		}
		for _, e := range slices.Backward(own) {
			if len(x.Entries) < mostTurns {
				x.Entries = append(x.Entries, e)
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// turnsOf are the turns of vessels in the order in which they happened, by vessel.
func turnsOf(st kernel.Store, list []kernel.Vessel) (map[int64][]kernel.VesselEntry, error) {
	ids := make([]int64, len(list))
	for i, v := range list {
		ids[i] = v.ID
	}
	entries, err := st.VesselEntries(ids...)
	out := map[int64][]kernel.VesselEntry{}
	for _, e := range entries {
		out[e.Vessel] = append(out[e.Vessel], e)
	}
	return out, err
}

func asTurns(entries []kernel.VesselEntry) []allergen.Turn {
	out := make([]allergen.Turn, 0, len(entries)+1)
	for _, e := range entries {
		out = append(out, allergen.Turn{Cleaned: e.Kind == bench.VesselCleaned, Batch: e.Batch, What: e.What,
			Allergens: e.Allergens})
	}
	return out
}

// SaveVessel stores a vessel, a new one where its id is 0.
func (a *Room) SaveVessel(ctx context.Context, v kernel.Vessel, rev int) ([]VesselView, error) {
	if err := kernel.May(ctx, people.Maker, "The list of vessels"); err != nil {
		return nil, err
	}
	v.Name = strings.TrimSpace(v.Name)
	if n := len([]rune(v.Name)); n == 0 || n > 60 {
		return nil, kernel.Mistake("name", "a name of 1 to 60 characters, as it stands on the vessel")
	}
	if err := v.Check(); err != nil {
		return nil, err
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) ([]VesselView, error) {
		var err error
		if v.ID == 0 {
			err = st.AddVessel(&v)
		} else {
			if err := a.Retires(ctx, false, v.Retired); err != nil {
				return nil, err
			}
			err = st.PutVessel(v, rev)
		}
		switch {
		case errors.Is(err, kernel.ErrTaken):
			return nil, kernel.Mistake("name", "there is a vessel called %s already", v.Name)
		case errors.Is(err, kernel.ErrConflict):
			return nil, kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
				Message: "This vessel was changed meanwhile: close this and open it again."}
		case err != nil:
			return nil, err
		}
		return vesselViews(st)
	})
}

// NoteVessel writes down that something was in a vessel, or that it was cleaned down. Of a batch its allergens are
// taken from the book.
func (a *Room) NoteVessel(ctx context.Context, e kernel.VesselEntry) ([]VesselView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return nil, err
	}
	e.What, e.By, e.EnteredAt = strings.TrimSpace(e.What), by, a.Now()
	if e.At.IsZero() {
		e.At = e.EnteredAt
	}
	if errs := e.Check(a.Now()); len(errs) > 0 {
		return nil, kernel.Mistakes(errs...)
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) ([]VesselView, error) {
		list, err := st.Vessels()
		if err != nil {
			return nil, err
		}
		if !slices.ContainsFunc(list, func(v kernel.Vessel) bool { return v.ID == e.Vessel && !v.Retired }) {
			return nil, fmt.Errorf("vessel %d: %w", e.Vessel, kernel.ErrNotFound)
		}
		if e.Batch != 0 {
			l, err := a.Load(st, e.Batch)
			if err != nil {
				return nil, err
			}
			e.What, e.Allergens = l.Row.Code+", "+l.name, law.Each[[]string]{}
			for _, under := range law.All() {
				e.Allergens[under.Regime] = l.panel.Allergens[under.Regime]
			}
		}
		if err := st.AddVesselEntry(e); err != nil {
			return nil, err
		}
		return vesselViews(st)
	})
}

// Contact is what a batch may contain: by suppliers' statements, and by vessels it was in that were not cleaned
// down before it.
func (l Loaded) Contact() CrossContact {
	out := CrossContact{MayContain: law.Each[[]Contact]{}, Vessels: []string{}}
	carried := make([]law.Each[[]allergen.Carry], len(l.were))
	for i, v := range l.were {
		if v.Held(l.Row.ID) {
			out.Vessels = append(out.Vessels, v.Name)
		}
		carried[i] = allergen.CarriedInto(asTurns(v.Turns), l.Row.ID, l.panel.Allergens)
	}
	for _, under := range law.All() {
		r := under.Regime
		out.MayContain[r] = []Contact{}
		add := func(code, from string) {
			if slices.Contains(l.panel.Allergens[r], code) {
				return
			}
			i := slices.IndexFunc(out.MayContain[r], func(c Contact) bool { return c.Code == code })
			if i < 0 {
				out.MayContain[r] = append(out.MayContain[r], Contact{code, []string{from}})
			} else if !slices.Contains(out.MayContain[r][i].From, from) {
				out.MayContain[r][i].From = append(out.MayContain[r][i].From, from)
			}
		}
		for _, code := range l.panel.MayContain[r] {
			add(code, "a supplier's statement")
		}
		for i, v := range l.were {
			for _, c := range carried[i][r] {
				add(c.Code, v.Name+", after "+c.From)
			}
		}
		slices.SortStableFunc(out.MayContain[r],
			func(x, y Contact) int { return under.Rank(x.Code) - under.Rank(y.Code) })
	}
	return out
}

// sentence is the line on a label; empty where nothing may be in it.
func (x CrossContact) sentence(under *law.Law) string {
	var words []string
	for _, c := range x.MayContain[under.Regime] {
		words = append(words, under.Word(c.Code))
	}
	if len(words) == 0 {
		return ""
	}
	return "May contain " + strings.Join(words, ", ") + "."
}

// Contact is an allergen that a batch may contain without being made of it, with where that comes from.
type Contact struct {
	Code string   `json:"code"`
	From []string `json:"from"`
}

// CrossContact is the cross-contact assessment of a batch, by law; Vessels are those it is written down to have been
// in.
type CrossContact struct {
	MayContain law.Each[[]Contact] `json:"may_contain"`
	Vessels    []string            `json:"vessels"`
}

// OnLabel puts what a batch may contain on its label and its check list.
func (x CrossContact) OnLabel(c *labelart.Content, f *labelart.Facts, under *law.Law) {
	c.MayContain, f.Assessed = x.sentence(under), len(x.Vessels) > 0
	for _, contact := range x.MayContain[under.Regime] {
		f.Contact = append(f.Contact, under.Word(contact.Code)+" ("+strings.Join(contact.From, "; ")+")")
	}
}

// lastIn reports whether the batch was the last thing in a vessel.
func (l Loaded) lastIn(vessel int64) bool {
	return slices.ContainsFunc(l.were, func(v kernel.VesselTurns) bool {
		return v.ID == vessel && len(v.Turns) > 0 && v.Turns[len(v.Turns)-1].Batch == l.Row.ID
	})
}

// usesVessel writes down that the batch was in its vessel, with the first thing that went into it, and that the vessel
// was cleaned down before.
func (a *Room) usesVessel(st kernel.Store, l Loaded, e bench.Entry, record *kernel.BatchRecord) error {
	turn, ok := l.turns(e)
	if !ok {
		return nil
	}
	record.Vessels, record.Turned = slices.Clone(record.Vessels), record.Turned+1
	for i, v := range record.Vessels {
		if v.ID == turn.Vessel {
			now := append(slices.Clip(v.Turns), turn)
			slices.SortStableFunc(now, func(x, y kernel.VesselEntry) int { return x.At.Compare(y.At) })
			record.Vessels[i].Turns = now
		}
	}
	return st.AddVesselEntry(turn)
}

// turns is what an entry does to the batch's vessel, and whether it does anything.
func (l Loaded) turns(e bench.Entry) (kernel.VesselEntry, bool) {
	p := l.Row.Planned
	if p == nil || p.Vessel.ID == 0 {
		return kernel.VesselEntry{}, false
	}
	turn := kernel.VesselEntry{Vessel: p.Vessel.ID, Kind: bench.VesselUsed, Batch: l.Row.ID,
		What:      l.name + ", " + l.Row.Code,
		Allergens: law.Each[[]string]{}, At: e.At, EnteredAt: e.At, By: e.By}
	switch x := e.Body.(type) {
	case *bench.Ticked:
		turn.Kind, turn.Batch, turn.What = bench.VesselCleaned, 0, "before "+l.Row.Code
		return turn, x.Key == bench.CleanDown && !x.Off
	case *bench.Counted:
		// what came into the vessel after this batch stays in it, whenever the tick is made
		turn.Kind, turn.Batch, turn.What = bench.VesselCleaned, 0, "after "+l.Row.Code
		was := l.Record.Counted
		return turn, x.Clean && (was == nil || !was.Clean) && l.lastIn(p.Vessel.ID)
	case *bench.Capture:
		for _, under := range law.All() {
			turn.Allergens[under.Regime] = l.panel.Allergens[under.Regime]
		}
		return turn, !l.Record.Bench && !slices.ContainsFunc(l.were, func(v kernel.VesselTurns) bool {
			return v.ID == p.Vessel.ID && v.Held(l.Row.ID)
		})
	}
	return turn, false
}
