package acidity

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// TestTheBuffersAtEachTemperature reads the table of the buffers from the outside, between its points and past its
// ends.
func TestTheBuffersAtEachTemperature(t *testing.T) {
	for _, c := range []struct{ celsius, four, seven float64 }{
		{5, 4.00, 7.04}, {15, 4.00, 7.04}, {17.5, 4.00, 7.03}, {20, 4.00, 7.02}, {22.5, 4.005, 7.01}, {25, 4.01, 7.00},
		{27.5, 4.015, 6.995}, {30, 4.02, 6.99}, {40, 4.02, 6.99},
	} {
		assert.InDelta(t, c.four, Buffer4(c.celsius), 1e-9, "4 at %g °C", c.celsius)
		assert.InDelta(t, c.seven, Buffer7(c.celsius), 1e-9, "7 at %g °C", c.celsius)
	}
	assert.InDelta(t, 59.1595, NernstSlope(25), 1e-9)
	assert.InDelta(t, 54.199, NernstSlope(0), 1e-9)
}

// checkAt is a meter check at 25 °C with a slope and an offset.
func checkAt(slopePercent, offset float64) Check {
	return InMV(offset+slopePercent/100*NernstSlope(25)*(Buffer7(25)-Buffer4(25)), offset, 25)
}

func TestTheMarksOfAMeterCheck(t *testing.T) {
	for _, c := range []struct {
		slope, offset float64
		accepted      bool
	}{
		{100, 0, true}, {95.001, 0, true}, {94.999, 0, false}, {104.999, 0, true}, {105.001, 0, false},
		{100, 30, true}, {100, 30.001, false}, {100, -30, true}, {100, -30.001, false}, {90, 40, false},
	} {
		r := checkAt(c.slope, c.offset).Judge()
		assert.Equal(t, c.accepted, r.Accepted, "slope %g %%, offset %g mV", c.slope, c.offset)
		assert.InDelta(t, c.slope, r.SlopePercent, 1e-9)
		assert.Equal(t, c.offset, r.OffsetMV)
		assert.NotEmpty(t, r.Reasons)
	}
	assert.Len(t, checkAt(90, 40).Judge().Reasons, 2, "each fault is told")
	for off, good := range map[float64]bool{0: true, 0.05: true, -0.05: true, 0.051: false, -0.051: false} {
		assert.Equal(t, good, ClosingLookGood(4.01+off, 25), "closing look off by %g", off)
	}
}

func TestMVBecomePHByTheCheck(t *testing.T) {
	c := checkAt(98, 4)
	assert.InDelta(t, 7.00, c.PH(*c.MV7, 25), 1e-9)
	assert.InDelta(t, 4.01, c.PH(*c.MV4, 25), 1e-9)
	warmer := 7 - (*c.MV4-*c.MV7)/(0.98*NernstSlope(30))
	assert.InDelta(t, warmer, c.PH(*c.MV4, 30), 1e-9)
}

func TestWhenTheDecidingReadingIsDue(t *testing.T) {
	for mm, hours := range map[float64]float64{0: 24, 5: 24, 5.01: 48, 20: 48} {
		assert.InDelta(t, hours, Bounds{FilledAt: filled, LargestPieceMM: mm}.EquilibriumDue().Sub(filled).Hours(), 0,
			"%g mm", mm)
	}
}

// even are four readings of one value, so that only the least repeatability counts.
func even(moment string, after time.Duration, ph float64) []Reading {
	return pair(moment, filled.Add(after), []float64{ph, ph}, []float64{ph, ph})
}

// guard is what the decision adds to four equal readings: twice the root of 0.02 squared and 0.03 squared.
var guard = 2 * math.Sqrt(0.02*0.02+0.03*0.03)

func TestTheDecisionAtItsMarks(t *testing.T) {
	b := bounds()
	for _, c := range []struct {
		value float64
		want  string
	}{
		{b.Target, Pass}, {b.Target + 0.001, PassWithNote}, {b.Limit, PassWithNote}, {b.Limit + 0.001, Retest},
		{b.Limit + guard, Retest}, {b.Limit + guard + 0.001, HoldIt},
	} {
		d := Decide(even(Equilibrium, 24*time.Hour, c.value-guard), b)
		assert.Equal(t, c.want, d.Outcome, "decision value %g", c.value)
		assert.InDelta(t, c.value, d.Value, 1e-9)
		assert.InDelta(t, guard, d.Uncertainty, 1e-9)
		assert.InDelta(t, 0.02, d.Repeat, 1e-9)
	}
	retest := even(Equilibrium, 24*time.Hour, b.Limit)
	for i := range retest {
		retest[i].Sample, retest[i].Retest, retest[i].Pair = 2, true, retest[i].Pair+1000
	}
	retest = append(retest, even(Equilibrium, 24*time.Hour, b.Limit)...)
	assert.Equal(t, HoldIt, Decide(retest, b).Outcome, "a retest is made once")
}

func TestTheDecidingReadingWaitsToTheMinute(t *testing.T) {
	b := bounds()
	early := Decide(even(Equilibrium, 24*time.Hour-time.Second, 4), b)
	assert.Equal(t, Waiting, early.Outcome)
	assert.Equal(t, Pass, Decide(even(Equilibrium, 24*time.Hour, 4), b).Outcome)
	none := Decide(nil, b)
	assert.Equal(t, []string{"equilibrium reading"}, none.Missing)
}

