package reference

import (
	"bytes"
	_ "embed"
	"encoding/csv"
	"fmt"

	"gallipot/internal/core/pantry"
)

var (
	//go:embed measures.csv
	measuresCSV []byte
	//go:embed yields.csv
	yieldsCSV []byte
	//go:embed extras.csv
	extrasCSV []byte
	//go:embed synonyms.csv
	synonymsCSV []byte
	//go:embed names.csv
	namesCSV []byte
)

// Kitchen reads everything typical of kitchen work.
func Kitchen() (pantry.Typical, error) {
	var out pantry.Typical
	var err error
	if out.Measures, err = Measures(); err != nil {
		return out, err
	}
	if out.Preparations, err = Preparations(); err != nil {
		return out, err
	}
	if out.Synonyms, err = Synonyms(); err != nil {
		return out, err
	}
	if out.Names, err = Names(); err != nil {
		return out, err
	}
	// whichever way a shop calls it, a recipe may say it the other way
	for _, names := range out.Names {
		for id, name := range names {
			out.Synonyms[id] = append(out.Synonyms[id], name)
		}
	}
	return out, nil
}

// Names reads what the shipped ingredients are called in either English. The first table of ingredients is in GB's.
func Names() (pantry.Names, error) {
	typical, err := Ingredients()
	if err != nil {
		return nil, err
	}
	gb, us := map[string]string{}, map[string]string{}
	err = eachRow("names", namesCSV, func(r *reader) {
		id := r.text("ingredient_id")
		us[id] = r.text("en-US")
		for _, g := range typical {
			if g.ID == id {
				gb[id] = g.Name
			}
		}
	})
	return pantry.Names{"en-US": us, "en-GB": gb}, err
}

// Measures reads the typical household measures: grams of one with one standard deviation in percent.
func Measures() ([]pantry.Measure, error) {
	var out []pantry.Measure
	err := eachRow("measures", measuresCSV, func(r *reader) {
		out = append(out, pantry.Measure{Ingredient: r.text("ingredient_id"), Name: r.text("measure"),
			Grams: r.number("grams"), Spread: r.number("spread_percent"),
			Source: pantry.ReferenceSource, Note: r.text("note")})
	})
	return out, err
}

// Preparations reads the typical kitchen steps. Their ids are made of what goes in and what is done.
func Preparations() ([]pantry.Preparation, error) {
	var out []pantry.Preparation
	err := eachRow("yields", yieldsCSV, func(r *reader) {
		p := r.step()
		p.CoOutput, p.CoYield = r.text("co_output_ingredient_id"), r.number("co_yield_percent")
		out = append(out, p)
	})
	if err != nil {
		return out, err
	}
	more, err := stateSteps()
	if err != nil {
		return out, err
	}
	out = append(out, more...)
	err = eachRow("extras", extrasCSV, func(r *reader) {
		id := r.text("input_ingredient_id") + "." + r.text("preparation")
		for i := range out {
			if out[i].ID == id {
				out[i].Extras = append(out[i].Extras, pantry.ExtraInput{Ingredient: r.text("extra_ingredient_id"),
					PerHundred: r.number("grams_per_100g"), UptakePercent: r.number("uptake_percent"),
					CoUptakePercent: r.number("co_uptake_percent")})
			}
		}
	})
	return out, err
}

// step reads a kitchen step of a row. Its id is made of what goes in and what is done.
func (r *reader) step() pantry.Preparation {
	return pantry.Preparation{ID: r.text("input_ingredient_id") + "." + r.text("preparation"),
		Name:  r.text("preparation"),
		Input: r.text("input_ingredient_id"), Output: r.text("output_ingredient_id"),
		YieldPercent: r.number("yield_percent"), SpreadPercent: r.number("spread_percent"),
		MinutesPerKg: r.number("labour_min_per_kg"), WaitMinutes: r.number("oven_or_wait_min"),
		LookFor: r.text("look_for"), Typical: true}
}

// Synonyms reads what people call the shipped ingredients, by ingredient id.
func Synonyms() (map[string][]string, error) {
	out := map[string][]string{}
	err := eachRow("synonyms", synonymsCSV, func(r *reader) {
		id := r.text("ingredient_id")
		out[id] = append(out[id], r.list("synonyms")...)
	})
	if err != nil {
		return out, err
	}
	return out, stateSynonyms(out)
}

// eachRow reads a table with a heading. Errors name the table and the line.
func eachRow(table string, raw []byte, use func(*reader)) error {
	rows, err := csv.NewReader(bytes.NewReader(raw)).ReadAll()
	if err != nil {
		return fmt.Errorf("reference %s: %w", table, err)
	}
	at := map[string]int{}
	for i, name := range rows[0] {
		at[name] = i
	}
	for n, row := range rows[1:] {
		r := &reader{row: row, at: at}
		use(r)
		if r.err != nil {
			return fmt.Errorf("reference %s line %d: %w", table, n+2, r.err)
		}
	}
	return nil
}
