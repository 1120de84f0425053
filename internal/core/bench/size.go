package bench

import (
	"fmt"
	"unicode"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// Ask is what a batch must give, and what it is made in. Least and Greatest are the vessel's working mass; where
// Greatest is nothing, no vessel is named and the batch is one load. Residue stays in the vessel at each load. Grow is
// how many grams go in for one gram that comes out, where water is driven off; nothing counts as 1.
type Ask struct {
	Jars     int
	Fill     amount.Grams
	Over     amount.Percent
	Loss     amount.Percent
	Samples  amount.Grams
	Residue  amount.Grams
	Least    amount.Grams
	Greatest amount.Grams
	Division amount.Grams
	Grow     amount.Exact
}

// Size is how much goes in, and in which loads: equal ones in whole divisions of the scale, which add up to the total.
type Size struct {
	Loads      int
	Total      amount.Grams
	Load       []amount.Grams
	BelowLeast bool // a load is too little for the vessel
}

// mostLoads is how many loads a batch has at most; more is another vessel.
const mostLoads = 40

// Needed is what must be in the bowls beside their residues: (jars x fill x (1 + over) + samples) / (1 - loss).
func (a Ask) Needed() amount.Exact {
	out := a.Fill.Exact().Times(amount.More(a.Over)).Times(amount.Whole(int64(a.Jars))).Plus(a.Samples.Exact())
	return out.Over(amount.Rest(a.Loss)).Times(a.grow())
}

func (a Ask) grow() amount.Exact {
	if a.Grow.IsPositive() {
		return a.Grow
	}
	return amount.Whole(1)
}

func (a Ask) residue() amount.Exact { return a.Residue.Exact().Times(a.grow()) }

// Loads is the fewest loads of which none is over the vessel's greatest; 1 where no vessel is named, or where one takes
// less than what stays in it.
func (a Ask) Loads() int {
	room := a.Greatest.Exact().Minus(a.residue())
	if !a.Greatest.IsPositive() || !room.IsPositive() {
		return 1
	}
	return int(max(1, ceiling(a.Needed().Over(room))))
}

// In is what goes into so many loads, not rounded to a scale's divisions.
func (a Ask) In(loads int) amount.Exact {
	return a.Needed().Plus(a.residue().Times(amount.Whole(int64(loads))))
}

// Size solves loads and residue together: the fewest loads of which none is over the vessel's greatest (handbook 04).
// Errors: FieldError of the field that is wrong.
func (a Ask) Size() (Size, error) {
	if a.Greatest.IsPositive() && a.residue().Cmp(a.Greatest.Exact()) >= 0 {
		return Size{}, pantry.FieldError{Field: "residue_g",
			Message: "as much would stay in the vessel as it takes: look at both figures again"}
	}
	loads := a.Loads()
	if loads > mostLoads {
		return Size{}, pantry.FieldError{Field: "jars",
			Message: fmt.Sprintf("this is more than %d loads of the vessel; choose a larger one or fewer jars",
				mostLoads)}
	}
	for {
		s := a.sized(loads)
		if !a.Greatest.IsPositive() || s.Load[0].Cmp(a.Greatest) <= 0 || loads >= mostLoads {
			return s, nil
		}
		loads++ // whole divisions carried it over
	}
}

func (a Ask) sized(loads int) Size {
	division := a.Division.Steps()
	if division <= 0 {
		division = 1
	}
	steps := ceiling(a.In(loads).Times(amount.Ratio(1000, division)))
	s := Size{Loads: loads, Total: amount.Milligrams(steps * division)}
	for i := range int64(loads) {
		n := steps / int64(loads)
		if i < steps%int64(loads) {
			n++
		}
		s.Load = append(s.Load, amount.Milligrams(n*division))
	}
	s.BelowLeast = s.Load[loads-1].Cmp(a.Least) < 0
	return s
}

func ceiling(x amount.Exact) int64 {
	n := x.Floor()
	if x.Cmp(amount.Whole(n)) > 0 {
		n++
	}
	return n
}

// JarsOf is how many jars so many grams in fill, in so many loads, after residues, loss and samples.
func (a Ask) JarsOf(in amount.Exact, loads int) int {
	jar := a.Fill.Exact().Times(amount.More(a.Over))
	if !jar.IsPositive() {
		return 0
	}
	out := in.Minus(a.residue().Times(amount.Whole(int64(loads)))).Over(a.grow()).Times(amount.Rest(a.Loss))
	return max(0, int(out.Minus(a.Samples.Exact()).Over(jar).Floor()))
}

// JarsFrom is how many jars so many grams in fill, in as many loads as the vessel asks for.
func (a Ask) JarsFrom(in amount.Exact) int {
	loads := 1
	if a.Greatest.IsPositive() {
		loads = int(max(1, ceiling(in.Over(a.Greatest.Exact()))))
	}
	return a.JarsOf(in, loads)
}

// LeastJars is the smallest batch that the vessel works with.
func (a Ask) LeastJars() int {
	n := a.JarsOf(a.Least.Exact(), 1)
	for b := a; ; n++ {
		if b.Jars = n; b.sized(1).Total.Cmp(a.Least) >= 0 || n > maxJars {
			return n
		}
	}
}

// Word says in a sentence what the loads are and why, and what to do where the amount does not suit the vessel.
func (a Ask) Word(s Size, vessel string) string {
	g := func(x amount.Grams) string { return amount.Shown(x.Float(), 0) }
	switch {
	case !a.Greatest.IsPositive():
		return "No vessel is named: name the one it is made in, and its loads follow."
	case s.BelowLeast && s.Loads == 1:
		return fmt.Sprintf(
			"%s g is too little for %s, which works from %s g: make %d jars or more, or take a smaller vessel.",
			g(s.Total), vessel, g(a.Least), a.LeastJars())
	case s.BelowLeast:
		return fmt.Sprintf(
			"%d loads of %s g are too little each for %s, which works from %s g; fewer would be over its %s g. "+
				"Take fewer jars, more jars, or another vessel.", s.Loads, g(s.Load[s.Loads-1]), vessel, g(a.Least),
			g(a.Greatest))
	case s.Loads == 1:
		return fmt.Sprintf("One load: %s works from %s g and takes %s g.", vessel, g(a.Least), g(a.Greatest))
	}
	fewer := a.sized(s.Loads - 1)
	loads := "one load"
	if s.Loads > 2 {
		loads = fmt.Sprintf("%d loads", s.Loads-1)
	}
	return fmt.Sprintf("%s works from %s g; %s would be %s g over what it takes.", capital(vessel), g(a.Least), loads,
		g(fewer.Load[0].Minus(a.Greatest)))
}

func capital(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	return string(unicode.ToUpper(r[0])) + string(r[1:])
}
