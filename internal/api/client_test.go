package api

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/core/pantry"
	"gallipot/internal/demo"
	"gallipot/internal/device"
	"gallipot/internal/reference"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// client talks to a server over loopback and checks every answer against the contract.
type client struct {
	t      testing.TB
	base   string
	name   string // of who is signed in; empty: nobody
	token  string
	router routers.Router
	app    *app.App
	lots   int // delivered so far
	acted  int // acts in recalls so far
}

// noon is the clock of the tests, of a fixed day: late enough that the demo's morning work lies in the past.
func noon() time.Time { return time.Date(2026, 11, 25, 12, 0, 0, 0, time.Local) }

var seeded, shown, shownEmpty testdb.Filled

// seedOnly fills the pantry; nobody works here yet.
func seedOnly(s *store.Store) error {
	typical, err := reference.Ingredients()
	if err != nil {
		return err
	}
	return app.New(s, noon, pantry.Typical{}).Catalog.Seed(context.Background(), typical)
}

func seed(s *store.Store) error {
	a := app.New(s, noon, pantry.Typical{})
	if _, err := a.Office.FirstOwner(context.Background(), "Ines", "274910"); err != nil {
		return err
	}
	return seedOnly(s)
}

// fillDemo fills a store with the made-up shop.
func fillDemo(s *store.Store, typical pantry.Typical, now func() time.Time) error {
	all, err := reference.Ingredients()
	if err != nil {
		return err
	}
	a := app.New(s, now, typical)
	a.Production.StandIns, a.Production.Instruments = true, device.NewHub()
	if err := a.Catalog.Seed(context.Background(), all); err != nil {
		return err
	}
	return demo.Load(context.Background(), a)
}

// kitchen is what every shop starts with.
func kitchen(t testing.TB) pantry.Typical {
	t.Helper()
	typical, err := reference.Kitchen()
	require.NoError(t, err)
	return typical
}

// newClient serves a shop that is not set up yet.
func newClient(t testing.TB, now time.Time) *client {
	t.Helper()
	return serve(t, seeded.New(t, seed), now)
}

// withDemo serves the made-up shop.
func withDemo(t testing.TB) *client {
	t.Helper()
	c, _ := demoBeside(t)
	return c
}

// demoBeside serves the made-up shop and opens its tables beside it.
func demoBeside(t testing.TB) (*client, *sql.DB) {
	t.Helper()
	s, address := shown.Beside(t, func(s *store.Store) error { return fillDemo(s, kitchen(t), noon) })
	db, err := sql.Open("pgx", address)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	return serve(t, s, noon()), db
}

func serve(t testing.TB, s *store.Store, now time.Time) *client {
	t.Helper()
	a := app.New(s, func() time.Time { return now }, kitchen(t))
	a.Production.StandIns, a.Production.Instruments = true, device.NewHub()
	h, err := New(a, fstest.MapFS{"index.html": {Data: []byte("<!doctype html>the app")},
		"assets/a.js": {Data: []byte("1")}}, Options{})
	require.NoError(t, err)
	server := httptest.NewUnstartedServer(h)
	server.Config = Server(h, UsualLimits)
	server.Start()
	t.Cleanup(server.Close)
	known, err := theContract()
	require.NoError(t, err)
	c := &client{t: t, base: server.URL, router: known.router, app: a}
	if all, err := a.Office.People(context.Background()); err == nil && len(all) > 0 {
		c.as("Ines")
	}
	return c
}

// as signs somebody in, in the place of whoever was; the empty name signs out.
func (c *client) as(name string) *client {
	c.t.Helper()
	c.name, c.token = name, ""
	if name != "" {
		c.token = c.session(name)
	}
	return c
}

func (c *client) session(name string) string {
	c.t.Helper()
	single, err := c.app.Office.SingleSignIn(context.Background(), name)
	require.NoError(c.t, err)
	token, err := c.app.Office.UseSingleSignIn(context.Background(), single)
	require.NoError(c.t, err)
	return token
}

// sign gives a request the cookie of who is signed in.
func (c *client) sign(r *http.Request) {
	if c.token != "" {
		r.AddCookie(&http.Cookie{Name: CookieName, Value: c.token})
	}
}

// why is the reason that is given wherever something is taken out of use.
const why = "?why=counted+the+jars+twice"

type reply struct {
	t      testing.TB
	status int
	body   []byte
	header http.Header
}

// raw sends any bytes.
func (c *client) raw(method, path, contentType string, body []byte) reply {
	c.t.Helper()
	r, err := http.NewRequest(method, c.base+path, bytes.NewReader(body))
	require.NoError(c.t, err)
	if contentType != "" {
		r.Header.Set("Content-Type", contentType)
	}
	c.sign(r)
	res, err := http.DefaultClient.Do(r)
	require.NoError(c.t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	assert.Less(c.t, res.StatusCode, 500, "%s %s: %s", method, path, raw)
	c.contract(r, res, raw)
	return reply{c.t, res.StatusCode, raw, res.Header}
}

// contract checks an answer of the API against the contract.
func (c *client) contract(r *http.Request, res *http.Response, raw []byte) {
	probe := httptest.NewRequest(r.Method, "http://x"+r.URL.RequestURI(), nil)
	probe.URL.Host, probe.URL.Scheme = "", ""
	route, params, err := c.router.FindRoute(probe)
	if err != nil || !strings.Contains(res.Header.Get("Content-Type"), "json") {
		return
	}
	err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: probe, PathParams: params,
			Route: route},
		Status: res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(raw)),
	})
	assert.NoError(c.t, err, "%s %s breaks the contract", r.Method, r.URL.Path)
}

func (c *client) send(method, path string, body any) reply {
	c.t.Helper()
	if body == nil {
		return c.raw(method, path, "", nil)
	}
	raw, err := json.Marshal(body)
	require.NoError(c.t, err)
	return c.raw(method, path, "application/json", raw)
}

func (a reply) ok() reply {
	a.t.Helper()
	require.Less(a.t, a.status, 300, string(a.body))
	return a
}

func into[T any](a reply) T {
	a.t.Helper()
	var v T
	require.NoError(a.t, json.Unmarshal(a.body, &v), string(a.body))
	return v
}

func get[T any](c *client, path string) T {
	c.t.Helper()
	return into[T](c.send("GET", path, nil).ok())
}

// refused asserts a clear error at a field, and returns its sentence.
func (a reply) refused(status int, field string) string {
	a.t.Helper()
	require.Equal(a.t, status, a.status, string(a.body))
	assert.Equal(a.t, "application/problem+json", a.header.Get("Content-Type"))
	p := into[Problem](a)
	assert.NotEmpty(a.t, p.Title)
	assert.NotEmpty(a.t, p.Code)
	if field != "" {
		var names []string
		for _, f := range p.Fields {
			names = append(names, f.Field)
			assert.NotEmpty(a.t, f.Message)
		}
		assert.Contains(a.t, names, field, string(a.body))
	}
	return p.Title
}
