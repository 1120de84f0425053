package formula

import (
	"encoding/json"
	"fmt"
	"slices"
	"sort"

	"gallipot/internal/core/amount"
)

// LineDifference is a line of a variant against its parent's.
type LineDifference struct {
	Line    string       `json:"line"`
	Kind    string       `json:"kind"` // added, removed or changed
	Name    string       `json:"name"`
	Parent  amount.Grams `json:"parent_g"`
	Variant amount.Grams `json:"variant_g"`
	Swapped string       `json:"swapped_from,omitempty"` // what the parent has in this place
}

// Differences states a variant by what differs from its parent: lines by their id, settings by name.
func (l Library) Differences(parent, variant Version) ([]LineDifference, []FieldChange) {
	out := []LineDifference{}
	for _, x := range variant.Lines {
		_, name := l.lineIdentity(x)
		p, had := lineByID(parent, x.ID)
		d := LineDifference{Line: x.ID, Name: name, Variant: x.Grams}
		switch {
		case !had:
			d.Kind = Added
		case p.Key() != x.Key():
			d.Kind, d.Parent = Changed, p.Grams
			_, d.Swapped = l.lineIdentity(p)
		case p.Grams != x.Grams:
			d.Kind, d.Parent = Changed, p.Grams
		default:
			continue
		}
		out = append(out, d)
	}
	for _, p := range parent.Lines {
		if _, still := lineByID(variant, p.ID); !still {
			_, name := l.lineIdentity(p)
			out = append(out, LineDifference{Line: p.ID, Kind: Removed, Name: name, Parent: p.Grams})
		}
	}
	return out, l.differing(parent, variant, ofVersion)
}

func lineByID(v Version, id string) (Line, bool) {
	i := slices.IndexFunc(v.Lines, func(l Line) bool { return l.ID == id })
	if i < 0 {
		return Line{}, false
	}
	return v.Lines[i], true
}

// Conflict is a line or setting that both the parent and the variant changed, each in its own way.
type Conflict struct {
	Where   string `json:"where"` // the line's id or the setting's name
	Name    string `json:"name"`
	Base    string `json:"base"`
	Parent  string `json:"parent"`
	Variant string `json:"variant"`
}

// Rebase carries a variant over to its parent's newer version: what the variant left alone follows the parent, what it
// changed stays its own. Where both changed the same thing the variant's own is kept and named as a conflict.
func (l Library) Rebase(base, parent, variant Version) (Version, []Conflict) {
	out := variant
	out.Lines = nil
	conflicts := []Conflict{}
	grams := func(x Line, there bool) string {
		if !there {
			return "not in it"
		}
		_, name := l.lineIdentity(x)
		return fmt.Sprintf("%s g %s", x.Grams, name)
	}
	done := map[string]bool{}
	for _, own := range variant.Lines {
		done[own.ID] = true
		was, inBase := lineByID(base, own.ID)
		now, inParent := lineByID(parent, own.ID)
		switch {
		case !inBase || sameLine(was, now) && inParent:
			out.Lines = append(out.Lines, own) // the variant's own, or the parent did not move
		case sameLine(was, own):
			if inParent {
				out.Lines = append(out.Lines, now)
			}
		default:
			out.Lines = append(out.Lines, own)
			if !inParent || !sameLine(own, now) {
				_, name := l.lineIdentity(own)
				conflicts = append(conflicts, Conflict{own.ID, name, grams(was, true), grams(now, inParent),
					grams(own, true)})
			}
		}
	}
	for _, now := range parent.Lines {
		was, inBase := lineByID(base, now.ID)
		switch {
		case done[now.ID]:
		case !inBase:
			out.Lines = append(out.Lines, now)
		case !sameLine(was, now): // the variant took out what the parent changed
			_, name := l.lineIdentity(now)
			conflicts = append(conflicts, Conflict{now.ID, name, grams(was, true), grams(now, true),
				grams(Line{}, false)})
		}
	}
	return rebaseSettings(base, parent, out, conflicts)
}

func sameLine(a, b Line) bool {
	a.TolerancePercent, b.TolerancePercent = 0, 0
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	return string(x) == string(y)
}

// ownSettings belong to each version by itself and never come from the parent.
var ownSettings = []string{"formula", "version", "from", "state", "locked_at", "note", "lines", "wording", "words"}

// rebaseSettings carries the settings over in the same way, by their JSON names.
func rebaseSettings(base, parent, variant Version, conflicts []Conflict) (Version, []Conflict) {
	b, p, v := fieldsOf(base), fieldsOf(parent), fieldsOf(variant)
	names := make([]string, 0, len(p))
	for name := range p {
		if !slices.Contains(ownSettings, name) {
			names = append(names, name)
		}
	}
	sort.Strings(names)
	for _, name := range names {
		moved, own := string(b[name]) != string(p[name]), string(b[name]) != string(v[name])
		switch {
		case moved && !own:
			v[name] = p[name]
		case moved && own && string(p[name]) != string(v[name]):
			conflicts = append(conflicts, Conflict{name, name, string(b[name]), string(p[name]), string(v[name])})
		}
	}
	raw, err := json.Marshal(v)
	if err != nil {
		return variant, conflicts
	}
	out := Version{}
	if json.Unmarshal(raw, &out) != nil {
		return variant, conflicts
	}
	out.Lines = variant.Lines // not through JSON: grams stay as exact as they were
	return out, conflicts
}

func fieldsOf(v Version) map[string]json.RawMessage {
	raw, _ := json.Marshal(v)
	m := map[string]json.RawMessage{}
	_ = json.Unmarshal(raw, &m)
	return m
}

// SideBySide is one line in several versions, each with grams and percent; nil where a version lacks it.
type SideBySide struct {
	Name    string     `json:"name"`
	Cells   []SideCell `json:"cells"`
	Differs bool       `json:"differs"`
}

// SideCell is a line in one of the versions.
type SideCell struct {
	There   bool           `json:"there"`
	Name    string         `json:"name"`
	Grams   amount.Grams   `json:"grams"`
	Percent amount.Percent `json:"percent"`
}

// Align pairs the lines of versions that stem from each other, by line id, then by what they are. The order is that
// of the first, then of what the others add.
func (l Library) Align(versions []Version) []SideBySide {
	rows := []SideBySide{}
	ids := []map[string]bool{}
	find := func(col int, line Line) int {
		for r := range rows {
			if ids[r]["id:"+line.ID+"|"+line.Key()] && !rows[r].Cells[col].There {
				return r
			}
		}
		for r := range rows {
			if !rows[r].Cells[col].There && (ids[r]["key:"+line.Key()] || ids[r]["id:"+line.ID]) {
				return r
			}
		}
		rows = append(rows, SideBySide{Cells: make([]SideCell, len(versions))})
		ids = append(ids, map[string]bool{})
		return len(rows) - 1
	}
	for col, v := range versions {
		percents := v.Percents()
		for i, line := range v.Lines {
			_, name := l.lineIdentity(line)
			r := find(col, line)
			ids[r]["id:"+line.ID+"|"+line.Key()], ids[r]["key:"+line.Key()], ids[r]["id:"+line.ID] = true, true, true
			rows[r].Cells[col] = SideCell{true, name, line.Grams, percents[i]}
			if rows[r].Name == "" {
				rows[r].Name = name
			}
		}
	}
	for r := range rows {
		first := rows[r].Cells[0]
		for _, c := range rows[r].Cells[1:] {
			if c.There != first.There || c.Name != first.Name || c.Grams != first.Grams {
				rows[r].Differs = true
			}
		}
	}
	return rows
}
