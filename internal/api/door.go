package api

import (
	"context"
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"gallipot/internal/app/kernel"

	"github.com/labstack/echo/v5"
)

// hostNames are the names by which a shop is reached, besides loopback.
type hostNames []string

var loopback = []string{"localhost", "127.0.0.1", "::1"}

func (n hostNames) known(hostport string) bool {
	host := hostport
	if h, _, err := net.SplitHostPort(hostport); err == nil {
		host = h
	}
	host = strings.ToLower(strings.TrimSuffix(strings.Trim(host, "[]"), "."))
	return slices.Contains(loopback, host) ||
		slices.ContainsFunc(n, func(s string) bool { return strings.EqualFold(s, host) })
}

// check refuses requests by a name that is not the shop's own, as a page elsewhere makes them by pointing its name
// here, and writes that another site's page sends.
func (n hostNames) check(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if !n.known(r.Host) {
			return echo.NewHTTPError(http.StatusMisdirectedRequest, "this shop is not reached by that name")
		}
		if r.Method == http.MethodGet || r.Method == http.MethodHead {
			return next(c)
		}
		if site := r.Header.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
			return crossSite()
		}
		if origin := r.Header.Get("Origin"); origin != "" {
			u, err := url.Parse(origin)
			if err != nil || !strings.EqualFold(u.Host, r.Host) {
				return crossSite()
			}
		}
		return next(c)
	}
}

func crossSite() error {
	return kernel.Problem{Kind: kernel.Refused, Code: "cross_site", Message: "Another site may not write here."}
}

// headers close the door from within: nothing runs but what this server sent, nobody frames it, nothing is guessed.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy",
			"default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "+
				"font-src 'self' data:; frame-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		return next(c)
	}
}

// limitTime ends the work of a request that takes too long.
func limitTime(most time.Duration) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			ctx, cancel := context.WithTimeout(c.Request().Context(), most)
			defer cancel()
			c.SetRequest(c.Request().WithContext(ctx))
			return next(c)
		}
	}
}

// Limits bound how long a connection may take over each of its parts, and how large the head of a request may be.
type Limits struct {
	Header, Body, Answer, Idle time.Duration
	HeaderBytes                int
}

// UsualLimits leave room for a bundle over a slow line and for a label's PDF, and end the rest.
var UsualLimits = Limits{Header: 10 * time.Second, Body: time.Minute, Answer: 90 * time.Second, Idle: 2 * time.Minute,
	HeaderBytes: 64 << 10}

// heapGrowth is how far, in percent, the heap may grow before it is swept. A shop's heap is a few megabytes; at the
// usual 100 it was swept within every tenth typed gram.
const heapGrowth = 400

// Server returns a server that ends what goes beyond the limits.
func Server(h http.Handler, l Limits) *http.Server {
	debug.SetGCPercent(heapGrowth)
	return &http.Server{Handler: h, ReadHeaderTimeout: l.Header, ReadTimeout: l.Body, WriteTimeout: l.Answer,
		IdleTimeout: l.Idle, MaxHeaderBytes: l.HeaderBytes}
}
