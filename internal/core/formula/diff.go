package formula

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"gallipot/internal/core/amount"
)

// Change kinds between two versions.
const (
	Added   = "added"
	Removed = "removed"
	Changed = "changed"
	Same    = "same"
)

// LineChange is one line in two versions side by side. Percents are of everything in the bowl; Fields is what else of
// the line differs.
type LineChange struct {
	Name          string         `json:"name"`
	Kind          string         `json:"kind"`
	GramsBefore   amount.Grams   `json:"grams_before"`
	GramsAfter    amount.Grams   `json:"grams_after"`
	PercentBefore amount.Percent `json:"percent_before"`
	PercentAfter  amount.Percent `json:"percent_after"`
	Fields        []FieldChange  `json:"fields"`
}

// FieldChange is a setting that differs.
type FieldChange struct {
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Comparison is what changed from one version to another.
type Comparison struct {
	Lines  []LineChange  `json:"lines"`
	Fields []FieldChange `json:"fields"`
}

// Compare pairs the lines of two versions by what they are (the n-th line of an ingredient with the n-th) and
// lists the settings that differ, whichever they are. The order is that of the later version, removed lines last.
func (l Library) Compare(before, after Version) Comparison {
	type side struct {
		line    Line
		percent amount.Percent
		name    string
	}
	index := func(v Version) (map[string]side, []string) {
		m, order, count := map[string]side{}, []string{}, map[string]int{}
		pct := v.Percents()
		for i, line := range v.Lines {
			key, name := l.lineIdentity(line)
			count[key]++
			k := fmt.Sprintf("%s#%d", key, count[key])
			m[k] = side{line, pct[i], name}
			order = append(order, k)
		}
		return m, order
	}
	a, orderA := index(before)
	b, orderB := index(after)
	out := Comparison{Lines: []LineChange{}, Fields: l.differing(before, after, ofVersion)}
	for _, k := range orderB {
		was, had := a[k]
		now := b[k]
		c := LineChange{now.name, Same, was.line.Grams, now.line.Grams, was.percent, now.percent, []FieldChange{}}
		if had {
			c.Fields = l.differing(was.line, now.line, ofLine)
		}
		switch {
		case !had:
			c.Kind = Added
		case was.line.Grams != now.line.Grams || len(c.Fields) > 0:
			c.Kind = Changed
		}
		out.Lines = append(out.Lines, c)
	}
	for _, k := range orderA {
		if _, still := b[k]; !still {
			was := a[k]
			out.Lines = append(out.Lines, LineChange{was.name, Removed, was.line.Grams, amount.Grams{}, was.percent,
				amount.Percent{}, []FieldChange{}})
		}
	}
	return out
}

// Changed compares two states of a draft by what differs only. Of lines that stand where they stood the equal ones are
// passed over, so that a typed gram costs little; percents are then of the lines that differ.
func (l Library) Changed(before, after Version) Comparison {
	if len(before.Lines) == len(after.Lines) {
		was, now := before.Lines, after.Lines
		before.Lines, after.Lines = nil, nil
		for i := range was {
			if !reflect.DeepEqual(was[i], now[i]) {
				before.Lines, after.Lines = append(before.Lines, was[i]), append(after.Lines, now[i])
			}
		}
	}
	c := l.Compare(before, after)
	c.Lines = slices.DeleteFunc(c.Lines, func(x LineChange) bool { return x.Kind == Same })
	return c
}

func (l Library) lineIdentity(line Line) (key, name string) {
	if line.Component != nil {
		return "formula:" + line.Component.Formula,
			fmt.Sprintf("%s, version %d", l.Name(line.Component.Formula), line.Component.Version)
	}
	return line.Ingredient, l.ingredientName(line.Ingredient)
}

func (l Library) ingredientName(id string) string {
	if g, ok := l.Ingredients[id]; ok {
		return g.Name
	}
	return id
}

// Fields by their JSON names that say which version or line it is, and so never count as a difference, or that Compare
// shows in a place of their own.
var (
	ofVersion = []string{"formula", "version", "from", "state", "locked_at", "lines"}
	ofLine    = []string{"id", "ingredient", "grams"}
)

// unstored marks fields that are no part of what is stored.
const unstored = "-"

// differing walks two values of one struct type field by field, so that no field is forgotten when one is added.
func (l Library) differing(before, after any, but []string) []FieldChange {
	out := []FieldChange{}
	l.walk(reflect.ValueOf(before), reflect.ValueOf(after), "", but, &out)
	return out
}

func (l Library) walk(a, b reflect.Value, path string, but []string, out *[]FieldChange) {
	for i := range a.NumField() {
		name, _, _ := strings.Cut(a.Type().Field(i).Tag.Get("json"), ",")
		if path == "" && slices.Contains(but, name) || name == unstored {
			continue
		}
		x, y, at := a.Field(i), b.Field(i), join(path, name)
		switch {
		case reflect.DeepEqual(x.Interface(), y.Interface()):
		case x.Kind() == reflect.Struct && !printed(x):
			l.walk(x, y, at, but, out)
		case x.Kind() == reflect.Slice && x.Type().Elem().Kind() == reflect.Struct:
			for k := range max(x.Len(), y.Len()) {
				l.put(fmt.Sprintf("%s %d", labelOf(at), k+1), l.element(x, k, at), l.element(y, k, at), out)
			}
		default:
			l.put(labelOf(at), l.text(x, at), l.text(y, at), out)
		}
	}
}

func (l Library) put(label, before, after string, out *[]FieldChange) {
	if before != after {
		*out = append(*out, FieldChange{label, before, after})
	}
}

func (l Library) element(list reflect.Value, k int, path string) string {
	if k >= list.Len() {
		return ""
	}
	return l.text(list.Index(k), path)
}

func join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "." + name
}

