package acidity

import (
	"fmt"
	"math"
)

// The limits of a meter check (handbook 05).
const (
	minSlopePercent = 95
	maxSlopePercent = 105
	maxOffsetMV     = 30
	maxBufferError  = 0.05
	minSampleC      = 20
	maxSampleC      = 30
)

// NernstSlope is mV per pH at t °C: 54.199 + 0.19842 t.
func NernstSlope(celsius float64) float64 { return 54.199 + 0.19842*celsius }

var (
	bufferTemps = []float64{15, 20, 25, 30}
	buffer4     = []float64{4.00, 4.00, 4.01, 4.02}
	buffer7     = []float64{7.04, 7.02, 7.00, 6.99}
)

// Buffer4 and Buffer7 are the values of the buffers at t °C: interpolated, the ends held.
func Buffer4(celsius float64) float64 { return interpolate(buffer4, celsius) }

// Buffer7 is the neutral buffer's value at t °C.
func Buffer7(celsius float64) float64 { return interpolate(buffer7, celsius) }

func interpolate(values []float64, t float64) float64 {
	if t <= bufferTemps[0] {
		return values[0]
	}
	for i := 1; i < len(bufferTemps); i++ {
		if t <= bufferTemps[i] {
			f := (t - bufferTemps[i-1]) / (bufferTemps[i] - bufferTemps[i-1])
			return values[i-1] + f*(values[i]-values[i-1])
		}
	}
	return values[len(values)-1]
}

// Check is a meter check in two buffers at one temperature: by millivolts, or, of meters without them, by what the
// buffers read after calibration.
type Check struct {
	MV4     *float64 `json:"mv_buffer_4"`
	MV7     *float64 `json:"mv_buffer_7"`
	PH4     *float64 `json:"ph_buffer_4"`
	PH7     *float64 `json:"ph_buffer_7"`
	Celsius float64  `json:"buffer_temperature_c"`
}

// InMV is a check by millivolts.
func InMV(mv4, mv7, celsius float64) Check { return Check{MV4: &mv4, MV7: &mv7, Celsius: celsius} }

// InPH is a check of a meter without millivolts.
func InPH(ph4, ph7, celsius float64) Check { return Check{PH4: &ph4, PH7: &ph7, Celsius: celsius} }

// HasMV reports whether the check was made by millivolts.
func (c Check) HasMV() bool { return c.MV4 != nil && c.MV7 != nil }

// CheckResult says whether the meter is good today, and why.
type CheckResult struct {
	SlopePercent float64  `json:"slope_percent"`
	OffsetMV     float64  `json:"offset_mv"`
	Accepted     bool     `json:"accepted"`
	Reasons      []string `json:"reasons"`
}

// Judge computes slope and offset and accepts 95 to 105 % and at most 30 mV either way; without millivolts it accepts
// buffers that read within 0.05 of their values.
func (c Check) Judge() CheckResult {
	if !c.HasMV() {
		return c.judgeBuffers()
	}
	span := (Buffer7(c.Celsius) - Buffer4(c.Celsius)) * NernstSlope(c.Celsius)
	r := CheckResult{SlopePercent: 100 * (*c.MV4 - *c.MV7) / span, OffsetMV: *c.MV7, Accepted: true}
	if r.SlopePercent < minSlopePercent || r.SlopePercent > maxSlopePercent {
		r.Accepted = false
		r.Reasons = append(r.Reasons,
			fmt.Sprintf("the slope is %.1f %%, it must lie between 95 and 105 %%: clean or soak the probe, use fresh buffer, check again", r.SlopePercent))
	}
	if math.Abs(r.OffsetMV) > maxOffsetMV {
		r.Accepted = false
		r.Reasons = append(r.Reasons,
			fmt.Sprintf("the offset is %.1f mV, it may be 30 mV at most either way: the reference is poisoned or dry",
				r.OffsetMV))
	}
	if r.Accepted {
		r.Reasons = append(r.Reasons, fmt.Sprintf("slope %.1f %% and offset %.1f mV are within 95 to 105 %% and 30 mV",
			r.SlopePercent, r.OffsetMV))
	}
	return r
}

// judgeBuffers looks at what the buffers read after calibration.
func (c Check) judgeBuffers() CheckResult {
	r := CheckResult{Accepted: true}
	for _, b := range []struct {
		name  string
		read  *float64
		value float64
	}{{"4.01", c.PH4, Buffer4(c.Celsius)}, {"7.00", c.PH7, Buffer7(c.Celsius)}} {
		switch {
		case b.read == nil:
			r.Accepted = false
			r.Reasons = append(r.Reasons, fmt.Sprintf("buffer %s was not read", b.name))
		case math.Abs(*b.read-b.value) > maxBufferError+floatGuard:
			r.Accepted = false
			r.Reasons = append(r.Reasons,
				fmt.Sprintf("buffer %s reads %.2f, its value is %.2f: calibrate and read again",
					b.name, *b.read, b.value))
		}
	}
	if r.Accepted {
		r.Reasons = append(r.Reasons, "both buffers read within 0.05 of their values")
	}
	return r
}

// PH turns a sample's mV into pH with temperature compensation: pH7(t) - (E - E7) / (slope share x S(t_sample)).
func (c Check) PH(mv, sampleCelsius float64) float64 {
	return Buffer7(c.Celsius) - (mv-*c.MV7)/(c.Judge().SlopePercent/100*NernstSlope(sampleCelsius))
}

// ClosingLookGood reports whether buffer 4.01 still reads within 0.05 after the last reading.
func ClosingLookGood(read, celsius float64) bool {
	return math.Abs(read-Buffer4(celsius)) <= maxBufferError+1e-9
}
