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

// check refuses requests for a host name that is not the shop's own, which is what DNS rebinding looks like, and writes
// that were sent from another site's page.
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

// headers sets the security headers: only our own scripts run, nobody may frame the app, and content types are not
// guessed.
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

// limitTime cancels a request that takes too long.
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

// Limits bound the time that each part of a connection may take and the size of a request's headers.
type Limits struct {
	Header, Body, Answer, Idle time.Duration
	HeaderBytes                int
}

// UsualLimits are generous enough for a bundle over a slow line and for a label's PDF.
var UsualLimits = Limits{Header: 10 * time.Second, Body: time.Minute, Answer: 90 * time.Second, Idle: 2 * time.Minute,
	HeaderBytes: 64 << 10}

// heapGrowth is how far, in percent, the heap may grow before it is collected. A shop's heap is a few megabytes; at
// Go's default of 100 every tenth typed gram waited for a collection.
const heapGrowth = 400

// Server returns an HTTP server with these limits.
func Server(h http.Handler, l Limits) *http.Server {
	debug.SetGCPercent(heapGrowth)
	return &http.Server{Handler: h, ReadHeaderTimeout: l.Header, ReadTimeout: l.Body, WriteTimeout: l.Answer,
		IdleTimeout: l.Idle, MaxHeaderBytes: l.HeaderBytes}
}
