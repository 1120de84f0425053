package formula

import (
	"fmt"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// Use is what was taken of a group's ingredients.
type Use struct {
	Ingredient string       `json:"ingredient"`
	Grams      amount.Grams `json:"grams"`
}

// Groups returns the indices of the lines that are "any of" groups.
func (v Version) Groups() []int {
	var out []int
	for i, l := range v.Lines {
		if len(l.AnyOf) > 0 {
			out = append(out, i)
		}
	}
	return out
}

// Resolutions is in how many ways the groups can be made up of one ingredient each.
func (v Version) Resolutions() int {
	n := 1
	for _, i := range v.Groups() {
		if n *= len(v.Lines[i].AnyOf); n > 10*maxOptions {
			return n
		}
	}
	return n
}

// EachResolution returns the version once for every way of making up its groups of one ingredient each, the version
// itself first. Without groups it returns the version alone.
func (v Version) EachResolution() []Version {
	out := []Version{v}
	for _, i := range v.Groups() {
		var next []Version
		for _, r := range out {
			next = append(next, r)
			for _, id := range v.Lines[i].AnyOf {
				if id == v.Lines[i].Ingredient {
					continue
				}
				x := r
				x.Lines = slices.Clone(r.Lines)
				x.Lines[i].Ingredient = id
				next = append(next, x)
			}
		}
		out = next
	}
	return out
}

// OfGroups counts what a trial used of an "any of" group as the group's line.
func (v Version) OfGroups(t Trial) Trial {
	out := t
	out.Lines = slices.Clone(t.Lines)
	for i, l := range out.Lines {
		if slices.ContainsFunc(v.Lines, func(x Line) bool { return x.Ingredient == l.Ingredient }) {
			continue // a line of its own
		}
		for _, g := range v.Groups() {
			if slices.Contains(v.Lines[g].AnyOf, l.Ingredient) {
				out.Lines[i].Ingredient, out.Lines[i].Instead = v.Lines[g].Ingredient, ""
			}
		}
	}
	return out
}

// Resolve puts what was really used in place of the groups, in the shares that were weighed; the grams of each line
// stay. uses go by line id. Errors: FieldError for an ingredient outside its group or grams that cannot be.
func (v Version) Resolve(uses map[string][]Use) (Version, error) {
	out := v
	out.Lines = nil
	for _, l := range v.Lines {
		used := uses[l.ID]
		if len(l.AnyOf) == 0 || len(used) == 0 {
			out.Lines = append(out.Lines, l)
			continue
		}
		total := amount.Grams{}
		for k, u := range used {
			if !slices.Contains(l.AnyOf, u.Ingredient) {
				return v, pantry.FieldError{Field: fmt.Sprintf("used[%d].ingredient", k),
					Message: "this is none of the group"}
			}
			if !u.Grams.IsPositive() {
				return v, pantry.FieldError{Field: fmt.Sprintf("used[%d].grams", k), Message: "grams above 0"}
			}
			total = total.Plus(u.Grams)
		}
		left := l.Grams
		for k, u := range used {
			part := l
			part.Ingredient, part.AnyOf = u.Ingredient, nil
			if k > 0 {
				part.ID = fmt.Sprintf("%s~%d", l.ID, k+1)
			}
			part.Grams = l.Grams.Exact().Times(u.Grams.Exact().Over(total.Exact())).Grams()
			if k == len(used)-1 {
				part.Grams = left // so that the parts add up to the line
			}
			left = left.Minus(part.Grams)
			out.Lines = append(out.Lines, part)
		}
	}
	return out, nil
}
