package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// Vessel is a bowl, blender or line that products share. Least and Greatest are what it works with, Residue stays in
// it; nothing: nobody said.
type Vessel struct {
	ID       int64        `json:"id"`
	Name     string       `json:"name"`
	Rev      int          `json:"rev"`
	Retired  bool         `json:"retired"`
	Least    amount.Grams `json:"least_g"`
	Greatest amount.Grams `json:"greatest_g"`
	Residue  amount.Grams `json:"residue_g"`
}

// check says what is wrong with a vessel's figures.
func (v Vessel) check() error {
	for name, g := range map[string]amount.Grams{"least_g": v.Least, "greatest_g": v.Greatest, "residue_g": v.Residue} {
		if g.IsNegative() || g.Float() > amount.MaxGrams {
			return field(name, "between 0 and 10 000 kg")
		}
	}
	switch {
	case v.Greatest.IsPositive() && v.Least.Cmp(v.Greatest) >= 0:
		return field("least_g", "less than the %s g that it takes", v.Greatest)
	case v.Greatest.IsPositive() && v.Residue.Cmp(v.Greatest) >= 0:
		return field("residue_g", "less than the %s g that it takes", v.Greatest)
	case !v.Greatest.IsPositive() && v.Least.IsPositive():
		return field("greatest_g", "say what it takes at most, too")
	}
	return nil
}

// VesselEntry is one turn of a vessel. Allergens are of what was in it.
type VesselEntry struct {
	ID        int64              `json:"id"`
	Vessel    int64              `json:"vessel"`
	Kind      string             `json:"kind"` // used or cleaned
	Batch     int64              `json:"batch"`
	What      string             `json:"what"`
	Allergens law.Each[[]string] `json:"allergens"`
	At        time.Time          `json:"at"`
	EnteredAt time.Time          `json:"entered_at"`
	By        string             `json:"by"`
}

// Kinds of turns.
const (
	VesselUsed    = "used"
	VesselCleaned = "cleaned"
)

// VesselView is a vessel with what it carries now and what happened to it, the newest first.
type VesselView struct {
	Vessel
	Carries law.Each[[]allergen.Carry] `json:"carries"` // since its last clean-down
	Entries []VesselEntry              `json:"entries"`
}

// mostTurns is how many turns of a vessel are shown.
const mostTurns = 30

// Vessels lists the vessels with what was last in them.
func (a *App) Vessels(ctx context.Context) ([]VesselView, error) { return vesselViews(a.on(ctx)) }

