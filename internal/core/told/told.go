// Package told words what was noted: changes, acts of batches and lots, each as a sentence with its details.
package told

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/recall"
)

// Change is one write as the journal noted it: who, when, to what, and its state before and after.
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

// list is a list of values for a sentence.
func (r row) list(name string) string {
	list, _ := r[name].([]any)
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = fmt.Sprint(x)
	}
	return strings.Join(out, ", ")
}

// day is a date for a sentence.
func (r row) day(name string) string { return day.Mark(r.text(name)) }

// InTongue writes the dates of a sentence as the shop does.
func InTongue(said string, t law.Tongue) string { return day.Say(said, t.DayYear) }

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

// rowOf reads a row that was noted.
func rowOf(raw json.RawMessage) (row, error) {
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
	before, err := rowOf(c.Before)
	if err != nil {
		return out, err
	}
	after, err := rowOf(c.After)
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
	"version": tellVersion, "trial": tellTrial, "document": tellDocument, "batch": tellBatch, "entry": acts(bench.Tell),
	"label": tellLabel, "shop": tellShop, "person": tellPerson, "preparation": tellNamed("the step"),
	"recipe": tellNamed("the recipe"), "delivery": tellDelivery, "lot": tellLot, "lot_entry": acts(lots.Tell),
	"party": tellParty, "vessel": tellVessel, "vessel_entry": tellVesselEntry, "allergen_change": tellAllergens,
	"recall": acts(recall.Tell), "word": tellWord, "mark": tellMark,
	"price_way": tellPriceWay, "backup": tellBackup,
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
	if way, ok := after["data"].(map[string]any); ok && row(way).text("supplier") != "" {
		return "remembered how the price files of " + row(way).text("supplier") + " are read"
	}
	return "remembered how a supplier's price files are read"
}

func tellBackup(_ Change, _, after row) string { return "made the backup " + after.text("file") }

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
	if list, ok := after["weighings"].([]any); ok {
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

// acts words acts by the registry of their record.
func acts(tell func(kind string, raw []byte) string) func(Change, row, row) string {
	return func(_ Change, _, after row) string {
		kept := after["body"]
		if old := after.part("body").part(after.text("kind")); old != nil {
			kept = old // format 1 kept the whole entry
		}
		body, err := json.Marshal(kept)
		if err != nil {
			return "wrote " + after.text("kind")
		}
		return tell(after.text("kind"), body)
	}
}

// besides are fields of rows that mean nothing to a reader of the history.
var besides = []string{"id", "retired_at", "retired_by", "retired_why", "withdrawn", "withdrawn_at", "withdrawn_by",
	"withdrawn_why", "secret", "secret_at", "content", "format", "locked_at", "state",
	"created_at", "created_by", "facts", "weighings"}

// mostDetails is how many differences one change names; the rest are counted.
const mostDetails = 12
