package told

import (
	"fmt"

	"gallipot/internal/core/bench"
)

func tellVessel(_ Change, before, after row) string {
	switch {
	case before == nil:
		return "added the vessel " + after.text("name")
	case retiredNow(before, after):
		return "retired the vessel " + after.text("name")
	}
	return "changed the vessel " + after.text("name")
}

func tellVesselEntry(_ Change, _, after row) string {
	if after.text("kind") == bench.VesselCleaned {
		return "cleaned a vessel down: " + after.text("what")
	}
	return "used a vessel for " + after.text("what")
}

func tellAllergens(_ Change, _, after row) string {
	said := "what ingredients carry changed"
	list, _ := after.part("what")["ingredients"].([]any)
	for i, x := range list {
		if g, ok := x.(map[string]any); ok && i == 0 {
			said = fmt.Sprintf("what %s carries changed", row(g).text("name"))
		}
	}
	if n := len(list) - 1; n > 0 {
		said += fmt.Sprintf(", and of %d more with it", n)
	}
	return said
}
