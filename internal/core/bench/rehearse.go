package bench

// Rehearsed is a rehearsal as it stands: the loads, what was written down last if it was not taken, and how many jars
// it would fill. Nothing of it is kept.
type Rehearsed struct {
	Loads    []LoadState
	Expected int
	Refused  error
}

// Rehearse plays acts on a plan from its beginning. Acts after one that is refused are not looked at.
func Rehearse(p *Planned, targets []Target, entries []Entry) Rehearsed {
	w := NewWeighout(p, targets)
	var out Rehearsed
	for _, e := range entries {
		if out.Refused = w.Refuses(e); out.Refused != nil {
			break
		}
		w.Add(e)
	}
	out.Loads, out.Expected = w.Loads(), w.Expected()
	return out
}

// ForRehearsal is a plan with something to learn on: where no line is held back, the least of those that do not sour
// is, by half. Nothing is hot, and everything is there.
func ForRehearsal(p *Planned, targets []Target) []Target {
	out := make([]Target, len(targets))
	copy(out, targets)
	least, holds := -1, false
	for i := range out {
		out[i].Hot, out[i].NeedsLot = "", false
		holds = holds || out[i].Hold > 0
		fits := i < len(p.Loads[0]) && out[i].Class != PoursThin && out[i].Grams.IsPositive()
		if fits && (least < 0 || out[i].Grams.Cmp(out[least].Grams) < 0) {
			least = i
		}
	}
	if !holds && least >= 0 {
		out[least].Hold = 50
	}
	return out
}
