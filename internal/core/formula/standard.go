package formula

import (
	"fmt"
	"math"
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/pantry"
)

// Trial is one real making of a formula, line by line.
type Trial struct {
	ID       int64        `json:"id"`
	Version  int          `json:"version"`
	MadeOn   day.Day      `json:"made_on"`
	By       string       `json:"by"`
	Vessel   string       `json:"vessel"`
	Lines    []TrialLine  `json:"lines"`
	Finished amount.Grams `json:"finished_g"`
	Score    int          `json:"score"` // of 10; 0 where nobody scored
	Note     string       `json:"note"`
	Log      []Logged     `json:"log,omitempty"`  // as it happened; Lines follow from it
	Open     bool         `json:"open,omitempty"` // still going on
}

// TrialLine is what really went in. Ingredient or Component says what; Instead names the ingredient that it stood in
// for; Added is how many of the grams were added to taste, for the reason given.
type TrialLine struct {
	Ingredient string       `json:"ingredient,omitempty"`
	Component  *Ref         `json:"component,omitempty"`
	Grams      amount.Grams `json:"grams"`
	Added      amount.Grams `json:"added_g"`
	Reason     string       `json:"reason,omitempty"`
	Instead    string       `json:"instead_of,omitempty"`
}

// Counts tells which line of a standard the grams count for: what stood in for something counts for what it replaced.
func (l TrialLine) Counts() string {
	if l.Instead != "" {
		return l.Instead
	}
	return l.Key()
}

// Key tells lines of the same thing across trials.
func (l TrialLine) Key() string { return keyOf(l.Ingredient, l.Component) }

// Key tells lines of the same thing across trials and versions.
func (l Line) Key() string { return keyOf(l.Ingredient, l.Component) }

func keyOf(ingredient string, component *Ref) string {
	if component != nil {
		return "formula:" + component.Formula
	}
	return ingredient
}

// GramsIn are all grams that went into a trial.
func (t Trial) GramsIn() amount.Grams {
	sum := amount.Grams{}
	for _, l := range t.Lines {
		sum = sum.Plus(l.Grams)
	}
	return sum
}

// Components are the components that trials used, by the key of their line.
func Components(trials []Trial) map[string]Ref {
	refs := map[string]Ref{}
	for _, t := range trials {
		for _, l := range t.Lines {
			if l.Component != nil {
				refs[l.Key()] = *l.Component
			}
		}
	}
	return refs
}

// GramsOf is what the version has of a key, scaled to a reference size; ok is false where it has none.
func (v Version) GramsOf(key string, reference amount.Grams) (grams amount.Grams, ok bool) {
	sum := amount.Grams{}
	for _, l := range v.Lines {
		if l.Key() == key {
			sum, ok = sum.Plus(l.Grams), true
		}
	}
	if ok && v.GramsIn().IsPositive() {
		sum = sum.Exact().Times(reference.Exact()).Over(v.GramsIn().Exact()).Round(1).Grams()
	}
	return sum, ok
}

// MaxScore is the best tasting score.
const MaxScore = 10

// Check lists what is wrong with a trial by itself.
func (t Trial) Check() []pantry.FieldError {
	c := checker{}
	c.log(t.Log)
	if len(t.Lines) == 0 && !t.Open || len(t.Lines) > maxLines {
		c.bad("lines", "a trial has 1 to %d lines", maxLines)
	}
	any := false
	for i, l := range t.Lines {
		at := fmt.Sprintf("lines[%d]", i)
		if (l.Ingredient == "") == (l.Component == nil) {
			c.bad(at, "name either an ingredient or a component")
		}
		c.grams(at+".grams", l.Grams, amount.MaxGrams)
		c.grams(at+".added_g", l.Added, amount.MaxGrams)
		if l.Added.Cmp(l.Grams) > 0 {
			c.bad(at+".added_g", "more was added to taste than went in")
		}
		c.text(at+".reason", l.Reason, maxText)
		any = any || l.Grams.IsPositive()
	}
	if !any && !t.Open {
		c.bad("lines", "nothing was weighed yet")
	}
	c.grams("finished_g", t.Finished, amount.MaxGrams)
	if t.Score < 0 || t.Score > MaxScore {
		c.bad("score", "a score lies between 0 and %d", MaxScore)
	}
	c.text("vessel", t.Vessel, maxName)
	c.text("note", t.Note, maxText)
	return c.errs
}

// StandardLine is a line over the chosen trials. Percents are of everything in the bowl, one for each trial in order;
// Deviation is the sample standard deviation in percentage points.
type StandardLine struct {
	Key       string       `json:"key"`
	Mean      float64      `json:"mean_percent"`
	Deviation float64      `json:"sd"`
	CV        float64      `json:"cv_percent"`
	AbsentIn  int          `json:"absent_in"`
	Percents  []float64    `json:"percents"`
	Grams     amount.Grams `json:"grams"`
	Varies    bool         `json:"varies"` // CV over 10 % with a mean over 1 %, or over 25 % for the rest
}

