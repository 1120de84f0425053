package kernel

import (
	"errors"
	"maps"
	"slices"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// NamedBy returns what versions refer to, each once.
func NamedBy(versions ...formula.Version) Named {
	var n Named
	ids, refs := map[string]bool{}, map[formula.Ref]bool{}
	want := func(id string) {
		if id != "" && !ids[id] {
			ids[id] = true
			n.Ingredients = append(n.Ingredients, id)
		}
	}
	for _, v := range versions {
		for _, t := range v.Toppings {
			want(t.Ingredient)
		}
		for _, p := range v.Packaging {
			want(p.Item)
		}
		for i := range v.Lines {
			l := &v.Lines[i]
			if c := l.Component; c != nil && !refs[*c] {
				refs[*c] = true
				n.Components = append(n.Components, *c)
			}
			want(l.Ingredient)
			for _, id := range l.AnyOf {
				want(id)
			}
		}
	}
	return n
}

// NewLibrary is an empty library.
func NewLibrary() formula.Library {
	return formula.Library{Ingredients: map[string]*pantry.Ingredient{}, Versions: map[formula.Ref]formula.Version{},
		Names: map[string]string{}}
}

// Library loads everything that versions refer to, recursively.
func Library(st Store, tops ...formula.Version) (formula.Library, error) {
	lib := NewLibrary()
	return lib, Extend(st, &lib, tops...)
}

// Extend adds to a library everything that versions refer to, recursively.
func Extend(st Store, lib *formula.Library, tops ...formula.Version) error {
	ids, walked := map[string]bool{}, map[formula.Ref]bool{}
	var walk func(v formula.Version, depth int) error
	walk = func(v formula.Version, depth int) error {
		named := NamedBy(v)
		for _, id := range named.Ingredients {
			if lib.Ingredients[id] == nil {
				ids[id] = true
			}
		}
		for _, ref := range named.Components {
			if walked[ref] || depth > formula.MaxDepth {
				continue
			}
			walked[ref] = true
			c, there, err := componentOf(st, lib, ref)
			if err != nil {
				return err
			}
			if !there {
				continue // Expand names the line that lacks it
			}
			if err := walk(c, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	for _, v := range tops {
		if err := nameOf(st, lib, v.Formula); err != nil {
			return err
		}
		if err := walk(v, 0); err != nil {
			return err
		}
	}
	return Fetch(st, lib, ids)
}

// componentOf returns a version from the library, reading it first if it is missing.
func componentOf(st Store, lib *formula.Library, ref formula.Ref) (v formula.Version, there bool, err error) {
	if v, there = lib.Versions[ref]; there {
		return v, true, nil
	}
	row, err := st.Version(ref)
	if errors.Is(err, ErrNotFound) {
		return v, false, nil
	}
	if err != nil {
		return v, false, err
	}
	lib.Versions[ref], lib.Names[row.FormulaID] = row.Core(), row.Name
	return row.Core(), true, nil
}

// Fetch adds ingredients.
func Fetch(st Store, lib *formula.Library, ids map[string]bool) error {
	if len(ids) == 0 {
		return nil
	}
	rows, err := st.Ingredients(slices.Collect(maps.Keys(ids))...)
	for i := range rows {
		lib.Ingredients[rows[i].ID] = &rows[i].Data
	}
	return err
}

// nameOf adds the name of a formula, if there is such a formula.
func nameOf(st Store, lib *formula.Library, id string) error {
	if lib.Names[id] != "" {
		return nil
	}
	f, err := st.Formula(id)
	if errors.Is(err, ErrNotFound) {
		return nil
	}
	lib.Names[id] = f.Name
	return err
}

// Everything loads the whole pantry and all versions, for lists over all formulas.
func Everything(st Store) (formula.Library, []Formula, []Version, error) {
	lib := NewLibrary()
	rows, err := st.Ingredients()
	if err != nil {
		return lib, nil, nil, err
	}
	for i := range rows {
		lib.Ingredients[rows[i].ID] = &rows[i].Data
	}
	formulas, err := st.Formulas()
	if err != nil {
		return lib, nil, nil, err
	}
	for _, f := range formulas {
		lib.Names[f.ID] = f.Name
	}
	versions, err := st.Versions("")
	if err != nil {
		return lib, nil, nil, err
	}
	for _, v := range versions {
		lib.Versions[v.Ref()] = v.Core()
	}
	return lib, formulas, versions, nil
}