// printed reports whether a struct writes itself, as amounts do.
func printed(v reflect.Value) bool {
	_, ok := v.Interface().(fmt.Stringer)
	return ok
}

// text writes a value for a person; an empty one is empty, never 0.
func (l Library) text(v reflect.Value, path string) string {
	if v.IsZero() {
		return ""
	}
	if s, ok := v.Interface().(fmt.Stringer); ok {
		return strings.TrimSpace(s.String() + " " + unitOf(path))
	}
	switch v.Kind() {
	case reflect.Pointer:
		return l.text(v.Elem(), path)
	case reflect.Bool:
		return "yes"
	case reflect.Float64:
		return strings.TrimSpace(strconv.FormatFloat(v.Float(), 'f', -1, 64) + " " + unitOf(path))
	case reflect.Struct:
		return l.fieldsText(v, path)
	case reflect.Slice:
		parts := make([]string, v.Len())
		for i := range parts {
			parts[i] = l.text(v.Index(i), path)
		}
		return strings.Join(parts, ", ")
	case reflect.Map:
		parts := []string{}
		for _, k := range v.MapKeys() {
			parts = append(parts, fmt.Sprintf("%v: %s", k, l.text(v.MapIndex(k), path)))
		}
		slices.Sort(parts)
		return strings.Join(parts, ", ")
	case reflect.String:
		return l.ingredientName(v.String())
	}
	return strings.TrimSpace(fmt.Sprint(v.Interface()) + " " + unitOf(path))
}

// fieldsText writes a struct in one row: its texts as they are, what has a unit or a yes with its name.
func (l Library) fieldsText(v reflect.Value, path string) string {
	var parts []string
	for i := range v.NumField() {
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		at := join(path, name)
		s := l.text(v.Field(i), at)
		if s == "" || name == "id" {
			continue
		}
		if v.Field(i).Kind() != reflect.String {
			s = labelOf(at) + " " + s
		}
		parts = append(parts, s)
	}
	return strings.Join(parts, ", ")
}

// words are the labels of fields whose JSON name says it less well.
var words = map[string]string{
	"fill_g": "fill", "fill_ml": "fill by volume", "jar": "jar", "density_by": "density measured by",
	"density_on": "density measured on", "loss_percent": "process loss", "overfill_percent": "overfill",
	"water_driven_off_g": "water driven off",
	"ph_limit":           "pH limit", "ph_target": "pH target", "labour_per_hour": "hands an hour",
	"minutes_per_batch": "minutes a batch",
	"minutes_per_jar":   "minutes a jar", "overhead_per_batch": "overhead a batch", "costing_jars": "jars costed",
	"minutes_per_load": "minutes a load", "oven_minutes": "oven a load", "overhead_per_jar": "overhead a jar",
	"reject_percent": "jars rejected", "packaging.item": "bought as", "packaging.jars_a_piece": "jars a piece",
	"density_g_ml":  "density",
	"keeping.asked": "kept", "keeping.styles": "keeping styles", "keeping.topped_with_oil": "topped with oil",
	"keeping.heat_min_c":       "heat step",
	"keeping.heat_min_minutes": "heat step held", "keeping.after_opening_days": "life after opening",
	"wording.names":      "name on labels",
	"wording.legal_name": "legal name", "wording.tail_percent": "small amounts named last, from",
	"wording.group_spices":   "spices grouped",
	"packaging.loss_percent": "spoilt", "steps.minutes": "for", "steps.celsius": "at",
	"said.spread_percent": "give or take",
	"toppings":            "on top", "grams_per_jar": "a jar", "emulsion_style": "holds together",
	"style_by_lines": "styles follow the lines", "stresses_nothing": "the name stresses nothing",
	"quid":     "quantity printed",
	"disperse": "listed among the rest",
	"any_of":   "any of", "scale_exponent": "grows with the batch to the power of", "said": "how its grams were found",
	"words":            "as it was said",
	"claim_days":       "said to keep",
	"largest_piece_mm": "largest piece", "hold_back_percent": "held back", "optional": "may be left out",
	"tolerance_percent": "tolerance",
}

var units = []struct{ ending, unit string }{
	{"_percent", "%"}, {"_g_ml", "g/mL"}, {"_mm", "mm"}, {"_minutes", "min"}, {"minutes", "min"}, {"_days", "days"},
	{"_c", "°C"}, {"celsius", "°C"},
	{"_ml", "mL"}, {"_g", "g"}, {"grams_per_jar", "g"}, {"grams", "g"},
}

func labelOf(path string) string {
	last := path[strings.LastIndex(path, ".")+1:]
	return cmp.Or(words[path], words[last], strings.ReplaceAll(last, "_", " "))
}

func unitOf(path string) string {
	for _, u := range units {
		if strings.HasSuffix(path, u.ending) {
			return u.unit
		}
	}
	return ""
}
