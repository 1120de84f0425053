// Package told words what was noted: changes, acts of batches and lots, each as a sentence with its details.
package told

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
)

// Change is one write as it was noted: who, when, to what, with what it was before and after.
type Change struct {
	Seq    int64
	At     time.Time
	By     string
	Act    string // insert, update or delete
	What   string // ingredient, price, version …
	Which  string
	Why    string
	Before json.RawMessage
	After  json.RawMessage
}

// HistoryRow is one change as a sentence: who did what, with the details.
type HistoryRow struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Said    string    `json:"said"`
	Details []string  `json:"details"`
}

// Typed reports whether a change is of a draft as it is typed.
func (c Change) Typed() bool { return c.What == "version" && c.Act == "update" && c.Before == nil }

// DraftChange is what changed in a draft: the lines and settings that differ.
type DraftChange struct {
	Lines  []formula.LineChange  `json:"lines"`
	Fields []formula.FieldChange `json:"fields"`
}

// row is a noted row as generic JSON.
type row map[string]any

func (r row) text(name string) string {
	switch x := r[name].(type) {
	case string:
		return x
	case json.Number:
		return x.String()
	case bool:
		return yesNo(x)
	}
	return ""
}

// figure is a measured number for a sentence, to the thousandth that no instrument here reads beyond.
func (r row) figure(name string) string {
	x, err := strconv.ParseFloat(r.text(name), 64)
	if err != nil {
		return r.text(name)
	}
	return strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64)
}

// list is a list of values for a sentence.
func (r row) list(name string) string {
	list, _ := r[name].([]any)
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = fmt.Sprint(x)
	}
	return strings.Join(out, ", ")
}

// DayMark stands around a date in a sentence until the whole is told in the shop's tongue.
const DayMark = "\ue000"

// day is a date for a sentence.
func (r row) day(name string) string {
	text := r.text(name)
	if _, err := day.Parse(text); err == nil {
		return DayMark + text + DayMark
	}
	return text
}

// InTongue writes the dates of a sentence as the shop does.
func InTongue(said string, t law.Tongue) string {
	parts := strings.Split(said, DayMark)
	for i, p := range parts {
		if d, err := day.Parse(p); err == nil && i%2 == 1 {
			parts[i] = t.DayYear(d)
		}
	}
	return strings.Join(parts, "")
}

func (r row) part(name string) row {
	x, _ := r[name].(map[string]any)
	return x
}

