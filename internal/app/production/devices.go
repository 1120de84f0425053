package production

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/shop"
)

// rehearsals are the stand-in scales of rehearsals: each has one of its own, that nothing is written down from.
var rehearsals = regexp.MustCompile(`^rehearse-[a-z0-9]{6,20}$`)

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

// Error is what the device said.
func (e DeviceError) Error() string { return e.Name + ": " + e.Why }

// Instruments are the devices of a shop.
type Instruments interface {
	Read(ctx context.Context, d shop.Device, after int64) (DeviceReading, error)
	Ask(ctx context.Context, d shop.Device, command string, then []byte) (string, error)
}

// DeviceView is a device with what it tells now.
type DeviceView struct {
	shop.Device
	StandIn bool          `json:"stand_in"`
	Counts  bool          `json:"counts"` // what it reads may be written down
	Reading DeviceReading `json:"reading"`
}

// Devices shows the devices with what they tell.
func (a *Room) Devices(ctx context.Context) ([]DeviceView, error) {
	s, _, err := a.Settings(a.On(ctx))
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

// Device is one of the shop's.
func (a *Room) Device(ctx context.Context, id string) (shop.Device, error) {
	s, _, err := a.Settings(a.On(ctx))
	if err != nil {
		return shop.Device{}, err
	}
	i := slices.IndexFunc(s.Devices, func(d shop.Device) bool { return d.ID == id })
	if i < 0 && rehearsals.MatchString(id) {
		return shop.Device{ID: id, Kind: shop.Scale, Name: "Rehearsal scale", Division: amount.MustGrams("0.1"),
			Capacity: amount.G(15_000)}, nil
	}
	if i < 0 {
		return shop.Device{}, fmt.Errorf("device %q: %w", id, kernel.ErrNotFound)
	}
	return s.Devices[i], nil
}

// ReadDevice waits a little for a reading that is newer than after.
func (a *Room) ReadDevice(ctx context.Context, id string, after int64) (DeviceReading, error) {
	d, err := a.Device(ctx, id)
	if err != nil {
		return DeviceReading{}, err
	}
	return a.Instruments.Read(ctx, d, after)
}

// AskDevice sends a device a command: tare, count, or what its panel plays where it is a stand-in.
func (a *Room) AskDevice(ctx context.Context, id, command string) (string, error) {
	d, err := a.Device(ctx, id)
	if err != nil {
		return "", err
	}
	words := strings.Fields(command)
	plays := len(words) > 0 && words[0] == "sim"
	switch {
	case plays && d.Address != "":
		return "", kernel.Mistake("command", "%s is no stand-in", d.Name)
	case !plays && command != "tare" && command != "count":
		return "", kernel.Mistake("command", "tare or count")
	}
	answer, err := a.Instruments.Ask(ctx, d, strings.Join(words, " "), nil)
	return answer, DeviceProblem(err)
}

// DeviceProblem words what a device could not.
func DeviceProblem(err error) error {
	var e DeviceError
	if !errors.As(err, &e) {
		return err
	}
	return kernel.Refuse("device", "%s %s.", e.Name, map[bool]string{true: e.Why, false: "says: " + e.Why}[e.Silent])
}
