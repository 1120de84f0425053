package told

import (
	"fmt"

	"gallipot/internal/core/bench"
)

// tellBench words an act of the bench; empty where the kind is another.
func tellBench(kind string, body row) string {
	load := "load " + body.text("load")
	switch kind {
	case "capture":
		how := "on " + body.text("scale")
		if body.text("manual") == "yes" {
			how = "typed by hand"
		}
		return withWhy(body, fmt.Sprintf("weighed %s g of line %s into %s, %s", body.text("grams"), body.text("line"),
			load,
			how),
			"reason")
	case "tared":
		return fmt.Sprintf("tared %s at %s g for %s", body.text("scale"), body.text("reading_g"), load)
	case "choice":
		said := map[string]string{bench.AcceptOver: "let the over-pour of %s stay",
			bench.Rebalances: "put the ratio of %s right",
			bench.Discards:   "gave %s up"}[body.text("how")]
		if body.text("load") == "0" {
			load = "the batch"
		}
		return withWhy(body, fmt.Sprintf(said, load), "reason")
	case "tasted":
		return withWhy(body, fmt.Sprintf("tasted %s: %s g more of line %s", load, body.text("more_g"),
			body.text("line")),
			"note")
	case "left_out":
		return withWhy(body, fmt.Sprintf("left line %s out of %s", body.text("line"), load), "reason")
	case "taken_out":
		return withWhy(body, fmt.Sprintf("%s g of %s %s", body.text("grams"), load, body.text("what")), "reason")
	case "added":
		return withWhy(body, fmt.Sprintf("added %s g of %s to %s, for %s", body.text("grams"), body.text("name"), load,
			body.text("purpose")), "note")
	}
	return tellErrand(kind, body)
}

// withWhy adds to what was done why, where that was said.
func withWhy(body row, said, field string) string {
	if why := body.text(field); why != "" {
		return said + ": " + why
	}
	return said
}

// tellErrand words what goes on beside the weighing; empty where the kind is another.
func tellErrand(kind string, body row) string {
	load := "load " + body.text("load")
	switch kind {
	case "ticked":
		if body.text("off") == "yes" {
			return fmt.Sprintf("took the tick of %s off %s", body.text("key"), load)
		}
		return withWhy(body, fmt.Sprintf("ticked %s for %s", body.text("key"), load), "note")
	case "timed":
		if body.text("stop") == "yes" {
			return fmt.Sprintf("stopped the timer of %s", body.text("key"))
		}
		return fmt.Sprintf("started a timer of %s min for %s", body.text("minutes"), body.text("key"))
	case "closed":
		return withWhy(body, "closed "+load, "note")
	case "net_weights":
		return fmt.Sprintf("weighed full jars, %s g empty: %s g", body.text("tare_g"), body.list("gross_g"))
	case "counted":
		return withWhy(body, fmt.Sprintf("looked at %s seals, %s of them failed; %s g were left over",
			body.text("seals"), body.text("seals_failed"), body.text("residue_g")), "reason")
	case "aimed":
		return withWhy(body, fmt.Sprintf("set the fill of the next jars to %s g", body.text("grams")), "reason")
	case "split":
		return fmt.Sprintf("filled %s g of the bowl into %s jars of another size: %s, batch %s", body.text("grams"),
			body.text("jars"), body.text("name"), body.text("code"))
	case "from_bowl":
		return fmt.Sprintf("filled it from the bowl of %s, %s g", body.text("code"), body.text("grams"))
	case "worked":
		return withWhy(body, fmt.Sprintf("wrote down %s min of hands", body.text("minutes")), "note")
	case "cooled":
		return fmt.Sprintf("took %s °C of %s on its way down", body.text("celsius"), body.text("what"))
	}
	return ""
}
