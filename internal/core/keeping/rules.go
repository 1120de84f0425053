// Package keeping decides how long a product keeps and how: storage condition, last day, date kind, and the
// sentence that explains it. The rules are data (rules.json); this package knows how to apply them to facts.
package keeping

import (
	_ "embed"
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"gallipot/internal/core/law"
)

//go:embed rules.json
var rulesJSON []byte

// Kinds of rules. One of safety that gives a last day makes it a "use by", by this property and not by its number.
const (
	Safety  = "safety"
	Quality = "quality"
)

// Rule is one rule as data. Params hold its days, pH and water-activity marks; Text and Sentence name them in braces,
// so that a tightened rule says what it gives. Laws are the regimes under which it applies.
type Rule struct {
	ID       int                `json:"id"`
	Title    string             `json:"title"`
	Kind     string             `json:"kind"`
	Laws     []law.Regime       `json:"laws"`
	On       bool               `json:"on"`
	Params   map[string]float64 `json:"params"`
	Text     string             `json:"text"`
	Sentence string             `json:"sentence,omitempty"`
	Source   string             `json:"source"`
}

// shipped is rules.json as read once; it is part of the program and covered by a test.
var shipped = sync.OnceValue(func() []Rule {
	var rules []Rule
	if err := json.Unmarshal(rulesJSON, &rules); err != nil {
		panic("keeping: rules.json: " + err.Error())
	}
	for i := range rules {
		rules[i].Laws = []law.Regime{}
		for _, l := range law.All() {
			if l.Applies(rules[i].ID) {
				rules[i].Laws = append(rules[i].Laws, l.Regime)
			}
		}
	}
	return rules
})

// Rules returns the rules as shipped, in order of their numbers.
func Rules() []Rule {
	rules := slices.Clone(shipped())
	for i := range rules {
		rules[i].Params = maps.Clone(rules[i].Params)
	}
	return rules
}

// Told is the rule's text with its own figures.
func (r Rule) Told() string { return r.fill(r.Text, nil) }

// fill puts figures in the place of their names in braces: what facts answer, else the rule's own. day_count is the
// days with the day of making as day 1.
func (r Rule) fill(text string, facts func(name string) string) string {
	var out strings.Builder
	for {
		before, rest, found := strings.Cut(text, "{")
		out.WriteString(before)
		if !found {
			return out.String()
		}
		name, after, _ := strings.Cut(rest, "}")
		text = after
		if facts != nil {
			if s := facts(name); s != "" {
				out.WriteString(s)
				continue
			}
		}
		x := r.Params[name]
		if name == "day_count" {
			x = r.Params["days"] + 1
		}
		out.WriteString(strconv.FormatFloat(x, 'g', -1, 64))
	}
}

// FrozenDays is how long a frozen part of a lot keeps, by rule 10: its plain figure, the cautious one, on or off.
func FrozenDays(rules []Rule) int {
	for _, r := range append(slices.Clone(rules), Rules()...) {
		if days := int(r.Params["days"]); r.ID == ruleFrozen && days > 0 {
			return days
		}
	}
	return 0
}
