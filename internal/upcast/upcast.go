// Package upcast turns documents of older formats into the present one, before they are read: what the store keeps and
// what bundles carry share these steps. A document is what encoding/json makes of it with numbers as they were written.
//
// Format 1 paired the fields of two laws (allergens_us, allergens_gb) and kept amounts to any number of decimals;
// format 2 keeps a value for each law, and amounts in whole milligrams and millionths of money.
package upcast

import (
	"encoding/json"
	"math/big"
	"strings"
)

// Present is the format that is written today.
const Present = 2

// Doc is a JSON object.
type Doc = map[string]any

// Ingredient takes an ingredient of format 1 to format 2.
func Ingredient(d Doc) {
	gather(d, "label_names", map[string]string{"us": "label_name_us", "gb": "label_name_gb"})
	gather(d, "allergens", map[string]string{"us": "allergens_us", "gb": "allergens_gb"})
	gather(d, "supplier_lists", map[string]string{"us": "sub_ingredients_us", "gb": "sub_ingredients"})
	Amounts(d)
}

// Version takes a version of format 1 to format 2.
func Version(d Doc) {
	if wording, ok := d["wording"].(Doc); ok {
		gather(wording, "names", map[string]string{"us": "name_us", "gb": "name_gb"})
	}
	if jars, ok := d["costing_jars"].(json.Number); ok && jars == "0" {
		d["costing_jars"] = json.Number("48")
	}
	Amounts(d)
}

// gather moves the fields of each law under one name; what is empty is left out.
func gather(d Doc, into string, fields map[string]string) {
	if _, there := d[into]; there {
		return
	}
	each := Doc{}
	for law, field := range fields {
		if v, has := d[field]; has && v != nil && v != "" {
			each[law] = v
		}
		delete(d, field)
	}
	if len(each) > 0 {
		d[into] = each
	}
}

// places are the decimals that amounts keep, by the names of their fields.
var places = map[string]int{
	"grams": 3, "fill_g": 3, "water_driven_off_g": 3, "grams_per_jar": 3, "target_g": 3, "hold_back_g": 3, "added_g": 3,
	"finished_g": 3, "pack_amount": 3,
	"scale_division_g": 3, "sample_g": 3, "residue_g": 3, "minutes_per_batch": 3, "minutes_per_jar": 3,
	"loss_percent": 4, "overfill_percent": 4, "price": 6, "labour_per_hour": 6, "overhead_per_batch": 6,
}

// Amounts rounds amounts that were kept finer than they are today, half up, at any depth.
func Amounts(v any) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			Amounts(x)
		}
	case Doc:
		for name, x := range v {
			n, ok := x.(json.Number)
			if p, amount := places[name]; ok && amount {
				v[name] = rounded(n, p)
			} else {
				Amounts(x)
			}
		}
	}
}

func rounded(n json.Number, places int) json.Number {
	_, decimals, _ := strings.Cut(string(n), ".")
	if len(decimals) <= places && !strings.ContainsAny(string(n), "eE") || len(n) > 60 {
		return n
	}
	r, ok := new(big.Rat).SetString(string(n))
	if !ok {
		return n
	}
	return json.Number(r.FloatString(places))
}
