package device

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"sync"
	"time"

	"gallipot/internal/app/production"
	"gallipot/internal/core/shop"
)

// Hub knows the devices of a shop by their addresses, and lets stand-ins take the place of those that have none. It
// holds what they told last and nothing that another instance needs.
type Hub struct {
	mu     sync.Mutex
	lines  map[string]*line
	stands map[string]*StandIn
	order  []string // keys of stands, as they began
	seed   uint64
	pace   float64
}

// NewHub begins without a device.
func NewHub() *Hub { return NewHubAt(1) }

// NewHubAt begins without a device; its stand-ins move so many times faster than real ones, for tests that need not
// wait for a scale to settle.
func NewHubAt(pace float64) *Hub {
	return &Hub{lines: map[string]*line{}, stands: map[string]*StandIn{}, pace: pace}
}

// Close unplugs the stand-ins and hangs up.
func (h *Hub) Close() error {
	h.mu.Lock()
	defer h.mu.Unlock()
	var errs []error
	for _, s := range h.stands {
		errs = append(errs, s.Close())
	}
	for _, l := range h.lines {
		l.cancel()
	}
	return errors.Join(errs...)
}

// StartStandIn lets a stand-in of a device listen at an address; it moves as fast as a real one.
func StartStandIn(d shop.Device, address string, seed uint64) (*StandIn, error) {
	return startStandIn(d, address, seed, 1)
}

func startStandIn(d shop.Device, address string, seed uint64, pace float64) (*StandIn, error) {
	switch d.Kind {
	case shop.Scale:
		return start(newScale(d.Name, d.Division.Float(), d.Capacity.Float(), seed), address, pace)
	case shop.Meter:
		return start(newMeter(d.Name), address, pace)
	case shop.Probe:
		return start(newThermometer(d.Kind, d.Name, roomC, 0.8), address, pace)
	case shop.Logger:
		return start(newThermometer(d.Kind, d.Name, 4, 3), address, pace)
	case shop.Printer:
		return start(newPrinter(d.Name), address, pace)
	}
	return nil, fmt.Errorf("device: there is no stand-in for a %q", d.Kind)
}

// at is where a device answers; one without an address is stood in for.
func (h *Hub) at(d shop.Device) (string, error) {
	if d.Address != "" {
		return d.Address, nil
	}
	key := fmt.Sprintf("%s %s %s %s %s", d.Kind, d.ID, d.Name, d.Division, d.Capacity)
	h.mu.Lock()
	defer h.mu.Unlock()
	if s := h.stands[key]; s != nil {
		return s.Addr(), nil
	}
	h.makeRoom()
	h.seed++
	s, err := startStandIn(d, "127.0.0.1:0", h.seed, h.pace)
	if err != nil {
		return "", err
	}
	h.stands[key] = s
	h.order = append(h.order, key)
	return s.Addr(), nil
}

// mostStandIns bounds how many stand-ins run: those of rehearsals come and go. The one that began first gives way, and
// begins anew when it is asked for.
const mostStandIns = 48

func (h *Hub) makeRoom() {
	if len(h.order) < mostStandIns {
		return
	}
	oldest := h.order[0]
	h.order = h.order[1:]
	_ = h.stands[oldest].Close()
	delete(h.stands, oldest)
}

// line is what goes on between us and one device.
type line struct {
	address string
	cancel  context.CancelFunc
	mu      sync.Mutex
	seq     int64
	last    Reading
	heard   time.Time
	asked   time.Time
	changed chan struct{}
}

// idleAfter is how long a device is watched that nobody asks for.
const idleAfter = 30 * time.Second

func (h *Hub) line(address string) *line {
	h.mu.Lock()
	defer h.mu.Unlock()
	if l := h.lines[address]; l != nil {
		return l
	}
	ctx, cancel := context.WithCancel(context.Background())
	l := &line{address: address, cancel: cancel, changed: make(chan struct{}), asked: time.Now()}
	h.lines[address] = l
	go func() {
		l.watch(ctx)
		h.mu.Lock()
		delete(h.lines, address)
		h.mu.Unlock()
		cancel()
	}()
	return l
}

