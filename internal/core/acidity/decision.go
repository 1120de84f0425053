package acidity

import (
	"fmt"
	"gallipot/internal/core/law"
	"math"
	"strings"
	"time"

	"gallipot/internal/core/amount"
)

// When a reading was taken in the life of a batch.
const (
	FirstDay    = "first_day"
	Equilibrium = "equilibrium"
)

// Which jar of a load it was taken from.
const (
	FirstJar = "first"
	LastJar  = "last"
)

// Preparations of a sample, because oil and pieces mislead (handbook 05), and the fractions each may yield.
var Preparations = map[string][]string{
	"pourable":         {"water layer"},
	"semi_solid":       {"paste"},
	"pieces_in_oil":    {"blended pieces"},
	"pieces_in_liquid": {"liquid", "pieces", "blend"},
}

// Reading is one pH measurement of a jar. What is told of it beside the measurement follows from the record: its moment
// from its time, its pair from what was read before it.
type Reading struct {
	ID          int64     `json:"id"`
	Load        int       `json:"load"`
	Jar         string    `json:"jar"`
	StandIn     string    `json:"stand_in,omitempty"` // why another jar of the load stands for it
	Moment      string    `json:"moment"`             // first_day, equilibrium, or empty: it counts for nothing
	Sample      int       `json:"sample"`             // 1, or 2 for the retest
	Preparation string    `json:"preparation"`
	Fraction    string    `json:"fraction"`
	PH          float64   `json:"ph"`
	Celsius     float64   `json:"sample_temperature_c"`
	MV          *float64  `json:"mv,omitempty"`
	MeterCheck  int64     `json:"meter_check"`
	At          time.Time `json:"at"`
	By          string    `json:"by"`
	Pair        int       `json:"pair,omitempty"`        // readings of one number are a pair
	Retest      bool      `json:"retest,omitempty"`      // a second sample that the verdict asked for
	Struck      bool      `json:"struck,omitempty"`      // by hand, with the cause in Void
	Void        string    `json:"void,omitempty"`        // recorded cause for which it does not count
	Unsupported string    `json:"unsupported,omitempty"` // why it cannot support a release
}

// Bounds is what a batch's readings are judged against.
type Bounds struct {
	Limit          float64
	Target         float64
	LargestPieceMM float64
	Loads          int
	FilledAt       time.Time // the latest filling, or addition after it; zero: not filled yet
	Zone           *time.Location
	Tongue         law.Tongue // how the sentence writes days
	EarlyRelease   bool       // the shop allows release on the first day's reading
	Chilled        bool
}

// Outcomes of the decision rule.
const (
	Waiting      = "waiting"
	Pass         = "pass"
	PassWithNote = "pass_with_note"
	Retest       = "retest"
	HoldIt       = "hold"
)

// Decision is what the readings say. Value is the decision value: the highest jar value plus its uncertainty.
type Decision struct {
	Outcome     string   `json:"outcome"`
	Way         string   `json:"way,omitempty"` // equilibrium or first_day
	Value       float64  `json:"value"`
	Highest     float64  `json:"highest"`
	Uncertainty float64  `json:"uncertainty"`
	Repeat      float64  `json:"repeatability"`
	Sentence    string   `json:"sentence"`
	Missing     []string `json:"missing"`
	DueAt       string   `json:"due_at,omitempty"` // when the equilibrium reading may be taken, RFC 3339
}

const (
	leastRepeat       = 0.02 // least repeatability that may be claimed
	meterUncertainty  = 0.03
	agreeWithin       = 0.05
	readingsASample   = 2
	samplesAgree      = 0.10 // first sample and retest
	piecesUnderOil    = 0.30 // share of oil from which pieces lie in oil
	equilibriumHours  = 24
	piecesNeedLonger  = 5.0 // mm; above this again 24 h later
	floatGuard        = 1e-9
	expandedCoverage  = 2
	highestLoadNumber = 50
)

// EquilibriumDue is when the deciding reading may be taken: 24 h after filling, 48 h where pieces exceed 5 mm.
func (b Bounds) EquilibriumDue() time.Time {
	hours := equilibriumHours
	if b.LargestPieceMM > piecesNeedLonger {
		hours *= 2
	}
	return b.FilledAt.Add(time.Duration(hours) * time.Hour)
}

// LeastUncertainty is U at the least repeatability: what any single reading carries.
var LeastUncertainty = expandedCoverage * math.Sqrt(leastRepeat*leastRepeat+meterUncertainty*meterUncertainty)

// Over reports whether a single reading, with the least uncertainty, exceeds the limit.
func (b Bounds) Over(ph float64) bool { return ph+LeastUncertainty > b.Limit+floatGuard }

// Moment is what a reading taken at a time is: a first reading from the latest filling or addition until the
// equilibrium is due, an equilibrium reading from then on; empty before them, where it counts for nothing.
func (b Bounds) Moment(at time.Time) string {
	switch {
	case b.FilledAt.IsZero() || at.Before(b.FilledAt):
		return ""
	case at.Before(b.EquilibriumDue()):
		return FirstDay
	}
	return Equilibrium
}

