package told

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
)

// typing words what was typed into a draft in one sitting: of each line where it began and where it ended.
func typing(group []Change) (string, []string, error) {
	_, number, _ := strings.Cut(group[0].Which, "/")
	said := "changed the draft of version " + number
	var lines, fields []string
	from, to := map[string]string{}, map[string]string{}
	note := func(order *[]string, name, before, after string) {
		if _, seen := from[name]; !seen {
			*order = append(*order, name)
			from[name] = before
		}
		to[name] = after
	}
	for _, c := range slices.Backward(group) { // the oldest first
		var d DraftChange
		if err := json.Unmarshal(c.After, &d); err != nil {
			return said, nil, err
		}
		for _, l := range d.Lines {
			note(&lines, l.Name, l.GramsBefore.String()+" g", l.GramsAfter.String()+" g")
			for _, f := range l.Fields {
				note(&fields, l.Name+", "+f.Field, f.Before, f.After)
			}
		}
		for _, f := range d.Fields {
			note(&fields, f.Field, f.Before, f.After)
		}
	}
	details := []string{}
	for _, name := range slices.Concat(lines, fields) {
		if from[name] != to[name] {
			details = append(details, fmt.Sprintf("%s: %s → %s", name, orNothing(from[name]), orNothing(to[name])))
		}
	}
	return said, details, nil
}

func orNothing(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// differences lists what differs between two rows, each with its place in words.
func differences(before, after row) []string {
	out := []string{}
	var walk func(place string, a, b any)
	walk = func(place string, a, b any) {
		if match.SameJSON(a, b) {
			return
		}
		x, isX := a.(map[string]any)
		y, isY := b.(map[string]any)
		if isX || isY {
			for _, name := range namesIn(x, y) {
				at := name
				if place != "" {
					at = place + " " + name
				}
				if place != "" || !slices.Contains(besides, name) {
					walk(at, x[name], y[name])
				}
			}
			return
		}
		out = append(out, fmt.Sprintf("%s: %s → %s", inWords(place), plainValue(a), plainValue(b)))
	}
	walk("", map[string]any(before), map[string]any(after))
	if n := len(out) - mostDetails; n > 0 {
		out = append(out[:mostDetails], strconv.Itoa(n)+" more")
	}
	return out
}

func namesIn(a, b map[string]any) []string {
	var out []string
	for _, m := range []map[string]any{a, b} {
		for name := range m {
			if !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	slices.Sort(out)
	return out
}

func inWords(place string) string {
	words := strings.Fields(strings.ReplaceAll(strings.TrimPrefix(place, "data "), "_", " "))
	for i, w := range words {
		if _, err := law.Of(law.Regime(strings.ToUpper(w))); err == nil {
			words[i] = strings.ToUpper(w)
		}
	}
	return strings.ReplaceAll(strings.Join(words, " "), "mg kg", "mg/kg")
}

// plainValue shows a value in at most so many letters.
func plainValue(v any) string {
	const most = 160
	switch x := v.(type) {
	case nil:
		return "nothing"
	case bool:
		return yesNo(x)
	case string:
		if x == "" {
			return "nothing"
		}
		v = x
	case []any:
		parts := make([]string, len(x))
		for i, p := range x {
			parts[i] = plainValue(p)
		}
		if v = strings.Join(parts, ", "); len(x) == 0 {
			v = "nothing"
		}
	case map[string]any:
		raw, _ := json.Marshal(x)
		v = string(raw)
	}
	r := []rune(fmt.Sprint(v))
	if len(r) > most {
		r = append(r[:most], '…')
	}
	return string(r)
}