func yesNo(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

// RowOf reads a row that was noted.
func RowOf(raw json.RawMessage) (row, error) {
	if len(raw) == 0 {
		return nil, nil
	}
	d := json.NewDecoder(strings.NewReader(string(raw)))
	d.UseNumber()
	var out row
	return out, d.Decode(&out)
}

// Told words a change, or the typing of one sitting, the newest first.
func Told(group []Change) (HistoryRow, error) {
	c := group[0]
	out := HistoryRow{Seq: c.Seq, At: c.At, By: c.By, Details: []string{}}
	if c.Typed() {
		var err error
		out.Said, out.Details, err = typing(group)
		return out, err
	}
	before, err := RowOf(c.Before)
	if err != nil {
		return out, err
	}
	after, err := RowOf(c.After)
	if err != nil {
		return out, err
	}
	word, known := tellers[c.What]
	if !known {
		word = tellOther
	}
	out.Said = word(c, before, after)
	if c.Why != "" {
		out.Said = strings.TrimSuffix(out.Said, ".") + ": " + c.Why
	}
	if before != nil && after != nil && c.What != "version" && c.What != "mark" {
		out.Details = differences(before, after)
	}
	return out, nil
}

// tellers word the changes of each kind of row.
var tellers = map[string]func(c Change, before, after row) string{
	"ingredient": tellIngredient, "price": tellPrice, "measure": tellMeasure, "formula": tellFormula,
	"version": tellVersion, "trial": tellTrial, "document": tellDocument, "batch": tellBatch, "entry": TellEntry,
	"label": tellLabel, "shop": tellShop, "person": tellPerson, "preparation": tellNamed("the step"),
	"recipe": tellNamed("the recipe"), "delivery": tellDelivery, "lot": tellLot, "lot_entry": tellLotEntry,
	"party": tellParty, "vessel": tellVessel, "vessel_entry": tellVesselEntry, "allergen_change": tellAllergens,
	"recall": tellRecall, "word": tellWord, "mark": tellMark,
	"price_way": tellPriceWay,
}

func tellOther(c Change, _, _ row) string { return fmt.Sprintf("changed %s %s", c.What, c.Which) }

func tellIngredient(c Change, before, after row) string {
	switch {
	case before == nil:
		return "put " + after.text("name") + " into the pantry"
	case before.text("retired") != after.text("retired"):
		if after.text("retired") == "yes" {
			return "retired " + after.text("name")
		}
		return "took " + after.text("name") + " back into the pantry"
	}
	return "changed " + after.text("name")
}

func retiredNow(before, after row) bool {
	return after.text("retired_at") != "" && before.text("retired_at") == ""
}

func tellPriceWay(_ Change, _, after row) string {
	if way, is := after["data"].(map[string]any); is && row(way).text("supplier") != "" {
		return "remembered how the price files of " + row(way).text("supplier") + " are read"
	}
	return "remembered how a supplier's price files are read"
}

func tellPrice(_ Change, before, after row) string {
	offer := fmt.Sprintf("%s: %s for %s %s, dated %s", after.text("supplier"), after.text("price"),
		after.text("pack_amount"), after.text("pack_unit"), after.day("dated"))
	switch {
	case before == nil:
		return "noted a price of " + offer
	case retiredNow(before, after):
		return "took a price out of use, of " + offer
	}
	return "changed a price of " + offer
}

func tellMeasure(_ Change, before, after row) string {
	what := strings.ReplaceAll(after.text("measure"), "_", " ")
	if before != nil && retiredNow(before, after) {
		return fmt.Sprintf("took the own measure “%s” out: %s", what, after.text("retired_why"))
	}
	var grams []string
	if list, is := after["weighings"].([]any); is {
		for _, g := range list {
			grams = append(grams, fmt.Sprint(g))
		}
	}
	return fmt.Sprintf("weighed “%s”: %s g", what, strings.Join(grams, ", "))
}

func tellWord(_ Change, before, after row) string {
	what := "“" + after.text("words") + "”"
	if before != nil && retiredNow(before, after) {
		return fmt.Sprintf("took back what %s means: %s", what, after.text("retired_why"))
	}
	return "told the reader what " + what + " means"
}

func tellFormula(_ Change, before, after row) string {
	switch {
	case before == nil:
		return "began " + after.text("name")
	case before.text("name") != after.text("name"):
		return fmt.Sprintf("renamed it from %s to %s", before.text("name"), after.text("name"))
	case after.text("retired") == "yes" && before.text("retired") != "yes":
		return "retired it"
	case before.text("retired") == "yes":
		return "took it back"
	}
	return "changed what it is a variant of"
}

func tellVersion(c Change, before, after row) string {
	_, number, _ := strings.Cut(c.Which, "/")
	switch {
	case c.Act == "delete":
		return "threw draft " + number + " away"
	case before == nil && after.text("state") == "locked":
		return "brought version " + number + " in, locked"
	case before == nil:
		if from := after.part("data").text("from"); from != "" && from != "0" {
			return fmt.Sprintf("began version %s from version %s", number, from)
		}
		return "began version " + number
	}
	return "locked version " + number
}

func tellTrial(_ Change, before, after row) string {
	day := after.day("made_on")
	switch {
	case before == nil:
		return "recorded a trial of " + day
	case retiredNow(before, after):
		return fmt.Sprintf("took the trial of %s out: %s", day, after.text("retired_why"))
	}
	return "changed the trial of " + day
}

func tellDocument(_ Change, before, after row) string {
	if before == nil {
		return fmt.Sprintf("attached “%s”: %s", after.text("title"), after.text("attached_why"))
	}
	return fmt.Sprintf("withdrew “%s”: %s", after.text("title"), after.text("withdrawn_why"))
}

func tellBatch(_ Change, before, after row) string {
	if before == nil {
		return fmt.Sprintf("planned %s, %s jars, to be made on %s", after.text("code"), after.text("jars"),
			after.day("made_on"))
	}
	return "changed " + after.text("code")
}

func tellShop(_ Change, before, _ row) string {
	if before == nil {
		return "set up the shop"
	}
	return "changed the settings"
}

func tellPerson(_ Change, before, after row) string {
	name := after.text("name")
	switch {
	case before == nil:
		return fmt.Sprintf("added %s, %s", name, after.text("role"))
	case retiredNow(before, after):
		return fmt.Sprintf("retired %s: %s", name, after.text("retired_why"))
	case before.text("retired_at") != "" && after.text("retired_at") == "":
		return "took " + name + " back"
	case before.text("role") != after.text("role"):
		return fmt.Sprintf("made %s %s, who was %s", name, after.text("role"), before.text("role"))
	}
	return "gave " + name + " a new PIN or passphrase"
}

func tellNamed(what string) func(Change, row, row) string {
	return func(_ Change, before, after row) string {
		name := after.text("name")
		if name == "" {
			name = strings.ReplaceAll(after.part("data").text("name"), "_", " ")
		}
		switch {
		case before == nil:
			return fmt.Sprintf("wrote %s “%s” down", what, name)
		case retiredNow(before, after):
			return fmt.Sprintf("threw %s “%s” away: %s", what, name, after.text("retired_why"))
		}
		return fmt.Sprintf("changed %s “%s”", what, name)
	}
}

// TellEntry words what somebody did in a batch record, by kind of entry.
func TellEntry(_ Change, _, after row) string {
	body := after.part("body")
	switch after.text("kind") {
	case "weighing":
		if body.text("correction") == "yes" {
			return fmt.Sprintf("corrected line %s to %s g", body.text("line"), body.text("grams"))
		}
		return fmt.Sprintf("weighed line %s: %s g", body.text("line"), body.text("grams"))
	case "fill":
		return fmt.Sprintf("filled %s jars", body.text("jars"))
	case "reading":
		return fmt.Sprintf("read pH %s on the %s jar", body.figure("ph"), body.text("jar"))
	case "void":
		return fmt.Sprintf("struck a pair of readings: %s", body.text("cause"))
	case "heat":
		return fmt.Sprintf("recorded the heat step: %s °C for %s min", body.text("coldest_c"), body.text("minutes"))
	case "laboratory":
		return fmt.Sprintf("entered the laboratory's water activity %s (%s)", body.text("water_activity"),
			body.text("report"))
	case "decision":
		said := map[string]string{"hold": "put it on hold", "released": "released it", "rejected": "rejected it",
			"called_back": "called it back"}[body.text("state")]
		if why := body.text("reason"); why != "" {
			said += ": " + why
		}
		return said
	case "jars_in":
		return "said that no jar is out: " + body.text("reason")
	case "recall":
		return "caused a call-back. " + body.text("cause")
	case "print":
		return tellPrint(body)
	case "strained":
		if body.text("clear") == "yes" {
			return "said that the oil is strained clear"
		}
		return "said that the oil is not clear yet"
	case "made_good":
		return madeGoodWords[body.text("how")] + ": " + body.text("reason")
	case "moved":
		return tellMove(body)
	}
	if said := tellBench(after.text("kind"), body); said != "" {
		return said
	}
	return "wrote " + after.text("kind")
}

// besides are names of rows that say nothing to a reader of the history.
var besides = []string{"id", "retired_at", "retired_by", "retired_why", "withdrawn", "withdrawn_at", "withdrawn_by",
	"withdrawn_why", "secret_at", "locked_at", "state", "created_at", "created_by", "facts", "weighings"}

// mostDetails is how many differences one change names; the rest are counted.
const mostDetails = 12

// tellPrint tells of labels that were printed, or thrown away.
func tellPrint(body row) string {
	n, many := body.text("count"), body.text("count") != "1"
	of := func(one, more string) string {
		if many {
			return n + " " + more
		}
		return n + " " + one
	}
	switch body.text("what") {
	case bench.PrintedHold:
		return "printed " + of("HOLD sticker", "HOLD stickers")
	case bench.PrintedSpoilt:
		return "threw " + of("spoilt label", "spoilt labels") + " away"
	}
	return "printed " + of("label", "labels")
}
