package assess

import (
	"slices"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/formula"
)

// StandardLine is a line of a proposed standard with what its spread does.
type StandardLine struct {
	formula.StandardLine
	Name   string        `json:"name"`
	Now    *amount.Grams `json:"now_g"` // in the newest version, scaled to the reference
	Wander Wander        `json:"wander"`
}

// Standard is what a version is proposed from: the trials' lines at a reference size, the components they used and the
// names of their lines, both by the key of a line.
type Standard struct {
	Newest    formula.Version
	Lines     []formula.StandardLine
	Refs      map[string]formula.Ref
	Names     map[string]string
	Reference amount.Grams
	Division  amount.Grams
}

// Propose says what each line's spread does, and proposes a version in which lines that ask for care have their
// tolerance. Errors are those of formula.Library.Expand.
func (s Standard) Propose(in Inputs) (formula.Version, []StandardLine, error) {
	plain := s.Newest.FromStandard(s.Lines, s.Refs, nil)
	place := map[string]int{} // of a key among the proposed lines
	deviations := make([]float64, len(plain.Lines))
	for i, l := range plain.Lines {
		place[l.Key()] = i
		deviations[i] = s.Lines[slices.IndexFunc(s.Lines,
			func(x formula.StandardLine) bool { return x.Key == l.Key() })].Deviation
	}
	all, err := Wanders(plain, deviations, s.Division, in)
	if err != nil {
		return plain, nil, err
	}
	tolerances := map[string]float64{}
	out := []StandardLine{}
	for _, l := range s.Lines {
		x := StandardLine{StandardLine: l, Name: s.Names[l.Key], Wander: all[place[l.Key]]}
		if g, ok := s.Newest.GramsOf(l.Key, s.Reference); ok {
			x.Now = &g
		}
		if x.Varies || len(x.Wander.Care) > 0 {
			tolerances[l.Key] = x.Wander.Tolerance
		}
		out = append(out, x)
	}
	return s.Newest.FromStandard(s.Lines, s.Refs, tolerances), out, nil
}