func vesselViews(st Store) ([]VesselView, error) {
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
		x := VesselView{Vessel: v, Entries: []VesselEntry{},
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

// VesselTurns is a vessel that a batch was in, or is to be in, with its turns since its last clean-down before that, in
// the order in which they happened.
type VesselTurns struct {
	ID    int64
	Name  string
	Turns []VesselEntry
}

// held reports whether a batch was in it.
func (v VesselTurns) held(batch int64) bool {
	return slices.ContainsFunc(v.Turns, func(e VesselEntry) bool { return e.Batch == batch })
}

// turnsOf are the turns of vessels in the order in which they happened, by vessel.
func turnsOf(st Store, list []Vessel) (map[int64][]VesselEntry, error) {
	ids := make([]int64, len(list))
	for i, v := range list {
		ids[i] = v.ID
	}
	entries, err := st.VesselEntries(ids...)
	out := map[int64][]VesselEntry{}
	for _, e := range entries {
		out[e.Vessel] = append(out[e.Vessel], e)
	}
	return out, err
}

func asTurns(entries []VesselEntry) []allergen.Turn {
	out := make([]allergen.Turn, 0, len(entries)+1)
	for _, e := range entries {
		out = append(out, allergen.Turn{Cleaned: e.Kind == VesselCleaned, Batch: e.Batch, What: e.What,
			Allergens: e.Allergens})
	}
	return out
}

// SaveVessel stores a vessel, a new one where its id is 0.
func (a *App) SaveVessel(ctx context.Context, v Vessel, rev int) ([]VesselView, error) {
	if err := may(ctx, people.Maker, "The list of vessels"); err != nil {
		return nil, err
	}
	v.Name = strings.TrimSpace(v.Name)
	if n := len([]rune(v.Name)); n == 0 || n > 60 {
		return nil, field("name", "a name of 1 to 60 characters, as it stands on the vessel")
	}
	if err := v.check(); err != nil {
		return nil, err
	}
	return once(ctx, a, func(st Store) ([]VesselView, error) {
		var err error
		if v.ID == 0 {
			err = st.AddVessel(&v)
		} else {
			if err := a.retires(ctx, false, v.Retired); err != nil {
				return nil, err
			}
			err = st.PutVessel(v, rev)
		}
		switch {
		case errors.Is(err, ErrTaken):
			return nil, field("name", "there is a vessel called %s already", v.Name)
		case errors.Is(err, ErrConflict):
			return nil, Problem{Kind: Clash, Code: "changed_meanwhile",
				Message: "This vessel was changed meanwhile: close this and open it again."}
		case err != nil:
			return nil, err
		}
		return vesselViews(st)
	})
}

// NoteVessel writes down that something was in a vessel, or that it was cleaned down. Of a batch its allergens are
// taken from the book.
func (a *App) NoteVessel(ctx context.Context, e VesselEntry) ([]VesselView, error) {
	by, err := person(ctx)
	if err != nil {
		return nil, err
	}
	e.What, e.By, e.EnteredAt = strings.TrimSpace(e.What), by, a.Now()
	if e.At.IsZero() {
		e.At = e.EnteredAt
	}
	if errs := e.check(a.Now()); len(errs) > 0 {
		return nil, invalid(errs...)
	}
	return once(ctx, a, func(st Store) ([]VesselView, error) {
		list, err := st.Vessels()
		if err != nil {
			return nil, err
		}
		if !slices.ContainsFunc(list, func(v Vessel) bool { return v.ID == e.Vessel && !v.Retired }) {
			return nil, fmt.Errorf("vessel %d: %w", e.Vessel, ErrNotFound)
		}
		if e.Batch != 0 {
			l, err := a.load(st, e.Batch)
			if err != nil {
				return nil, err
			}
			e.What, e.Allergens = l.row.Code+", "+l.name, law.Each[[]string]{}
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

func (e VesselEntry) check(now time.Time) []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(field, message string) { errs = append(errs, pantry.FieldError{Field: field, Message: message}) }
	if e.Kind != VesselUsed && e.Kind != VesselCleaned {
		bad("kind", "was something in it, or was it cleaned down?")
	}
	if n := len([]rune(e.What)); n > 120 || n == 0 && e.Batch == 0 {
		bad("what", "say in at most 120 characters what was in it, or how it was cleaned")
	}
	if e.At.After(now.Add(time.Minute)) {
		bad("at", "this time has not come yet")
	}
	if e.Kind == VesselCleaned && (e.Batch != 0 || anyCode(e.Allergens)) {
		bad("kind", "a clean-down brings nothing in")
	}
	for r, codes := range e.Allergens {
		l, err := law.Of(r)
		for _, code := range codes {
			if err != nil || !l.Known(code) {
				bad("allergens", fmt.Sprintf("%q is no allergen that Gallipot knows", code))
			}
		}
	}
	return errs
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

// contact is what a batch may contain: by suppliers' statements, and by vessels it was in that were not cleaned
// down before it.
func (l loaded) contact() CrossContact {
	out := CrossContact{MayContain: law.Each[[]Contact]{}, Vessels: []string{}}
	carried := make([]law.Each[[]allergen.Carry], len(l.were))
	for i, v := range l.were {
		if v.held(l.row.ID) {
			out.Vessels = append(out.Vessels, v.Name)
		}
		carried[i] = allergen.CarriedInto(asTurns(v.Turns), l.row.ID, l.panel.Allergens)
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