func TestEarlyReleaseNeedsAllThatItNeeds(t *testing.T) {
	first := even(FirstDay, time.Hour, 4)
	allowed := bounds()
	allowed.EarlyRelease = true
	allowed.LargestPieceMM = 5
	d := Decide(first, allowed)
	assert.Equal(t, Pass, d.Outcome)
	assert.Equal(t, FirstDay, d.Way)
	for name, take := range map[string]func(*Bounds){
		"the shop's word": func(b *Bounds) { b.EarlyRelease = false },
		"the cold":        func(b *Bounds) { b.Chilled = false },
		"small pieces":    func(b *Bounds) { b.LargestPieceMM = 5.01 },
	} {
		b := allowed
		take(&b)
		d := Decide(first, b)
		assert.Equal(t, Waiting, d.Outcome, "without %s", name)
		assert.Equal(t, Equilibrium, d.Way, "without %s", name)
	}
	note := Decide(even(FirstDay, time.Hour, allowed.Target), allowed)
	assert.Equal(t, Waiting, note.Outcome, "over the target the equilibrium decides")
}

func TestReadingsAgreeWithinTheirMark(t *testing.T) {
	b := bounds()
	at := filled.Add(25 * time.Hour)
	agree := Decide(pair(Equilibrium, at, []float64{4.00, 4.05}, []float64{4, 4}), b)
	assert.NotEqual(t, Waiting, agree.Outcome)
	differ := Decide(pair(Equilibrium, at, []float64{4.00, 4.051}, []float64{4, 4}), b)
	assert.Equal(t, Waiting, differ.Outcome)
	assert.Contains(t, fmt.Sprint(differ.Missing), "0.05 is allowed")
	spread := Decide(pair(Equilibrium, at, []float64{3.95, 4.00}, []float64{3.95, 4.00}), b)
	assert.InDelta(t, 0.05/math.Sqrt2, spread.Repeat, 1e-9, "wider readings widen the doubt")
}

// TestEachSampleAndWhatItMayYield reads the ways of taking a sample.
func TestEachSampleAndWhatItMayYield(t *testing.T) {
	assert.Equal(t, map[string][]string{"pourable": {"water layer"}, "semi_solid": {"paste"},
		"pieces_in_oil": {"blended pieces"}, "pieces_in_liquid": {"liquid", "pieces", "blend"}}, Preparations)
	part := even(Equilibrium, 25*time.Hour, 4)
	for i := range part {
		part[i].Fraction = "liquid"
	}
	d := Decide(part, bounds())
	assert.Equal(t, Waiting, d.Outcome)
	for _, want := range []string{"the first jar of load 1 (pieces)", "the last jar of load 1 (blend)"} {
		assert.Contains(t, fmt.Sprint(d.Missing), want)
	}
}

// TestTheAcidsAsInTheBooks pins molar masses in g/mol and dissociation constants at 25 °C (CRC Handbook).
func TestTheAcidsAsInTheBooks(t *testing.T) {
	want := map[int]acid{
		acetic: {60.052, []float64{4.756}}, lactic: {90.078, []float64{3.860}}, malic: {134.087, []float64{3.40, 5.11}},
		citric: {192.124, []float64{3.128, 4.761, 6.396}}, tartaric: {150.087, []float64{3.036, 4.366}},
		sorbic: {112.127, []float64{4.76}}, benzoic: {122.121, []float64{4.20}},
	}
	assert.Len(t, want, len(acids))
	for k, a := range want {
		assert.Equal(t, a, acids[k])
		for j, pKa := range a.pKa { // at a pKa the charge is half way between two steps, where the next is far
			if len(a.pKa) == 1 {
				assert.InDelta(t, float64(j)+0.5, charge(k, math.Pow(10, -pKa)), 1e-9)
			}
		}
	}
	assert.InDelta(t, 84.01, molarBakingSoda, 0)
	assert.InDelta(t, 150.22, molarPotassiumSorbate, 0)
	assert.InDelta(t, 144.11, molarSodiumBenzoate, 0)
}

func TestATraceOfWaterStillHasItsStrength(t *testing.T) {
	s := Solutes{Water: 0.45, Acetic: 0.05, Salt: 0.05}
	assert.InDelta(t, 100*0.05/s.Aqueous(), s.AceticInWater(), 1e-9)
	assert.InDelta(t, 10, s.SaltInWater(), 1e-9)
	assert.Zero(t, Solutes{}.AceticInWater())
	assert.Zero(t, Solutes{}.SaltInWater())
	none, err := Solutes{Salt: 1}.WaterActivity()
	assert.ErrorIs(t, err, ErrNoWaterActivity)
	assert.Zero(t, none)
}

func TestALaboratoryFarUnderTheEstimateIsQuestioned(t *testing.T) {
	for measured, far := range map[float64]bool{0.95: false, 0.85: false, 0.849: true, 0.5: true, 0.99: false} {
		assert.Equal(t, far, FarUnder(measured, 0.95), "%g", measured)
	}
}
