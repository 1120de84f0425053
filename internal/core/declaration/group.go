package declaration

import (
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// groupSpices sums spices under one name: US 21 CFR 101.22(a)(2); never garlic, onion, celery powder or salt, and
// colouring spices stay named. A spice that carries an allergen stays named too. Where the law tells herbs from spices
// each has its own name and its own share (annex VII part B).
func groupSpices(entries []*entry, l *law.Law, finished float64) []*entry {
	most := l.SpiceShare * finished
	if !l.HerbsApart {
		return grouped(entries, "spices", most, func(*entry) bool { return true })
	}
	entries = grouped(entries, "herbs", most, func(e *entry) bool { return e.herb })
	return grouped(entries, "spices", most, func(e *entry) bool { return !e.herb })
}

// grouped sums the spices of a kind under one name; most is the grams up to which the law lets them be grouped, 0 for
// any.
func grouped(entries []*entry, name string, most float64, kind func(*entry) bool) []*entry {
	of := func(e *entry) bool { return e.spice && len(e.allergens) == 0 && !e.quid && kind(e) }
	sum, first := 0.0, true
	for _, e := range entries {
		if of(e) {
			sum += e.grams
		}
	}
	if sum == 0 || most > 0 && sum > most+1e-9 {
		return entries
	}
	out := entries[:0:0]
	for _, e := range entries {
		switch {
		case !of(e):
			out = append(out, e)
		case first:
			first = false
			out = append(out, &entry{name: name, grams: sum, order: e.order})
		}
	}
	return out
}

// oneSalt sums salts of several names under the name they share: 9 g of one thing are 9 g.
func oneSalt(entries []*entry) []*entry {
	of := func(e *entry) bool { return e.salt && e.printed == "" && len(e.allergens) == 0 }
	var sum *entry
	out := entries[:0:0]
	for _, e := range entries {
		switch {
		case !of(e):
			out = append(out, e)
		case sum == nil:
			first := *e
			sum = &first
			out = append(out, sum)
		default:
			sum.name, sum.folded = pantry.FlagSalt, pantry.FlagSalt
			sum.grams += e.grams
			sum.quid = sum.quid || e.quid
		}
	}
	return out
}
