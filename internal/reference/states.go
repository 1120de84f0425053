package reference

import (
	_ "embed"
	"fmt"

	"gallipot/internal/core/pantry"
)

// statesCSV are steps for every nut and seed of the first table, with the ingredients that come out of them: ours, in
// the manner of the first table of yields.
//
//go:embed states.csv
var statesCSV []byte

// states are the ingredients that come out of the steps of the table of states. Where only water leaves, what is in
// them is worked out from what goes in; else it stays as it was.
func states(all []pantry.Ingredient) ([]pantry.Ingredient, error) {
	steps, err := stateSteps()
	if err != nil {
		return nil, err
	}
	var out []pantry.Ingredient
	row := 0
	err = eachRow("states", statesCSV, func(r *reader) {
		p := steps[row]
		row++
		for _, g := range all {
			if g.ID != p.Input {
				continue
			}
			raw := g
			g.ID, g.Name, g.StateOf = p.Output, r.text("output_name"), raw.ID
			if r.number("only_water_leaves") == 1 {
				if g.Composition, g.Acids, err = p.LessWater(raw, nil); err != nil {
					r.err = fmt.Errorf("%s: %w", p.ID, err)
				}
			}
			out = append(out, g)
		}
	})
	return out, err
}

// stateSteps are the steps of the table of states.
func stateSteps() ([]pantry.Preparation, error) {
	var out []pantry.Preparation
	err := eachRow("states", statesCSV, func(r *reader) { out = append(out, r.step()) })
	return out, err
}

// stateSynonyms are what people call what comes out of the steps of the table of states: toasted cashews.
func stateSynonyms(out map[string][]string) error {
	steps, err := stateSteps()
	if err != nil {
		return err
	}
	for _, p := range steps {
		words := map[string][]string{"toast": {"toasted", "roasted"}, "roast": {"roasted", "toasted"},
			"blanch_and_skin": {"blanched", "skinned"}}[p.Name]
		for _, name := range out[p.Input] {
			for _, w := range words {
				out[p.Output] = append(out[p.Output], w+" "+name)
			}
		}
	}
	return nil
}