// watch listens to a device, and dials again when it falls silent, until nobody asks for it.
func (l *line) watch(ctx context.Context) {
	for ctx.Err() == nil && !l.idle() {
		if err := l.listen(ctx); err != nil {
			select {
			case <-ctx.Done():
			case <-time.After(300 * time.Millisecond):
			}
		}
	}
}

func (l *line) idle() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return time.Since(l.asked) > idleAfter
}

func (l *line) listen(ctx context.Context) error {
	d := net.Dialer{Timeout: time.Second}
	c, err := d.DialContext(ctx, "tcp", l.address)
	if err != nil {
		return err
	}
	defer c.Close()
	stop := context.AfterFunc(ctx, func() { _ = c.Close() })
	defer stop()
	if _, err := c.Write([]byte("watch\n")); err != nil {
		return err
	}
	in := bufio.NewReaderSize(c, longestLine)
	for !l.idle() {
		if err := c.SetReadDeadline(time.Now().Add(silentAfter * time.Millisecond)); err != nil {
			return err
		}
		raw, err := in.ReadSlice('\n')
		if err != nil {
			return err
		}
		r, err := ParseReading(string(raw))
		if err != nil {
			return err
		}
		l.hear(r)
	}
	return nil
}

func (l *line) hear(r Reading) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.seq++
	l.last, l.heard = r, time.Now()
	close(l.changed)
	l.changed = make(chan struct{})
}

// Read returns the reading of a device that is newer than after, waiting for it a little; Answers is false where the
// device says nothing.
func (h *Hub) Read(ctx context.Context, d shop.Device, after int64) (production.DeviceReading, error) {
	address, err := h.at(d)
	if err != nil {
		return production.DeviceReading{}, err
	}
	l := h.line(address)
	until := time.NewTimer(silentAfter * time.Millisecond)
	defer until.Stop()
	for {
		l.mu.Lock()
		l.asked = time.Now()
		out, fresh, changed := l.told(), l.seq > after, l.changed
		l.mu.Unlock()
		if fresh && out.Answers {
			return out, nil
		}
		select {
		case <-changed:
		case <-until.C:
			l.mu.Lock()
			defer l.mu.Unlock()
			return l.told(), nil
		case <-ctx.Done():
			return production.DeviceReading{}, ctx.Err()
		}
	}
}

func (l *line) told() production.DeviceReading {
	r := l.last
	out := production.DeviceReading{Seq: l.seq, Value: r.Value, Unit: r.Unit, MV: r.MV, Celsius: r.C, Steady: r.Steady,
		Over:  r.Over,
		Fault: r.Fault, At: l.heard}
	out.Answers = time.Since(l.heard) < silentAfter*time.Millisecond
	return out
}

// answerWithin is how long a device may take for an answer.
const answerWithin = 2 * time.Second

// Ask sends a device a line and returns its answer. Errors: app.DeviceError where it does not answer, or cannot.
func (h *Hub) Ask(ctx context.Context, d shop.Device, command string, then []byte) (string, error) {
	if strings.ContainsAny(command, "\r\n") || len(command) > longestLine-2 {
		return "", production.DeviceError{Name: d.Name, Why: "a command is one short line"}
	}
	address, err := h.at(d)
	if err != nil {
		return "", err
	}
	silent := production.DeviceError{Name: d.Name, Why: "does not answer", Silent: true}
	within := answerWithin + time.Duration(len(then)/1000)*time.Millisecond
	dial := net.Dialer{Timeout: time.Second}
	c, err := dial.DialContext(ctx, "tcp", address)
	if err != nil {
		return "", silent
	}
	defer c.Close()
	if err := c.SetDeadline(time.Now().Add(within)); err != nil {
		return "", err
	}
	if _, err := c.Write(append([]byte(command+"\n"), then...)); err != nil {
		return "", silent
	}
	raw, err := bufio.NewReaderSize(c, longestLine).ReadSlice('\n')
	if err != nil {
		return "", silent
	}
	answer := strings.TrimSpace(string(raw))
	if why, ok := strings.CutPrefix(answer, "cannot:"); ok {
		return "", production.DeviceError{Name: d.Name, Why: strings.TrimSpace(why)}
	}
	return answer, nil
}
