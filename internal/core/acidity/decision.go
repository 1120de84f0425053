package acidity

import (
	"fmt"
	"math"
	"slices"
	"sort"
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

// Reading is one pH measurement of a jar.
type Reading struct {
	ID          int64     `json:"id"`
	Load        int       `json:"load"`
	Jar         string    `json:"jar"`
	Moment      string    `json:"moment"`
	Sample      int       `json:"sample"` // 1, or 2 for the retest
	Preparation string    `json:"preparation"`
	Fraction    string    `json:"fraction"`
	PH          float64   `json:"ph"`
	Celsius     float64   `json:"sample_temperature_c"`
	MV          *float64  `json:"mv,omitempty"`
	MeterCheck  int64     `json:"meter_check"`
	At          time.Time `json:"at"`
	By          string    `json:"by"`
	Void        string    `json:"void,omitempty"`        // recorded cause for which it does not count
	Unsupported string    `json:"unsupported,omitempty"` // why it cannot support a release
}

// Supports reports why a reading with this check and sample temperature cannot support a release; empty when it can.
// The check must be from the same day as the reading and accepted, its closing look not failed, the sample at 20 to 30
// °C.
func Supports(check *CheckResult, checkAt, readAt time.Time, closing *bool, sampleCelsius float64) string {
	switch {
	case check == nil:
		return "no meter check"
	case !check.Accepted:
		return "the meter check was not accepted"
	case !sameDay(checkAt, readAt):
		return "the meter check is from another day"
	case closing != nil && !*closing:
		return "the closing look at buffer 4.01 failed"
	case sampleCelsius < minSampleC || sampleCelsius > maxSampleC:
		return fmt.Sprintf("the sample was at %g °C, not 20 to 30 °C", sampleCelsius)
	}
	return ""
}

func sameDay(a, b time.Time) bool {
	ay, am, ad := a.Date()
	by, bm, bd := b.In(a.Location()).Date()
	return ay == by && am == bm && ad == bd
}

// Bounds is what a batch's readings are judged against.
type Bounds struct {
	Limit          float64
	Target         float64
	LargestPieceMM float64
	Loads          int
	FilledAt       time.Time // zero: not filled yet
	EarlyRelease   bool      // the shop allows release on the first day's reading
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
	CallBack    bool     `json:"call_back"`        // released early, and the equilibrium reading failed
}

const (
	leastRepeat       = 0.02 // least repeatability that may be claimed
	meterUncertainty  = 0.03
	agreeWithin       = 0.05
	readingsASample   = 2
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

// Decide applies the rule of handbook 05 to all valid, supporting readings. The equilibrium readings decide; the
// first day's may, where the shop allows it, the product is chilled without pieces over 5 mm, and the value meets the
// target.
func Decide(readings []Reading, b Bounds) Decision {
	first, equi := counting(readings)
	if b.FilledAt.IsZero() {
		return Decision{Outcome: Waiting, Sentence: "On hold: the jars are not filled yet.",
			Missing: []string{"jars filled"}}
	}
	due := b.EquilibriumDue()
	early := 0
	for _, r := range equi {
		if r.At.Before(due) {
			early++
		}
	}
	if early > 0 {
		equi = slices.DeleteFunc(slices.Clone(equi), func(r Reading) bool { return r.At.Before(due) })
	}
	if len(equi) > 0 {
		d := judge(equi, b)
		d.Way, d.DueAt = Equilibrium, due.Format(time.RFC3339)
		return d
	}
	d := Decision{Outcome: Waiting, Way: Equilibrium, DueAt: due.Format(time.RFC3339),
		Missing: []string{"equilibrium reading"}}
	d.Sentence = "On hold: the equilibrium reading is due from " + due.Format("2 Jan 15:04") + "."
	if early > 0 {
		d.Sentence = "On hold: the equilibrium reading was taken too early; it is due from " +
			due.Format("2 Jan 15:04") + "."
	}
	if !b.EarlyRelease || !b.Chilled || b.LargestPieceMM > piecesNeedLonger || len(first) == 0 {
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

// counting are the readings that count, of the first day and of the equilibrium.
func counting(readings []Reading) (first, equilibrium []Reading) {
	for _, r := range readings {
		switch {
		case r.Void != "" || r.Unsupported != "":
		case r.Moment == Equilibrium:
			equilibrium = append(equilibrium, r)
		default:
			first = append(first, r)
		}
	}
	return first, equilibrium
}

type jarKey struct {
	load int
	jar  string
}

// judge computes jar values and the decision value from readings of one moment.
func judge(readings []Reading, b Bounds) Decision {
	jars, sampleSets := groupReadings(readings)
	d := Decision{Missing: missingReadings(jars, sampleSets, b)}
	for _, fractions := range jars {
		for _, values := range fractions {
			d.Highest = max(d.Highest, mean(values))
		}
	}
	d.Repeat = max(leastRepeat, pooled(sampleSets))
	d.Uncertainty = expandedCoverage * math.Sqrt(d.Repeat*d.Repeat+meterUncertainty*meterUncertainty)
	d.Value = d.Highest + d.Uncertainty
	if len(d.Missing) > 0 {
		d.Outcome = Waiting
		d.Sentence = "On hold: " + strings.Join(d.Missing, "; ") + "."
		return d
	}
	d.Outcome = b.outcome(d, retested(readings))
	d.Sentence = b.sentence(d)
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
		return fmt.Sprintf("%s, above the limit of %.2f, though the jar itself is not: retest the same jars once.",
			value, b.Limit)
	}
	return fmt.Sprintf("%s, above the limit of %.2f: on hold.", value, b.Limit)
}

// shown rounds half up to two places, as pH is shown everywhere.
func shown(x float64) string { return amount.Shown(x, 2) }

// groupReadings sorts readings into jars by fraction, and into samples for agreement and repeatability.
func groupReadings(readings []Reading) (map[jarKey]map[string][]float64, map[string][]float64) {
	jars, samples := map[jarKey]map[string][]float64{}, map[string][]float64{}
	for _, r := range readings {
		k := jarKey{r.Load, r.Jar}
		if jars[k] == nil {
			jars[k] = map[string][]float64{}
		}
		jars[k][r.Fraction] = append(jars[k][r.Fraction], r.PH)
		s := fmt.Sprintf("%s jar of load %d, %s%s", r.Jar, r.Load, r.Fraction,
			map[bool]string{true: ", retest", false: ""}[r.Sample > 1])
		samples[s] = append(samples[s], r.PH)
	}
	return jars, samples
}

func missingReadings(jars map[jarKey]map[string][]float64, samples map[string][]float64, b Bounds) []string {
	missing := []string{}
	for load := 1; load <= min(max(1, b.Loads), highestLoadNumber); load++ {
		for _, jar := range []string{FirstJar, LastJar} {
			fractions := jars[jarKey{load, jar}]
			if len(fractions) == 0 {
				missing = append(missing, fmt.Sprintf("%d readings on the %s jar of load %d", readingsASample, jar,
					load))
			}
			for _, f := range sortedKeys(fractions) {
				if n := len(fractions[f]); n < readingsASample {
					missing = append(missing, fmt.Sprintf("another reading on the %s jar of load %d (%s)", jar, load,
						f))
				}
			}
			if f := fractions; f["liquid"] != nil || f["pieces"] != nil || f["blend"] != nil {
				for _, want := range Preparations["pieces_in_liquid"] {
					if f[want] == nil {
						missing = append(missing, fmt.Sprintf("readings of the %s on the %s jar of load %d", want, jar,
							load))
					}
				}
			}
		}
	}
	for _, s := range sortedKeys(samples) {
		if v := samples[s]; slices.Max(v)-slices.Min(v) > agreeWithin+floatGuard {
			missing = append(missing,
				fmt.Sprintf("readings within 0.05 of each other on the %s (now %.2f to %.2f): repeat, and void the faulty one with its cause", s, slices.Min(v), slices.Max(v)))
		}
	}
	return missing
}

func retested(readings []Reading) bool {
	return slices.ContainsFunc(readings, func(r Reading) bool { return r.Sample > 1 })
}

// pooled is the repeatability over samples, n - 1 each.
func pooled(samples map[string][]float64) float64 {
	squares, freedom := 0.0, 0
	for _, v := range samples {
		m := mean(v)
		for _, x := range v {
			squares += (x - m) * (x - m)
		}
		freedom += len(v) - 1
	}
	if freedom <= 0 {
		return 0
	}
	return math.Sqrt(squares / float64(freedom))
}

func mean(v []float64) float64 {
	sum := 0.0
	for _, x := range v {
		sum += x
	}
	return sum / float64(len(v))
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}
