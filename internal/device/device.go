// Package device talks with scales, meters, probes, loggers and label printers over a plain line protocol on TCP, and
// ships stand-ins that speak it, so that the whole bench can be tried with nothing plugged in. The protocol is written
// down in docs/devices.md: a device is asked in one line and answers in one line; after "watch" it tells its reading
// whenever that changes, and twice a second where it does not.
package device

import (
	"fmt"
	"strconv"
	"strings"
)

// Silence is after how long a device that said nothing counts as not answering.
const silentAfter = 1500 // ms: within 2 s on screen, with the way there

// Reading is what a device told last. Value is grams, pH, degrees Celsius or labels left, as Unit says.
type Reading struct {
	Value  float64
	Unit   string
	MV     *float64 // of a pH meter
	C      *float64 // of a pH meter
	Steady bool
	Over   bool   // more is on a scale than it takes
	Fault  string // why it cannot, in its own words
}

// Words of units on the line.
var units = map[string]bool{"g": true, "pH": true, "C": true, "labels": true}

// ParseReading reads a line that a device tells: "reads 1234.5 g steady", "reads 4.02 pH 173.1 mV 22.0 C moving",
// "over", "cannot: out of labels". Errors: one that names the line.
func ParseReading(line string) (Reading, error) {
	line = strings.TrimSpace(line)
	wrong := fmt.Errorf("device: %q is no reading", clip(line))
	if why, ok := strings.CutPrefix(line, "cannot:"); ok {
		return Reading{Fault: strings.TrimSpace(why)}, nil
	}
	if line == "over" {
		return Reading{Unit: "g", Over: true}, nil
	}
	words := strings.Fields(line)
	if len(words) < 4 || words[0] != "reads" || len(words)%2 != 0 {
		return Reading{}, wrong
	}
	var r Reading
	switch words[len(words)-1] {
	case "steady":
		r.Steady = true
	case "moving":
	default:
		return Reading{}, wrong
	}
	for i := 1; i+1 < len(words); i += 2 {
		v, err := strconv.ParseFloat(words[i], 64)
		if err != nil || v != v || v > 1e9 || v < -1e9 {
			return Reading{}, wrong
		}
		switch unit := words[i+1]; {
		case i == 1 && units[unit]:
			r.Value, r.Unit = v, unit
		case unit == "mV":
			r.MV = &v
		case unit == "C":
			r.C = &v
		default:
			return Reading{}, wrong
		}
	}
	return r, nil
}

func clip(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}