// MayGoEarly reports whether the first reading may release: where the shop allows it, of chilled products without
// pieces over 5 mm.
func (b Bounds) MayGoEarly() bool {
	return b.EarlyRelease && b.Chilled && b.LargestPieceMM <= piecesNeedLonger
}

// Decide applies the rule of handbook 05 to all readings that count and support. The equilibrium readings decide; the
// first ones may, where the product may go early and the value meets the target.
func Decide(readings []Reading, b Bounds) Decision {
	if b.FilledAt.IsZero() {
		return Decision{Outcome: Waiting, Sentence: "On hold: the jars are not filled yet.",
			Missing: []string{"jars filled"}}
	}
	due := b.EquilibriumDue().In(b.zone())
	first, equi := b.counting(readings)
	if len(equi) > 0 {
		d := judge(equi, b)
		d.Way, d.DueAt = Equilibrium, due.Format(time.RFC3339)
		return d
	}
	d := Decision{Outcome: Waiting, Way: Equilibrium, DueAt: due.Format(time.RFC3339),
		Missing: []string{"equilibrium reading"}}
	d.Sentence = "On hold: the equilibrium reading is due from " + b.Tongue.Moment(due) + "."
	d.Sentence += b.overOnFirstDay(first)
	if !b.MayGoEarly() || len(first) == 0 {
		return d
	}
	f := judge(first, b)
	if f.Outcome == Pass {
		f.Way, f.DueAt = FirstDay, d.DueAt
		f.Sentence += " Early release: the equilibrium reading stays due."
		return f
	}
	if f.Outcome == Waiting {
		d.Missing = f.Missing
	}
	return d
}

// overOnFirstDay warns of a first reading over the limit, which the equilibrium may still bring down.
func (b Bounds) overOnFirstDay(first []Reading) string {
	highest := 0.0
	for _, r := range first {
		highest = max(highest, r.PH)
	}
	if !b.Over(highest) {
		return ""
	}
	return fmt.Sprintf(" The first reading of %s lies over the limit of %.2f: keep the jars cold, "+
		"and look whether the acid went in.", shown(highest), b.Limit)
}

func (b Bounds) zone() *time.Location {
	if b.Zone == nil {
		return time.UTC
	}
	return b.Zone
}

// counting are the readings that count, of the first moment and of the equilibrium.
func (b Bounds) counting(readings []Reading) (first, equilibrium []Reading) {
	for _, r := range readings {
		if r.Void != "" || r.Unsupported != "" {
			continue
		}
		switch b.Moment(r.At) {
		case FirstDay:
			first = append(first, r)
		case Equilibrium:
			equilibrium = append(equilibrium, r)
		}
	}
	return first, equilibrium
}

// judge computes jar values and the decision value from readings of one moment.
func judge(readings []Reading, b Bounds) Decision {
	s := sampled(readings)
	again := []string{}
	if s.retested() {
		again = s.missing(b.Loads, true)
	}
	whole := s.retested() && len(again) == 0
	d := Decision{Missing: s.missing(b.Loads, false), Highest: s.highest(whole)}
	d.Repeat = max(leastRepeat, s.pooled())
	d.Uncertainty = expandedCoverage * math.Sqrt(d.Repeat*d.Repeat+meterUncertainty*meterUncertainty)
	d.Value = d.Highest + d.Uncertainty
	if len(d.Missing) > 0 {
		d.Outcome = Waiting
		d.Sentence = "On hold: " + strings.Join(d.Missing, "; ") + "."
		return d
	}
	d.Outcome = b.outcome(d, whole)
	d.Sentence = b.sentence(d)
	if len(again) == 0 || d.Outcome == HoldIt {
		return d
	}
	d.Missing = again // a retest that was begun is finished before anything passes
	if d.Outcome != Retest {
		d.Outcome = Waiting
	}
	d.Sentence += " Still to come: " + strings.Join(again, "; ") + "."
	return d
}

func (b Bounds) outcome(d Decision, retested bool) string {
	switch {
	case d.Value <= b.Target+floatGuard:
		return Pass
	case d.Value <= b.Limit+floatGuard:
		return PassWithNote
	case d.Highest <= b.Limit+floatGuard && !retested:
		return Retest
	}
	return HoldIt
}

func (b Bounds) sentence(d Decision) string {
	value := fmt.Sprintf("Highest jar %s plus uncertainty %s gives %s", shown(d.Highest), shown(d.Uncertainty),
		shown(d.Value))
	switch d.Outcome {
	case Pass:
		return fmt.Sprintf("%s, at or below the target of %.2f.", value, b.Target)
	case PassWithNote:
		return fmt.Sprintf("%s, above the target of %.2f but within the limit of %.2f: look for drift.", value,
			b.Target, b.Limit)
	case Retest:
		return fmt.Sprintf("%s, above the limit of %.2f, though the jar itself is not: retest both jars once.",
			value, b.Limit)
	}
	return fmt.Sprintf("%s, above the limit of %.2f: on hold.", value, b.Limit)
}

// shown rounds half up to two places, as pH is shown everywhere.
func shown(x float64) string { return amount.Shown(x, 2) }
