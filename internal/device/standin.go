package device

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strconv"
	"strings"
	"sync"
	"time"
)

// body is what stands in for the inside of a device. It is stepped in small times, says its reading, and takes
// commands; everything is asked of it under one lock.
type body interface {
	Step(seconds float64)
	Reads() string
	// Do takes a command with its words; its answer is the line that goes back.
	Do(words []string) string
	Who() string
}

// StandIn is a simulated device that listens on loopback.
type StandIn struct {
	mu     sync.Mutex
	body   body
	pace   float64 // times as fast as a real one
	mute   bool    // unplugged: it takes connections and says nothing
	listen net.Listener
	done   chan struct{}
	once   sync.Once
}

// tick is how often a stand-in moves.
const tick = 50 * time.Millisecond

// Start lets a stand-in listen at an address of loopback, ":0" for a free port.
func start(b body, address string, pace float64) (*StandIn, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("stand-in: %w", err)
	}
	s := &StandIn{body: b, pace: pace, listen: l, done: make(chan struct{})}
	go s.run()
	go s.accept()
	return s, nil
}

// Addr is where it listens.
func (s *StandIn) Addr() string { return s.listen.Addr().String() }

// Close unplugs it for good.
func (s *StandIn) Close() error {
	s.once.Do(func() { close(s.done) })
	return s.listen.Close()
}

func (s *StandIn) run() {
	t := time.NewTicker(tick)
	defer t.Stop()
	for {
		select {
		case <-s.done:
			return
		case <-t.C:
			s.mu.Lock()
			s.body.Step(tick.Seconds() * s.pace)
			s.mu.Unlock()
		}
	}
}

func (s *StandIn) accept() {
	for {
		c, err := s.listen.Accept()
		if err != nil {
			return
		}
		go s.talk(c)
	}
}

// longestLine bounds what a device is told in one line.
const longestLine = 512

func (s *StandIn) talk(c net.Conn) {
	defer c.Close()
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	in := bufio.NewReaderSize(c, longestLine)
	var out sync.Mutex
	say := func(line string) error {
		out.Lock()
		defer out.Unlock()
		_, err := io.WriteString(c, line+"\n")
		return err
	}
	for {
		raw, err := in.ReadSlice('\n')
		if err != nil {
			return
		}
		words := strings.Fields(string(raw))
		switch {
		case len(words) == 0:
			continue
		case s.muted() && words[0] != "sim":
			continue
		case words[0] == "watch":
			go s.tell(ctx, say)
			continue
		}
		if err := say(s.answer(words, in)); err != nil {
			slog.Debug("stand-in", "err", err)
			return
		}
	}
}

func (s *StandIn) muted() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.mute
}

// answer is what one line gets back. What is printed follows its line as bytes.
func (s *StandIn) answer(words []string, in *bufio.Reader) string {
	if words[0] == "print" {
		return s.printed(words, in)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	switch {
	case words[0] == "who":
		return "i am " + s.body.Who() + " stand-in"
	case words[0] == "read":
		return s.body.Reads()
	case words[0] == "sim" && len(words) == 2 && words[1] == "unplug":
		s.mute = true
		return "done"
	case words[0] == "sim" && len(words) == 2 && words[1] == "plug":
		s.mute = false
		return "done"
	}
	return s.body.Do(words)
}

// tell says the reading when it changes, and twice a second.
func (s *StandIn) tell(ctx context.Context, say func(string) error) {
	t := time.NewTicker(tick)
	defer t.Stop()
	last, since := "", time.Time{}
	for {
		s.mu.Lock()
		line, mute := s.body.Reads(), s.mute
		s.mu.Unlock()
		if !mute && (line != last || time.Since(since) > 500*time.Millisecond) {
			if say(line) != nil {
				return
			}
			last, since = line, time.Now()
		}
		select {
		case <-ctx.Done():
			return
		case <-s.done:
			return
		case <-t.C:
		}
	}
}

// numbers reads the words from a place on as figures; ok is false where one is none or there are too few.
func numbers(words []string, from, least int) (out []float64, ok bool) {
	for _, w := range words[min(from, len(words)):] {
		v, err := strconv.ParseFloat(w, 64)
		if err != nil || v != v || v > 1e7 || v < -1e7 {
			return nil, false
		}
		out = append(out, v)
	}
	return out, len(out) >= least
}

const notUnderstood = "cannot: that is not understood"
