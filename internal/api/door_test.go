package api

import (
	"bufio"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/store"
	"gallipot/internal/testdb"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// with sends a request that is not as the web app sends it.
func (c *client) with(method, path, body string, change func(*http.Request)) *http.Response {
	c.t.Helper()
	r, err := http.NewRequest(method, c.base+path, strings.NewReader(body))
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", "application/json")
	c.sign(r)
	change(r)
	res, err := http.DefaultClient.Do(r)
	require.NoError(c.t, err)
	require.NoError(c.t, res.Body.Close())
	return res
}

func TestTheShopAnswersToItsOwnNamesOnly(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	port := c.base[strings.LastIndex(c.base, ":"):]
	for _, try := range []struct {
		host   string
		status int
	}{
		{"evil.example", http.StatusMisdirectedRequest}, {"evil.example" + port, http.StatusMisdirectedRequest},
		{"localhost.evil.example", http.StatusMisdirectedRequest},
		{"127.0.0.1.evil.example", http.StatusMisdirectedRequest},
		{"localhost" + port, 200}, {"LOCALHOST", 200}, {"127.0.0.1" + port, 200}, {"[::1]" + port, 200},
	} {
		for _, path := range []string{"/api/shop", "/"} {
			res := c.with("GET", path, "", func(r *http.Request) { r.Host = try.host })
			assert.Equal(t, try.status, res.StatusCode, "%s as %s", path, try.host)
		}
	}
	for _, try := range []struct {
		name, value string
		status      int
	}{
		{"Origin", "http://evil.example", 422}, {"Origin", "null", 422}, {"Sec-Fetch-Site", "cross-site", 422},
		{"Sec-Fetch-Site", "same-site", 422}, {"Origin", c.base, 200}, {"Sec-Fetch-Site", "same-origin", 200},
	} {
		res := c.with("POST", "/api/recipes", `{"words":"2 leeks"}`,
			func(r *http.Request) { r.Header.Set(try.name, try.value) })
		assert.Equal(t, try.status, res.StatusCode, "%s: %s", try.name, try.value)
	}
	assert.Len(t, get[catalog.RecipePage](c, "/api/recipes").Recipes, 2, "what another site sent was not written")
}

func TestNothingRunsButWhatTheServerSent(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	for _, path := range []string{"/", "/assets/a.js", "/api/shop", "/api/nothing"} {
		h := c.with("GET", path, "", func(*http.Request) {}).Header
		policy := h.Get("Content-Security-Policy")
		for _, want := range []string{"default-src 'self'", "script-src 'self';", "object-src 'none'",
			"base-uri 'none'",
			"form-action 'self'", "frame-ancestors 'none'"} {
			assert.Contains(t, policy, want, path)
		}
		assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"), path)
		assert.NotEmpty(t, h.Get("Referrer-Policy"), path)
	}
}

func TestWhatNoShopHoldsIsRefusedAtItsPlace(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	view := get[office.ShopView](c, "/api/shop")
	raw, err := json.Marshal(view.Settings)
	require.NoError(t, err)
	shop, rev := string(raw), view.Rev
	sheet := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	version, err := json.Marshal(sheet.Version)
	require.NoError(t, err)
	v := string(version)
	settings := fmt.Sprintf("/api/shop?rev=%d", rev)
	put := fmt.Sprintf("/api/formulas/carrot_miso_dressing/versions/4?rev=%d", sheet.Rev)
	number := func(in, field, value string) string { return replaceNumber(t, in, field, value) }
	for _, try := range []struct {
		name, method, path, body, field string
		status                          int
	}{
		{"NUL in a text", "POST", "/api/formulas", `{"name":"a\u0000b"}`, "name", 422},
		{"NUL in an address", "GET", "/api/ingredients/a%00b", "", "address", 422},
		{"bytes that are no text in an address", "GET", "/api/ingredients/%ff%fe", "", "address", 422},
		{"a control character in a name", "POST", "/api/formulas", `{"name":"a\u0007b"}`, "name", 422},
		{"a character that turns the direction", "POST", "/api/formulas", `{"name":"salad \u202Edlo"}`, "name", 422},
		{"the same, written out", "POST", "/api/formulas", "{\"name\":\"salad \u2066old\"}", "name", 422},
		{"an isolate's end", "POST", "/api/formulas", "{\"name\":\"salad \u2069old\"}", "name", 422},
		{"bytes after the JSON", "POST", "/api/formulas", `{"name":"Leek dip"} {}`, "body", 422},
		{"an id over int4", "GET", "/api/formulas/carrot_miso_dressing/versions/2147483648", "", "", 422},
		{"an id over int8", "GET", "/api/batches/92233720368547758080", "", "", 422},
		{"a revision over int4", "PUT", "/api/shop?rev=4294967297", shop, "rev", 422},
		{"a huge scale division", "PUT", settings, number(shop, "scale_division_g", "1e308"), "scale_division_g", 422},
		{"a huge sample", "PUT", settings, number(shop, "sample_g", "1e308"), "sample_g", 422},
		{"a limit of pH 9", "PUT", put, number(v, "ph_limit", "9"), "ph_limit", 422},
		{"no jars to cost", "PUT", put, number(v, "costing_jars", "0"), "costing_jars", 422},
		{"a jar count over int4", "PUT", put, number(v, "costing_jars", "4294967296"), "costing_jars", 422},
		{"the year 0001", "POST", "/api/batches",
			`{"formula":"carrot_miso_dressing","version":3,"jars":12,"made_on":"0001-01-01"}`, "made_on", 422},
		{"the year 9999", "POST", "/api/batches",
			`{"formula":"carrot_miso_dressing","version":3,"jars":12,"made_on":"9999-12-31"}`, "made_on", 422},
	} {
		t.Run(try.name, func(t *testing.T) {
			at := *c
			at.t = t
			at.raw(try.method, try.path, "application/json", []byte(try.body)).refused(try.status, try.field)
		})
	}
	for _, kind := range []string{"text/plain", "application/x-www-form-urlencoded", "application/json; charset=latin1",
		"multipart/form-data", "multipart/form-data; boundary=", "a/b/c", ";", "application/xml", ""} {
		for _, path := range []string{"/api/formulas", "/api/prices", "/api/bundle", "/api/recipes"} {
			got := c.raw("POST", path, kind, []byte(`{"name":"Leek dip"`))
			assert.GreaterOrEqual(t, got.status, 400, "%s as %q", path, kind)
		}
	}
	assert.Equal(t, rev, get[office.ShopView](c, "/api/shop").Rev, "nothing was stored")
}

// replaceNumber puts another number after a field's name in a JSON text.
func replaceNumber(t *testing.T, in, field, value string) string {
	t.Helper()
	at := regexp.MustCompile(`"` + field + `":"?[0-9.eE+-]+"?`)
	require.Regexp(t, at, in)
	return at.ReplaceAllString(in, `"`+field+`":`+value)
}

// slowly opens a connection, writes what begins a request and waits for the server to end it.
func slowly(t *testing.T, address, begin string) time.Duration {
	t.Helper()
	conn, err := net.Dial("tcp", strings.TrimPrefix(address, "http://"))
	require.NoError(t, err)
	defer conn.Close()
	start := time.Now()
	_, err = conn.Write([]byte(begin))
	require.NoError(t, err)
	require.NoError(t, conn.SetReadDeadline(start.Add(20*time.Second)))
	r := bufio.NewReader(conn)
	for {
		if _, err = r.ReadByte(); err != nil {
			break
		}
	}
	var late net.Error
	if assert.NotErrorAs(t, err, &late, "the server never ended the connection") {
		return time.Since(start)
	}
	return 0
}

func TestSlowAndIdleConnectionsEnd(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	h, err := New(c.app, fstest.MapFS{"index.html": {Data: []byte("x")}}, Options{})
	require.NoError(t, err)
	server := httptest.NewUnstartedServer(h)
	short := 300 * time.Millisecond
	server.Config = Server(h, Limits{Header: short, Body: short, Answer: 5 * time.Second, Idle: short,
		HeaderBytes: 4 << 10})
	server.Start()
	defer server.Close()
	slowly(t, server.URL, "GET /api/shop HTTP/1.1\r\nHost: localhost\r\nX-Slow: ")
	slowly(t, server.URL, "POST /api/recipes HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\n"+
		"Cookie: gallipot="+c.token+"\r\nContent-Length: 500\r\n\r\n{\"words\":")
	slowly(t, server.URL, "GET / HTTP/1.1\r\nHost: localhost\r\n\r\n")
	for name, d := range map[string]time.Duration{"header": UsualLimits.Header, "body": UsualLimits.Body,
		"answer": UsualLimits.Answer, "idle": UsualLimits.Idle} {
		assert.Positive(t, d, name)
		assert.LessOrEqual(t, d, 2*time.Minute, name)
	}
}

// TestThirtyStaleSavesLeaveTheShopStanding sends settings over an old revision side by side; the store of the tests has
// one connection, so that whoever wanted a second one would wait for itself.
func TestThirtyStaleSavesLeaveTheShopStanding(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	shop, err := json.Marshal(get[office.ShopView](c, "/api/shop").Settings)
	require.NoError(t, err)
	replies := make(chan int, 30)
	for range 30 {
		go func() {
			replies <- c.with("PUT", "/api/shop?rev=999", string(shop), func(*http.Request) {}).StatusCode
		}()
	}
	for range 30 {
		assert.Equal(t, 409, <-replies)
	}
	assert.Equal(t, 200, c.send("GET", "/api/today", nil).status)
}

// TestAFrozenDatabaseTimesOut stops the database's processes, and sees the shop say so and come back.
func TestAFrozenDatabaseTimesOut(t *testing.T) {
	t.Parallel()
	c, db := brief(t)
	answer := func() int {
		r, err := http.NewRequest("GET", c.base+"/api/ingredients", nil)
		require.NoError(t, err)
		c.sign(r)
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	require.Equal(t, 200, answer())
	rows, err := db.Query(
		"SELECT pid FROM pg_stat_activity WHERE backend_type = 'client backend' AND pid <> pg_backend_pid()")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var pid int
		require.NoError(t, rows.Scan(&pid))
		require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
		defer func() { _ = syscall.Kill(pid, syscall.SIGCONT) }()
	}
	require.NoError(t, rows.Err())
	assert.Equal(t, http.StatusServiceUnavailable, answer())
	require.Eventually(t, func() bool { return answer() == 200 }, 20*time.Second, 20*time.Millisecond,
		"over a connection that works")
}

// TestALockedTableTimesOut holds a table as a stuck program would.
func TestALockedTableTimesOut(t *testing.T) {
	t.Parallel()
	_, url := testdb.Safe(t)
	s, err := store.Open(context.Background(), url+"&lock_timeout=300ms", 1)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, seed(s))
	a := app.New(s, noon, kitchen(t))
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	held, err := db.Begin()
	require.NoError(t, err)
	_, err = held.Exec("LOCK TABLE ingredients IN ACCESS EXCLUSIVE MODE")
	require.NoError(t, err)
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	_, err = a.Catalog.Pantry(ctx)
	require.ErrorIs(t, err, kernel.ErrTimeout, "the store's own limit comes long before the caller's")
	require.NoError(t, held.Rollback())
	_, err = a.Catalog.Pantry(ctx)
	require.NoError(t, err)
}

// TestAStoreWhoseDatabaseDiesAnswersAgain ends every connection under the shop.
func TestAStoreWhoseDatabaseDiesAnswersAgain(t *testing.T) {
	t.Parallel()
	s, url := testdb.Safe(t)
	require.NoError(t, seed(s))
	a := app.New(s, noon, kitchen(t))
	_, err := a.Catalog.Pantry(context.Background())
	require.NoError(t, err)
	db, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid()")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		_, err := a.Catalog.Pantry(context.Background())
		return err == nil
	}, 10*time.Second, 20*time.Millisecond)
}
