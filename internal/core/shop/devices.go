package shop

import (
	"net"
	"strconv"
	"strings"

	"gallipot/internal/core/amount"
)

// Kinds of devices.
const (
	Scale   = "scale"
	Meter   = "meter"
	Probe   = "probe"
	Logger  = "logger"
	Printer = "printer"
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

func isAddress(s string) bool {
	host, port, err := net.SplitHostPort(s)
	n, wrong := strconv.Atoi(port)
	return err == nil && wrong == nil && host != "" && len(s) <= 200 && n > 0 && n < 65_536 &&
		!strings.ContainsAny(host, " /@")
}