// The flags of handbook 03.
const (
	varyMain  = 10.0 // percent CV, lines over 1 %
	varySmall = 25.0
	mainLine  = 1.0 // percent of the formula

	maxDivision = 100 // grams: no bench scale is coarser
)

// Standardise proposes a standard from trials (handbook 03): each line's mean percent, equal weights or by tasting
// score, times the reference batch, on whole divisions of the scale; what rounding leaves over goes to the largest
// line. A line that a trial lacks counts as 0 there. Lines come in the order in which the trials first name them.
// Errors: FieldError.
func Standardise(trials []Trial, reference, division amount.Grams, byScore bool) ([]StandardLine, error) {
	if err := checkChoice(trials, reference, division); err != nil {
		return nil, err
	}
	var order []string
	grams := make([]map[string]float64, len(trials))
	weights, weight := make([]float64, len(trials)), 0.0
	for t, trial := range trials {
		grams[t] = map[string]float64{}
		total := 0.0
		for _, l := range trial.Lines {
			if !l.Grams.IsPositive() {
				continue
			}
			k := l.Counts()
			if !slices.Contains(order, k) {
				order = append(order, k)
			}
			grams[t][k] += l.Grams.Float()
			total += l.Grams.Float()
		}
		if total <= 0 {
			return nil, pantry.FieldError{Field: "trials",
				Message: fmt.Sprintf("the trial of %s has no grams", trial.MadeOn)}
		}
		for k := range grams[t] {
			grams[t][k] *= 100 / total
		}
		weights[t] = 1
		if byScore {
			weights[t] = float64(trial.Score)
		}
		weight += weights[t]
	}
	if weight <= 0 {
		return nil, pantry.FieldError{Field: "by_score",
			Message: "none of these trials has a score; give them one, or weigh them equally"}
	}
	out := make([]StandardLine, len(order))
	shares := make([]amount.Exact, len(order))
	for i, k := range order {
		out[i] = spreadOf(k, grams, weights, weight)
		shares[i] = amount.ExactFloat(out[i].Mean).Times(reference.Exact()).Over(amount.Whole(100))
	}
	for i, g := range amount.SpreadToDivision(shares, division) {
		out[i].Grams = g
	}
	return out, nil
}

func checkChoice(trials []Trial, reference, division amount.Grams) error {
	if len(trials) < 2 {
		return pantry.FieldError{Field: "trials", Message: "choose at least two trials"}
	}
	if !reference.IsPositive() || reference.Float() > amount.MaxGrams {
		return pantry.FieldError{Field: "reference_g", Message: "say how many grams the reference batch has"}
	}
	if !division.IsPositive() || division.Float() > maxDivision {
		return pantry.FieldError{Field: "division_g", Message: "a scale's division lies above 0 and up to 100 g"}
	}
	return nil
}

// spreadOf is one line across the trials. The mean may be weighted; the deviation is unweighted.
func spreadOf(key string, grams []map[string]float64, weights []float64, weight float64) StandardLine {
	s := StandardLine{Key: key}
	plain := 0.0
	for t := range grams {
		p, present := grams[t][key]
		if !present {
			s.AbsentIn++
		}
		s.Percents = append(s.Percents, p)
		s.Mean += p * weights[t] / weight
		plain += p / float64(len(grams))
	}
	s.Deviation = pantry.SampleDeviation(s.Percents)
	if plain > 0 {
		s.CV = 100 * s.Deviation / plain
	}
	s.Varies = s.CV > varySmall || s.CV > varyMain && s.Mean > mainLine
	return s
}

// FromStandard writes the proposed grams into a copy of the version: lines it has keep everything else, lines it lacks
// are added, and lines that no trial used are left out. tolerances go by key, in percent.
func (v Version) FromStandard(lines []StandardLine, refs map[string]Ref, tolerances map[string]float64) Version {
	out := v
	out.Lines = []Line{}
	taken := map[string]bool{}
	for _, l := range v.Lines {
		i := slices.IndexFunc(lines, func(s StandardLine) bool { return s.Key == l.Key() })
		if i < 0 || taken[l.Key()] {
			continue // a second line of the same thing is in the first one's grams
		}
		taken[l.Key()] = true
		l.Grams, l.TolerancePercent = lines[i].Grams, round2(tolerances[l.Key()])
		out.Lines = append(out.Lines, l)
	}
	for n, s := range lines {
		if taken[s.Key] {
			continue
		}
		l := Line{ID: fmt.Sprintf("t%d", n+1), Grams: s.Grams, TolerancePercent: round2(tolerances[s.Key])}
		if ref, ok := refs[s.Key]; ok {
			l.Component = &ref
		} else {
			l.Ingredient = s.Key
		}
		for slices.ContainsFunc(out.Lines, func(x Line) bool { return x.ID == l.ID }) {
			l.ID += "x"
		}
		out.Lines = append(out.Lines, l)
	}
	return out
}

func round2(x float64) float64 { return math.Round(x*100) / 100 }
