package reader

// timesWords are how often as much.
var timesWords = map[string]float64{"twice": 2, "double": 2, "half": 0.5, "thrice": 3}

// sameAs is the unit of an amount that repeats the one before.
const sameAs = "same"

// reference reads an amount given by comparison with another: the same of, as much, twice as much oil (as vinegar).
func (c cursor) reference(i int) (Amount, int, bool) {
	if !c.free(i) || c[i].traits&(opensReference|isNumber) == 0 {
		return Amount{}, i, false
	}
	of := func(i int) int {
		i += btoi(c.is(i, "amount", "quantity", "weight", "volume", "spoon", "measure", "again"))
		return i + btoi(c.is(i, "of"))
	}
	switch {
	case c.run(i, "equal", "parts"):
		return Amount{Low: 1, High: 1, Unit: "part"}, of(i + 2), true
	case c.run(i, "the", "same"), c.run(i, "an", "equal"):
		return Amount{Low: 1, High: 1, Unit: sameAs}, of(i + 2), true
	case c.is(i, "same"):
		return Amount{Low: 1, High: 1, Unit: sameAs}, of(i + 1), true
	}
	times, at := 0.0, i
	if c.free(i) {
		times = timesWords[c[i].low]
		at++
	}
	if times == 0 {
		if v, next, ok := c.number(i); ok && c.is(next, "times") {
			times, at = v, next+1
		}
	}
	if times == 0 || !c.run(at, "as", "much") && !c.run(at, "as", "many") && !c.run(at, "the", "amount") &&
		!c.run(at, "that", "amount") {
		return Amount{}, i, false
	}
	return Amount{Low: times, High: times, Unit: "part", asMuch: true}, of(at + 2), true
}

// times is so many times an amount.
func (a Amount) times(n float64) Amount {
	a.Low, a.High = a.Low*n, a.High*n
	if a.Plus != nil {
		rest := a.Plus.times(n)
		a.Plus = &rest
	}
	return a
}
