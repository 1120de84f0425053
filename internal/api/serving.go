package api

import (
	"net/http"
	"runtime/debug"
	"time"
)

// Limits bound how long a connection may take over each of its parts, and how large the head of a request may be.
type Limits struct {
	Header, Body, Answer, Idle time.Duration
	HeaderBytes                int
}

// UsualLimits leave room for a bundle over a slow line and for a label's PDF, and end the rest.
var UsualLimits = Limits{Header: 10 * time.Second, Body: time.Minute, Answer: 90 * time.Second, Idle: 2 * time.Minute, HeaderBytes: 64 << 10}

// heapGrowth is how far, in percent, the heap may grow before it is swept. A shop's heap is a few megabytes; at the usual 100
// it was swept within every tenth typed gram.
const heapGrowth = 400

// Server returns a server that ends what goes beyond the limits.
func Server(h http.Handler, l Limits) *http.Server {
	debug.SetGCPercent(heapGrowth)
	return &http.Server{Handler: h, ReadHeaderTimeout: l.Header, ReadTimeout: l.Body, WriteTimeout: l.Answer, IdleTimeout: l.Idle, MaxHeaderBytes: l.HeaderBytes}
}
