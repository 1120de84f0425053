package device

import (
	"fmt"
	"math"
	"math/rand/v2"
)

// Scale is the inside of a bench scale. What is on it moves at once; what it shows follows with a lag, rounded to its
// division, with noise while something moves and a slow drift. A pour that stops still has its stream in the air.
type scale struct {
	name               string
	division, capacity float64

	mass     float64 // on the pan
	rate     float64 // g/s that is poured, negative: taken off
	left     float64 // of a pour of so much; 0: until it is stopped
	air      float64 // g that fall after the pour stopped
	shown    float64
	zero     float64
	still    float64 // s for which nothing moved
	noise    float64
	drift    float64 // g/s
	restless bool    // never settles
	chance   *rand.Rand
}

// How a scale behaves: its reading follows with a time constant, a stream of so many seconds is in the air when the
// hand turns the jug up, and it calls itself steady after a rest.
const (
	lagSeconds    = 0.35
	streamSeconds = 0.30
	restSeconds   = 0.45
)

func newScale(name string, division, capacity float64, seed uint64) *scale {
	return &scale{name: name, division: division, capacity: capacity, noise: division,
		chance: rand.New(rand.NewPCG(seed, 13))}
}

func (s *scale) Who() string {
	return fmt.Sprintf("scale %q division %g capacity %g", s.name, s.division, s.capacity)
}

func (s *scale) Step(dt float64) {
	moved := s.drift * dt
	if s.rate != 0 {
		step := s.rate * dt
		if s.left > 0 {
			if math.Abs(step) >= s.left {
				step, s.left, s.rate = math.Copysign(s.left, s.rate), 0, 0
			} else {
				s.left -= math.Abs(step)
			}
		}
		moved += step
	}
	if s.air > 0 {
		fell := min(s.air, s.air*dt/streamSeconds+0.01)
		s.air -= fell
		moved += fell
	}
	s.mass = max(0, s.mass+moved)
	s.shown += (s.mass - s.shown) * (1 - math.Exp(-dt/lagSeconds))
	if math.Abs(s.mass-s.shown) > s.division/2 || math.Abs(moved) > s.division/4 || s.restless {
		s.still = 0
		return
	}
	s.still += dt
	if s.still > restSeconds {
		s.shown = s.mass
	}
}

// stop ends a pour; what is in the air still falls.
func (s *scale) stop() {
	if s.rate > 0 {
		s.air += s.rate * streamSeconds
	}
	s.rate, s.left = 0, 0
}

func (s *scale) Reads() string {
	if s.mass > s.capacity && s.capacity > 0 {
		return "over"
	}
	v, word := s.shown-s.zero, "steady"
	if s.still < restSeconds {
		word = "moving"
		v += (s.chance.Float64() - 0.5) * s.noise
	}
	v = math.Round(v/s.division) * s.division
	return fmt.Sprintf("reads %.3f g %s", v+0, word)
}

func (s *scale) Do(words []string) string {
	switch words[0] {
	case "tare":
		if s.still < restSeconds {
			return "cannot: it has not settled"
		}
		s.zero = s.shown
		return "done"
	case "sim":
		if len(words) > 1 {
			return s.simulate(words[1], words)
		}
	}
	return notUnderstood
}

func (s *scale) simulate(what string, words []string) string {
	n, ok := numbers(words, 2, 0)
	switch {
	case !ok:
		return notUnderstood
	case what == "pour" && len(n) == 1: // at so many g/s until it is stopped
		s.rate, s.left = n[0], 0
	case what == "pour" && len(n) == 2: // so many grams at so many g/s; all of them arrive
		s.left, s.rate = math.Abs(n[0]), math.Copysign(math.Max(0.1, math.Abs(n[1])), n[0])
	case what == "stop":
		s.left = 0
		s.stop()
	case what == "put" && len(n) == 1: // at once
		s.mass = max(0, s.mass+n[0])
	case what == "clear":
		s.mass, s.rate, s.left, s.air, s.zero = 0, 0, 0, 0, 0
	case what == "noise" && len(n) == 1:
		s.noise = math.Abs(n[0])
	case what == "drift" && len(n) == 1:
		s.drift = n[0]
	case what == "restless":
		s.restless = true
	case what == "settle":
		s.restless = false
	default:
		return notUnderstood
	}
	return "done"
}
