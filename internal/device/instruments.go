package device

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"strconv"
)

// meter is the inside of a pH meter: it goes towards the pH of what its probe is in, with an offset and a slope of its
// own, and settles.
type meter struct {
	name     string
	ph, c    float64 // of what it is in
	shown    float64 // mV
	warm     float64
	offset   float64                         // mV at pH 7
	slope    float64                         // share of the ideal
	set      struct{ offset, slope float64 } // as it was last calibrated
	drift    float64                         // mV/s
	restless bool
	dry      bool
}

// idealSlope is mV a pH at 25 °C, by Nernst: 2.303 RT/F.
const (
	idealSlope   = 59.16
	absoluteZero = 273.15
	roomC        = 22.0
	settles      = 1.2 // s, the time constant of a probe
)

func newMeter(name string) *meter {
	m := &meter{name: name, ph: 7, c: roomC, warm: roomC, offset: -1.4, slope: 0.985, dry: true}
	m.set.offset, m.set.slope = m.offset, m.slope
	return m
}

func (m *meter) Who() string { return fmt.Sprintf("meter %q", m.name) }

func (m *meter) wants() float64 {
	perPH := idealSlope * m.slope * (m.c + absoluteZero) / (25 + absoluteZero)
	return m.offset + (7-m.ph)*perPH
}

func (m *meter) Step(dt float64) {
	m.offset += m.drift * dt
	k := 1 - math.Exp(-dt/settles)
	m.shown += (m.wants() - m.shown) * k
	m.warm += (m.c - m.warm) * k
}

func (m *meter) Reads() string {
	if m.dry {
		return "cannot: the probe is in nothing"
	}
	word := "steady"
	if math.Abs(m.wants()-m.shown) > 0.3 || m.restless {
		word = "moving"
	}
	perPH := idealSlope * m.set.slope * (m.warm + absoluteZero) / (25 + absoluteZero)
	return fmt.Sprintf("reads %.2f pH %.1f mV %.1f C %s", 7-(m.shown-m.set.offset)/perPH, m.shown, m.warm, word)
}

func (m *meter) Do(words []string) string {
	if words[0] != "sim" || len(words) < 2 {
		return notUnderstood
	}
	n, ok := numbers(words, 2, 0)
	switch {
	case !ok:
		return notUnderstood
	case words[1] == "dip" && len(n) == 2: // into something of a pH, at a temperature
		m.ph, m.c, m.dry = n[0], n[1], false
	case words[1] == "lift":
		m.dry = true
	case words[1] == "offset" && len(n) == 1:
		m.offset = n[0]
	case words[1] == "slope" && len(n) == 1:
		m.slope = n[0]
	case words[1] == "drift" && len(n) == 1:
		m.drift = n[0]
	case words[1] == "restless":
		m.restless = true
	case words[1] == "settle":
		m.restless = false
	default:
		return notUnderstood
	}
	return "done"
}

// thermometer is the inside of a probe, or of a cold room's logger.
type thermometer struct {
	kind, name string
	at, shown  float64
	lag        float64 // s
}

func newThermometer(kind, name string, c, lag float64) *thermometer {
	return &thermometer{kind, name, c, c, lag}
}

func (t *thermometer) Who() string { return fmt.Sprintf("%s %q", t.kind, t.name) }

func (t *thermometer) Step(dt float64) { t.shown += (t.at - t.shown) * (1 - math.Exp(-dt/t.lag)) }

func (t *thermometer) Reads() string {
	word := "steady"
	if math.Abs(t.at-t.shown) > 0.3 {
		word = "moving"
	}
	return fmt.Sprintf("reads %.1f C %s", t.shown, word)
}

func (t *thermometer) Do(words []string) string {
	n, ok := numbers(words, 2, 1)
	if words[0] != "sim" || len(words) < 2 || words[1] != "warm" || !ok {
		return notUnderstood
	}
	t.at = n[0]
	return "done"
}

// printer is the inside of a label printer: a roll, a counter, and the jobs that it has.
type printer struct {
	name    string
	roll    int
	counted int
	jammed  bool
	jobs    map[string]int // number of the spool by job
}

func newPrinter(name string) *printer {
	return &printer{name: name, roll: 500, jobs: map[string]int{}}
}

func (p *printer) Who() string  { return fmt.Sprintf("printer %q", p.name) }
func (p *printer) Step(float64) {}

func (p *printer) Reads() string {
	switch {
	case p.jammed:
		return "cannot: jammed"
	case p.roll == 0:
		return "cannot: out of labels"
	}
	return fmt.Sprintf("reads %d labels steady", p.roll)
}

func (p *printer) Do(words []string) string {
	switch {
	case words[0] == "count":
		return fmt.Sprintf("printed %d", p.counted)
	case words[0] != "sim" || len(words) < 2:
		return notUnderstood
	}
	n, ok := numbers(words, 2, 0)
	switch {
	case words[1] == "roll" && ok && len(n) == 1 && n[0] >= 0:
		p.roll = int(n[0])
	case words[1] == "jam":
		p.jammed = true
	case words[1] == "clear":
		p.jammed = false
	default:
		return notUnderstood
	}
	return "done"
}

// take prints a job of so many labels, once under its name.
func (p *printer) take(job string, labels int) string {
	if n, had := p.jobs[job]; had {
		return fmt.Sprintf("done %d", n)
	}
	switch {
	case p.jammed:
		return "cannot: jammed"
	case labels > p.roll:
		return fmt.Sprintf("cannot: %d labels are left on the roll", p.roll)
	}
	p.roll -= labels
	p.counted += labels
	p.jobs[job] = p.counted
	return fmt.Sprintf("done %d", p.counted)
}

// mostPrinted bounds the bytes of a job.
const mostPrinted = 64 << 20

// printed takes "print JOB LABELS BYTES" with the page that follows.
func (s *StandIn) printed(words []string, in *bufio.Reader) string {
	if len(words) != 4 {
		return notUnderstood
	}
	labels, wrong := strconv.Atoi(words[2])
	size, bad := strconv.Atoi(words[3])
	if wrong != nil || bad != nil || labels < 1 || size < 1 || size > mostPrinted {
		return notUnderstood
	}
	head := make([]byte, 0, 5)
	n, err := io.Copy(keepHead{&head}, io.LimitReader(in, int64(size)))
	if err != nil || n != int64(size) {
		return "cannot: the page was cut off"
	}
	if string(head) != "%PDF-" {
		return "cannot: this is no PDF"
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	p, ok := s.body.(*printer)
	if !ok {
		return notUnderstood
	}
	return p.take(words[1], labels)
}

// keepHead keeps the first bytes of what is written to it.
type keepHead struct{ into *[]byte }

func (k keepHead) Write(b []byte) (int, error) {
	if room := cap(*k.into) - len(*k.into); room > 0 {
		*k.into = append(*k.into, b[:min(room, len(b))]...)
	}
	return len(b), nil
}
