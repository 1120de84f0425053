package app

import (
	"context"
	"errors"
	"fmt"
	"net"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/pantry"
)

// Kinds of devices.
const (
	ScaleDevice   = "scale"
	MeterDevice   = "meter"
	ProbeDevice   = "probe"
	LoggerDevice  = "logger"
	PrinterDevice = "printer"
)

// Device is a scale, meter, probe, logger or printer of the shop. Without an address a stand-in takes its place, which
// measures nothing real. Division and Capacity are a scale's.
type Device struct {
	ID       string       `json:"id"`
	Kind     string       `json:"kind"`
	Name     string       `json:"name"`
	Address  string       `json:"address,omitempty"` // host:port
	Division amount.Grams `json:"division_g"`
	Capacity amount.Grams `json:"capacity_g"`
}

// rehearsals are the stand-in scales of rehearsals: each has one of its own, that nothing is written down from.
var rehearsals = regexp.MustCompile(`^rehearse-[a-z0-9]{6,20}$`)

const (
	mostDevices = 20
	mostJars    = 40
)

// usualDevices are what a shop has before it says otherwise.
func usualDevices(division amount.Grams) []Device {
	return []Device{
		{ID: "bench", Kind: ScaleDevice, Name: "Bench scale", Division: division, Capacity: amount.G(15_000)},
		{ID: "fine", Kind: ScaleDevice, Name: "Fine scale", Division: amount.GramsOf("0.01"), Capacity: amount.G(500)},
		{ID: "meter", Kind: MeterDevice, Name: "Bench meter"},
		{ID: "probe", Kind: ProbeDevice, Name: "Probe"},
		{ID: "cold", Kind: LoggerDevice, Name: "Cold room"},
		{ID: "printer", Kind: PrinterDevice, Name: "Label printer"},
	}
}

// withThings fills in what the shop has where nobody said, and the division that its bench scale gives.
func (s Settings) withThings() Settings {
	if s.Devices == nil {
		s.Devices = usualDevices(s.ScaleDivision)
	}
	s.Jars, s.Stocks = withJars(s.Jars), withStocks(s.Stocks)
	if i := slices.IndexFunc(s.Devices, func(d Device) bool { return d.Kind == ScaleDevice }); i >= 0 {
		s.ScaleDivision = s.Devices[i].Division
	}
	return s
}

// scales are the bench scale and the finest beside it; that one has no division where there is none finer.
func (s Settings) scales() (on, fine bench.Scale) {
	on.Division = s.ScaleDivision
	first := true
	for _, d := range s.Devices {
		if d.Kind != ScaleDevice {
			continue
		}
		x := bench.Scale{Name: d.Name, Division: d.Division, Capacity: d.Capacity}
		switch {
		case first:
			on, first = x, false
		case x.Division.Cmp(on.Division) < 0 && (fine.Division.IsZero() || x.Division.Cmp(fine.Division) < 0):
			fine = x
		}
	}
	return on, fine
}

func (s Settings) checkDevices() []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(i int, name, format string, args ...any) {
		errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("devices[%d].%s", i, name),
			Message: fmt.Sprintf(format, args...)})
	}
	if len(s.Devices) > mostDevices {
		return []pantry.FieldError{{Field: "devices", Message: fmt.Sprintf("at most %d devices", mostDevices)}}
	}
	scales := 0
	for i, d := range s.Devices {
		if n := len([]rune(strings.TrimSpace(d.Name))); n == 0 || n > 40 {
			bad(i, "name", "a name of 1 to 40 characters")
		}
		if d.ID == "" || len(d.ID) > 40 || slices.ContainsFunc(s.Devices[:i],
			func(o Device) bool { return o.ID == d.ID }) {
			bad(i, "id", "every device has an id of its own")
		}
		if d.Address != "" && !isAddress(d.Address) {
			bad(i, "address", "an address with its port, as in 192.168.1.20:4001; empty for the stand-in")
		}
		switch d.Kind {
		case ScaleDevice:
			scales++
			if !d.Division.IsPositive() || d.Division.Float() > 100 {
				bad(i, "division_g", "a scale's division lies above 0 and up to 100 g")
			}
			if d.Capacity.IsNegative() || d.Capacity.Float() > amount.MaxGrams ||
				d.Capacity.IsPositive() && d.Capacity.Cmp(d.Division) <= 0 {
				bad(i, "capacity_g", "what it takes at most, in grams")
			}
		case MeterDevice, ProbeDevice, LoggerDevice, PrinterDevice:
		default:
			bad(i, "kind", "scale, meter, probe, logger or printer")
		}
	}
	if scales == 0 && s.Devices != nil {
		errs = append(errs, pantry.FieldError{Field: "devices", Message: "a shop weighs on one scale at least"})
	}
	return errs
}

