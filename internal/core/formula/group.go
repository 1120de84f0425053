package formula

import (
	"fmt"
	"maps"
	"slices"
	"strings"

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

// Resolved is one way of making up all groups of a version, those inside its components too.
type Resolved struct {
	Version Version
	Library Library
	Used    []string // ids of what is taken of each group, its own before those of components
}

// choice is one group: of the version itself, or of a component.
type choice struct {
	of   *Ref // nil: the version itself
	line int
}

// TooManyWaysError says that a version's groups with those of its components can be made up in more ways than are
// judged.
type TooManyWaysError struct{ Ways int }

func (e TooManyWaysError) Error() string {
	return fmt.Sprintf(
		"with the groups inside its components this can be made up in %d ways; at most %d can be judged; "+
			"let a component say what it is made of", e.Ways, maxOptions)
}

// EachResolution returns a version once for every way of making up its groups, and those of its components at whatever
// depth, of one ingredient each; as it stands first. Without groups it returns the version alone. Errors:
// TooManyWaysError.
func (l Library) EachResolution(v Version) ([]Resolved, error) {
	choices := l.choices(v)
	out := []Resolved{{Version: v, Library: l, Used: []string{}}}
	ways := 1
	for _, c := range choices {
		ways *= len(l.lineOf(v, c).AnyOf)
		if ways > maxOptions {
			return nil, TooManyWaysError{ways}
		}
		var next []Resolved
		for _, r := range out {
			line := l.lineOf(v, c)
			for _, id := range append([]string{line.Ingredient},
				slices.DeleteFunc(slices.Clone(line.AnyOf), func(id string) bool { return id == line.Ingredient })...) {
				next = append(next, r.with(c, id))
			}
		}
		out = next
	}
	return out, nil
}

// with is the resolution with an ingredient taken of a group.
func (r Resolved) with(c choice, id string) Resolved {
	out := Resolved{r.Version, r.Library, append(slices.Clone(r.Used), id)}
	if c.of == nil {
		out.Version.Lines = slices.Clone(r.Version.Lines)
		out.Version.Lines[c.line].Ingredient = id
		return out
	}
	if r.Library.Versions[*c.of].Lines[c.line].Ingredient == id {
		return out
	}
	component := r.Library.Versions[*c.of]
	component.Lines = slices.Clone(component.Lines)
	component.Lines[c.line].Ingredient = id
	out.Library.Versions = maps.Clone(r.Library.Versions)
	out.Library.Versions[*c.of] = component
	return out
}

func (l Library) lineOf(v Version, c choice) Line {
	if c.of == nil {
		return v.Lines[c.line]
	}
	return l.Versions[*c.of].Lines[c.line]
}

// choices are the groups of a version and of its components, each component once.
func (l Library) choices(v Version) []choice {
	var out []choice
	for _, i := range v.Groups() {
		out = append(out, choice{line: i})
	}
	seen := map[Ref]bool{}
	var walk func(v Version, depth int)
	walk = func(v Version, depth int) {
		for _, line := range v.Lines {
			if line.Component == nil || seen[*line.Component] || depth > MaxDepth {
				continue
			}
			ref := *line.Component
			seen[ref] = true
			component := l.Versions[ref]
			for _, i := range component.Groups() {
				out = append(out, choice{&ref, i})
			}
			walk(component, depth+1)
		}
	}
	walk(v, 0)
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
				part.ID = fmt.Sprintf("%s%s%d", l.ID, partMark, k+1)
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

// partMark stands between the id of a group's line and which part of it a line is.
const partMark = "~"

// Whole is the id of the line that a line is part of, and whether it is a further part of a group.
func Whole(line string) (id string, part bool) {
	id, _, part = strings.Cut(line, partMark)
	return id, part
}
