package production

import (
	"errors"
	"slices"
	"strings"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/amount"
)

func (a *Room) checkReading(st kernel.Store, l Loaded, r *acidity.Reading) error {
	if err := checkSample(l, r); err != nil {
		return err
	}
	r.At = a.toTheMinute(r.At)
	if r.At.IsZero() || l.beforeMaking(r.At) {
		return kernel.Mistake("reading.at", "the reading lies between the day of making and now")
	}
	if r.Celsius < -5 || r.Celsius > 100 {
		return kernel.Mistake("reading.sample_temperature_c", "between -5 and 100 °C")
	}
	if l.Record.Fill == nil {
		return kernel.Mistake("reading.jar", "fill the jars first: a reading is taken from a filled jar")
	}
	r.Void, r.Unsupported, r.Moment, r.Pair, r.Retest, r.Struck = "", "", "", 0, false, false
	if r.MeterCheck == 0 && r.MV == nil { // kept; it supports nothing, and stops all the same
		return checkPH(r)
	}
	check, err := st.MeterCheck(r.MeterCheck)
	if errors.Is(err, kernel.ErrNotFound) {
		return kernel.Mistake("reading.meter_check", "this check is not there; check the meter in both buffers first")
	}
	if err != nil {
		return err
	}
	if r.MV != nil {
		if !check.Check.HasMV() {
			return kernel.Mistake("reading.mv", "this meter was checked without millivolts; type the pH")
		}
		if *r.MV < -600 || *r.MV > 600 {
			return kernel.Mistake("reading.mv", "between -600 and 600 mV")
		}
		r.PH = amount.HalfUp(check.Check.PH(*r.MV, r.Celsius), 3)
	}
	return checkPH(r)
}

func checkPH(r *acidity.Reading) error {
	if r.PH <= 0 || r.PH >= 14 {
		return kernel.Mistake("reading.ph", "a pH lies between 0 and 14")
	}
	return nil
}

// checkSample checks what was measured: the preparation and the fraction of the sample.
func checkSample(l Loaded, r *acidity.Reading) error {
	fractions, ok := acidity.Preparations[r.Preparation]
	if !ok {
		return kernel.Mistake("reading.preparation", "say how the sample was prepared")
	}
	if fits := l.samples(); !slices.Contains(fits, r.Preparation) {
		return kernel.Mistake("reading.preparation", "this product's style, pieces and oil ask for another sample: %s",
			strings.ReplaceAll(strings.Join(fits, " or "), "_", " "))
	}
	r.StandIn = strings.TrimSpace(r.StandIn)
	if len([]rune(r.StandIn)) > 200 {
		return kernel.Mistake("reading.stand_in", "at most 200 characters")
	}
	if !slices.Contains(fractions, r.Fraction) {
		return kernel.Mistake("reading.fraction", "for this preparation read one of: %s", strings.Join(fractions, ", "))
	}
	if r.Jar != acidity.FirstJar && r.Jar != acidity.LastJar {
		return kernel.Mistake("reading.jar", "the first or the last jar of the load")
	}
	if n := l.Row.Loads(); r.Load < 1 || r.Load > n {
		return kernel.Mistake("reading.load", "this batch was made in %d loads", n)
	}
	if r.Sample < 1 || r.Sample > 2 {
		return kernel.Mistake("reading.sample", "1, or 2 for the one retest")
	}
	return nil
}
