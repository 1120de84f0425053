package acidity

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// sampleKey is one sample: of a jar of a load, one of its fractions, the first time or as a retest.
type sampleKey struct {
	load     int
	jar      string
	fraction string
	retest   bool
}

func (k sampleKey) String() string {
	s := fmt.Sprintf("the %s jar of load %d (%s)", k.jar, k.load, k.fraction)
	if k.retest {
		s = "the retest of " + s
	}
	return s
}

func (r Reading) sample() sampleKey { return sampleKey{r.Load, r.Jar, r.Fraction, r.Retest} }

// Joins gives the pair that a reading belongs to, numbered from 1: the newest of its sample while that is single,
// uncontested and of the same moment, else a new one.
func Joins(earlier []Reading, r Reading) int {
	newest, last := 0, -1
	for i, e := range earlier {
		newest = max(newest, e.Pair)
		if e.sample() == r.sample() {
			last = i
		}
	}
	if last >= 0 {
		e := earlier[last]
		others := slices.IndexFunc(earlier[:last], func(o Reading) bool { return o.Pair == e.Pair })
		if others < 0 && e.Void == "" && e.Moment == r.Moment && (e.Unsupported == "") == (r.Unsupported == "") {
			return e.Pair
		}
	}
	return newest + 1
}

// pairs are the readings of one sample by pair.
type pairs map[int][]float64

// value is the highest of the whole pairs: the mean of a pair that agrees, the higher reading of one that does not.
// agrees says whether any pair agrees; without one the sample has no value.
func (p pairs) value() (value float64, agrees bool) {
	for _, v := range p {
		if len(v) < readingsASample {
			continue
		}
		if slices.Max(v)-slices.Min(v) > agreeWithin+floatGuard {
			value = max(value, slices.Max(v))
			continue
		}
		value, agrees = max(value, mean(v)), true
	}
	return value, agrees
}

// lone reports whether a reading waits for the second of its pair.
func (p pairs) lone() bool {
	for _, v := range p {
		if len(v) < readingsASample {
			return true
		}
	}
	return false
}

// widest is the largest distance within a pair.
func (p pairs) widest() float64 {
	out := 0.0
	for _, v := range p {
		out = max(out, slices.Max(v)-slices.Min(v))
	}
	return out
}

type samples map[sampleKey]pairs

func sampled(readings []Reading) samples {
	out := samples{}
	for _, r := range readings {
		k := r.sample()
		if out[k] == nil {
			out[k] = pairs{}
		}
		out[k][r.Pair] = append(out[k][r.Pair], r.PH)
	}
	return out
}

// fractions are those read of a jar, in order.
func (s samples) fractions(load int, jar string, retest bool) []string {
	var out []string
	for k := range s {
		if k.load == load && k.jar == jar && k.retest == retest {
			out = append(out, k.fraction)
		}
	}
	slices.Sort(out)
	return out
}

// missing lists what is still to be read: of the first samples, or of the retest, which follows the first.
func (s samples) missing(loads int, retest bool) []string {
	out := []string{}
	for load := 1; load <= min(max(1, loads), highestLoadNumber); load++ {
		for _, jar := range []string{FirstJar, LastJar} {
			wanted := s.fractions(load, jar, false)
			if !retest && len(wanted) == 0 {
				out = append(out, fmt.Sprintf("%d readings on the %s jar of load %d", readingsASample, jar, load))
			}
			if liquid := Preparations["pieces_in_liquid"]; slices.ContainsFunc(wanted,
				func(f string) bool { return slices.Contains(liquid, f) }) {
				wanted = liquid
			}
			for _, f := range wanted {
				if what := s.wants(sampleKey{load, jar, f, retest}); what != "" {
					out = append(out, what)
				}
			}
		}
	}
	return out
}

// wants says what one sample still needs to have a value.
func (s samples) wants(k sampleKey) string {
	p := s[k]
	_, agrees := p.value()
	switch {
	case len(p) == 0:
		return fmt.Sprintf("%d readings on %s", readingsASample, k)
	case p.lone():
		return fmt.Sprintf("another reading on %s", k)
	case !agrees:
		return fmt.Sprintf("a new pair on %s: the two readings lie %s apart, 0.05 is allowed", k, shown(p.widest()))
	}
	return ""
}

// highest is the highest jar value, over fractions: of both samples where a retest is whole, their mean if they agree
// within 0.10, else the higher one. Part of a retest may only raise it.
func (s samples) highest(retestWhole bool) float64 {
	out := 0.0
	for k, p := range s {
		v, _ := p.value()
		if v == 0 { // a lone reading tells where the sample lies, though not its value
			for _, one := range p {
				v = max(v, slices.Max(one))
			}
		}
		if k.retest {
			if !retestWhole {
				out = max(out, v)
			}
			continue
		}
		if again := s[sampleKey{k.load, k.jar, k.fraction, true}]; retestWhole && again != nil {
			second, _ := again.value()
			if math.Abs(v-second) <= samplesAgree+floatGuard {
				v = (v + second) / 2
			} else {
				v = max(v, second)
			}
		}
		out = max(out, v)
	}
	return out
}

// pooled is the repeatability over pairs, n - 1 each; a lone reading has none.
func (s samples) pooled() float64 {
	var each []float64 // squares of each pair, summed in order of size so that one record gives one value
	freedom := 0
	for _, p := range s {
		for _, v := range p {
			m, squares := mean(v), 0.0
			for _, x := range v {
				squares += (x - m) * (x - m)
			}
			each = append(each, squares)
			freedom += len(v) - 1
		}
	}
	slices.Sort(each)
	squares := 0.0
	for _, x := range each {
		squares += x
	}
	if freedom <= 0 {
		return 0
	}
	return math.Sqrt(squares / float64(freedom))
}

func (s samples) retested() bool {
	for k := range s {
		if k.retest {
			return true
		}
	}
	return false
}

func mean(v []float64) float64 {
	sum := 0.0
	for _, x := range v {
		sum += x
	}
	return sum / float64(len(v))
}

// SamplePreparations are the ways in which a sample of a product may be prepared, the usual one first, because oil and
// pieces mislead (handbook 05): by product style, emulsion style, the largest piece in mm, the share of oil and whether
// oil covers the jar.
func SamplePreparations(style, emulsion string, pieceMM, oilShare float64, covered bool) []string {
	pourable := style == "pourable dressing" || style == "marinade"
	switch {
	case pieceMM > piecesNeedLonger && (oilShare >= piecesUnderOil || covered):
		return []string{"pieces_in_oil"}
	case pieceMM > piecesNeedLonger && pourable:
		return []string{"pieces_in_liquid"}
	case pourable && strings.HasPrefix(emulsion, "shaken"):
		return []string{"pourable"}
	case pourable || style == "":
		return []string{"pourable", "semi_solid"}
	}
	return []string{"semi_solid"}
}