func isAddress(s string) bool {
	host, port, err := net.SplitHostPort(s)
	n, wrong := strconv.Atoi(port)
	return err == nil && wrong == nil && host != "" && len(s) <= 200 && n > 0 && n < 65_536 &&
		!strings.ContainsAny(host, " /@")
}

func (s Settings) checkJars() []pantry.FieldError {
	var errs []pantry.FieldError
	if len(s.Jars) > mostJars {
		return []pantry.FieldError{{Field: "jars", Message: fmt.Sprintf("at most %d jars", mostJars)}}
	}
	ids := map[string]bool{}
	for i, j := range s.Jars {
		at := fmt.Sprintf("jars[%d].", i)
		errs = append(errs, j.Check(at)...)
		if ids[j.ID] {
			errs = append(errs, pantry.FieldError{Field: at + "name", Message: "two jars of one name"})
		}
		ids[j.ID] = true
	}
	return errs
}

// DeviceReading is what a device told last. Seq grows with each reading; Answers is false where it fell silent.
type DeviceReading struct {
	Seq     int64     `json:"seq"`
	Value   float64   `json:"value"`
	Unit    string    `json:"unit"`
	MV      *float64  `json:"mv"`
	Celsius *float64  `json:"celsius"`
	Steady  bool      `json:"steady"`
	Over    bool      `json:"over"`
	Fault   string    `json:"fault"`
	Answers bool      `json:"answers"`
	At      time.Time `json:"at"`
}

// DeviceError says that a device does not answer, or cannot do what it was asked.
type DeviceError struct {
	Name   string
	Why    string
	Silent bool
}

func (e DeviceError) Error() string { return e.Name + ": " + e.Why }

// Instruments are the devices of a shop.
type Instruments interface {
	Read(ctx context.Context, d Device, after int64) (DeviceReading, error)
	Ask(ctx context.Context, d Device, command string, then []byte) (string, error)
}

// DeviceView is a device with what it tells now.
type DeviceView struct {
	Device
	StandIn bool          `json:"stand_in"`
	Counts  bool          `json:"counts"` // what it reads may be written down
	Reading DeviceReading `json:"reading"`
}

// Devices shows the devices with what they tell.
func (a *App) Devices(ctx context.Context) ([]DeviceView, error) {
	s, _, err := a.settings(a.on(ctx))
	if err != nil {
		return nil, err
	}
	out := make([]DeviceView, len(s.Devices))
	var all sync.WaitGroup
	for i, d := range s.Devices {
		out[i] = DeviceView{Device: d, StandIn: d.Address == "", Counts: d.Address != "" || a.StandIns}
		all.Go(func() { // one that is silent keeps nobody waiting for the others
			if r, err := a.Instruments.Read(ctx, d, 0); err == nil {
				out[i].Reading = r
			}
		})
	}
	all.Wait()
	return out, nil
}

// device is one of the shop's.
func (a *App) device(ctx context.Context, id string) (Device, error) {
	s, _, err := a.settings(a.on(ctx))
	if err != nil {
		return Device{}, err
	}
	i := slices.IndexFunc(s.Devices, func(d Device) bool { return d.ID == id })
	if i < 0 && rehearsals.MatchString(id) {
		return Device{ID: id, Kind: ScaleDevice, Name: "Rehearsal scale", Division: amount.GramsOf("0.1"),
			Capacity: amount.G(15_000)}, nil
	}
	if i < 0 {
		return Device{}, fmt.Errorf("device %q: %w", id, ErrNotFound)
	}
	return s.Devices[i], nil
}

// ReadDevice waits a little for a reading that is newer than after.
func (a *App) ReadDevice(ctx context.Context, id string, after int64) (DeviceReading, error) {
	d, err := a.device(ctx, id)
	if err != nil {
		return DeviceReading{}, err
	}
	return a.Instruments.Read(ctx, d, after)
}

// AskDevice sends a device a command: tare, count, or what its panel plays where it is a stand-in.
func (a *App) AskDevice(ctx context.Context, id, command string) (string, error) {
	d, err := a.device(ctx, id)
	if err != nil {
		return "", err
	}
	words := strings.Fields(command)
	plays := len(words) > 0 && words[0] == "sim"
	switch {
	case plays && d.Address != "":
		return "", field("command", "%s is no stand-in", d.Name)
	case !plays && command != "tare" && command != "count":
		return "", field("command", "tare or count")
	}
	answer, err := a.Instruments.Ask(ctx, d, strings.Join(words, " "), nil)
	return answer, deviceProblem(err)
}

// deviceProblem words what a device could not.
func deviceProblem(err error) error {
	var e DeviceError
	if !errors.As(err, &e) {
		return err
	}
	return refused("device", "%s %s.", e.Name, map[bool]string{true: e.Why, false: "says: " + e.Why}[e.Silent])
}
