package formula

import (
	"fmt"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// What a substitution keeps.
const (
	KeepGrams = "grams"
	KeepSalt  = "salt"
	KeepAcid  = "acid"
)

// leastBrought is the grams in 100 g below which an ingredient brings nothing that could be kept.
const leastBrought = 0.01

// Swap replaces a line's ingredient and returns the resulting version. It keeps the line's grams, salt or titratable
// acid; titratable gives the last of these in percent of citric acid. The words the line was read from stay. Errors:
// FieldError.
func (l Library) Swap(v Version, lineID, to, keep string, titratable func(pantry.Ingredient) float64) (Version, error) {
	at := slices.IndexFunc(v.Lines, func(x Line) bool { return x.ID == lineID })
	if at < 0 {
		return v, pantry.FieldError{Field: "line", Message: "this line is not there"}
	}
	line := v.Lines[at]
	from, into := l.Ingredients[line.Ingredient], l.Ingredients[to]
	if from == nil {
		return v, pantry.FieldError{Field: "line",
			Message: "a component cannot be swapped for an ingredient; take the line out instead"}
	}
	if into == nil || to == line.Ingredient {
		return v, pantry.FieldError{Field: "to", Message: "choose another ingredient"}
	}
	ratio := 1.0
	var err error
	switch keep {
	case KeepGrams:
	case KeepSalt:
		ratio, err = keepingOf("salt", *from, *into, func(g pantry.Ingredient) float64 { return g.Composition.Salt() })
	case KeepAcid:
		ratio, err = keepingOf("titratable acid", *from, *into, titratable)
	default:
		err = pantry.FieldError{Field: "keep", Message: "keep the grams, the salt or the acid"}
	}
	if err != nil {
		return v, err
	}
	out := v
	out.Lines = slices.Clone(v.Lines)
	grams := line.Grams
	if ratio != 1 {
		grams = amount.G(amount.HalfUp(grams.Float()*ratio, 1))
	}
	if grams.Float() > amount.MaxGrams {
		return v, pantry.FieldError{Field: "keep", Message: "that would take over 10 000 kg"}
	}
	out.Lines[at].Ingredient, out.Lines[at].Grams, out.Lines[at].AnyOf, out.Lines[at].Preparation = to, grams, nil, ""
	out.Lines[at].Said = nil
	return out, nil
}

// keepingOf is by what the grams grow so that as much of something is brought as before.
func keepingOf(what string, from, into pantry.Ingredient, brings func(pantry.Ingredient) float64) (float64, error) {
	before, now := brings(from), brings(into)
	if before < leastBrought {
		return 1, pantry.FieldError{Field: "keep", Message: fmt.Sprintf("%s brings no %s to keep", from.Name, what)}
	}
	if now < leastBrought {
		return 1, pantry.FieldError{Field: "keep",
			Message: fmt.Sprintf("%s brings no %s; it cannot take its place that way", into.Name, what)}
	}
	return before / now, nil
}
