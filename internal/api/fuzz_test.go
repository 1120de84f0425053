package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/office"
	"gallipot/internal/core/people"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// How many requests are made up: some in every run of the tests, as many as make fuzz says otherwise.
const (
	usualRequests = 500
	requestsEnv   = "GALLIPOT_FUZZ"
	seedEnv       = "GALLIPOT_FUZZ_SEED"
	answerWithin  = 20 * time.Second // far over what any answer takes; what goes beyond it hangs
)

// operation is one of the contract.
type operation struct {
	method, path string
	op           *openapi3.Operation
	params       openapi3.Parameters
}

// maker makes up values: mostly of the shape that the contract tells, sometimes of none.
type maker struct {
	*rand.Rand
	known []string // ids and words that are there
}

func pick[T any](m *maker, from []T) T { return from[m.IntN(len(from))] }

var oddTexts = []string{"", " ", "\x00", "a\x00b", "\u202e", strings.Repeat("x", 6000), "'; DROP TABLE versions; --",
	"%", "../..",
	"💧", "0", "-1", "1e400", "null", "\xff\xfe", "<script>", "=1+1", "\t=1", "9999999999999999999999", "2026-02-31",
	"0001-01-01"}

var oddNumbers = []string{"0", "-1", "1", "0.001", "1e308", "-1e308", "1e-320", "2147483648", "-2147483649",
	"9223372036854775808",
	"123456789012345678901234567890", "0.1234567890123", "7", "1000000"}

func (m *maker) text(s *openapi3.Schema) string {
	switch {
	case m.IntN(5) == 0:
		return pick(m, oddTexts)
	case s != nil && len(s.Enum) > 0:
		if text, ok := pick(m, s.Enum).(string); ok {
			return text
		}
	case s != nil && s.Format == "date-time":
		return "2026-11-25T10:00:00Z"
	case m.IntN(4) == 0:
		return "2026-11-20"
	}
	return pick(m, m.known)
}

// value makes up JSON of a schema.
func (m *maker) value(ref *openapi3.SchemaRef, depth int) json.RawMessage {
	if ref == nil || ref.Value == nil || depth > 8 || m.IntN(25) == 0 {
		return json.RawMessage(pick(m, []string{"null", "{}", "[]", "true", `""`, "0", `"x"`, "[[]]"}))
	}
	s := ref.Value
	if len(s.AllOf) > 0 {
		return m.value(s.AllOf[0], depth+1)
	}
	if len(s.OneOf) > 0 {
		return m.value(pick(m, s.OneOf), depth+1)
	}
	switch {
	case s.Type.Is("object"):
		return m.object(s, depth)
	case s.Type.Is("array"):
		parts := make([]json.RawMessage, m.IntN(4))
		for i := range parts {
			parts[i] = m.value(s.Items, depth+1)
		}
		return quoted(parts)
	case s.Type.Is("boolean"):
		return quoted(m.IntN(2) == 0)
	case s.Type.Is("integer"):
		if m.IntN(3) > 0 {
			return quoted(m.IntN(6))
		}
		return json.RawMessage(pick(m, oddNumbers))
	case s.Type.Is("number"):
		if m.IntN(3) > 0 {
			return quoted(m.Float64() * 200)
		}
		return json.RawMessage(pick(m, oddNumbers))
	}
	return quoted(m.text(s))
}

func (m *maker) object(s *openapi3.Schema, depth int) json.RawMessage {
	out := map[string]json.RawMessage{}
	for name, property := range s.Properties {
		if slices.Contains(s.Required, name) && m.IntN(30) > 0 || m.IntN(2) == 0 {
			out[name] = m.value(property, depth+1)
		}
	}
	if s.AdditionalProperties.Schema != nil {
		out[pick(m, m.known)] = m.value(s.AdditionalProperties.Schema, depth+1)
	}
	if m.IntN(40) == 0 {
		out["surplus"] = json.RawMessage("1")
	}
	return quoted(out)
}

func quoted(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		return json.RawMessage("null")
	}
	return raw
}

// request makes up one request of an operation.
func (m *maker) request(base string, o operation) (*http.Request, []byte, error) {
	path, query := o.path, url.Values{}
	for _, ref := range o.params {
		p := ref.Value
		text := m.text(p.Schema.Value)
		if p.Schema.Value.Type.Is("integer") && m.IntN(4) > 0 {
			text = strconv.Itoa(m.IntN(18))
		}
		switch p.In {
		case "path":
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(text))
		case "query":
			if p.Required || m.IntN(2) == 0 {
				query.Set(p.Name, text)
			}
		}
	}
	kind, raw := "", []byte(nil)
	if o.op.RequestBody != nil {
		kind, raw = m.body(o.op.RequestBody.Value.Content)
	}
	if len(query) > 0 {
		path += "?" + query.Encode()
	}
	ctx, cancel := context.WithTimeout(context.Background(), answerWithin)
	time.AfterFunc(answerWithin+time.Second, cancel)
	r, err := http.NewRequestWithContext(ctx, o.method, base+"/api"+path, bytes.NewReader(raw))
	if err != nil {
		return nil, nil, err
	}
	if kind != "" {
		r.Header.Set("Content-Type", kind)
	}
	if m.IntN(4) == 0 {
		r.Header.Set("Idempotency-Key", url.QueryEscape(pick(m, m.known)))
	}
	return r, raw, nil
}

func (m *maker) body(content openapi3.Content) (string, []byte) {
	kind, raw := "application/json", []byte(m.value(nil, 0))
	for k, media := range content {
		kind, raw = k, m.value(media.Schema, 0)
		if !strings.Contains(k, "json") {
			raw = []byte(m.text(nil))
		}
		break
	}
	switch m.IntN(20) {
	case 0:
		raw = raw[:m.IntN(len(raw)+1)]
	case 1:
		raw = append(raw, pick(m, []string{"x", "{}", "\x00", "]"})...)
	case 2:
		kind = pick(m, []string{"text/plain", "", ";", "application/xml", "multipart/form-data",
			"application/json; charset=utf-16"})
	}
	return kind, raw
}

func operations(t *testing.T, spec *openapi3.T) []operation {
	t.Helper()
	var all []operation
	for _, path := range spec.Paths.InMatchingOrder() {
		item := spec.Paths.Value(path)
		for method, op := range item.Operations() {
			all = append(all, operation{method, path, op, append(slices.Clone(item.Parameters), op.Parameters...)})
		}
	}
	slices.SortFunc(all, func(a, b operation) int { return strings.Compare(a.path+a.method, b.path+b.method) })
	require.Greater(t, len(all), 60)
	return all
}

// TestMadeUpRequests sends what nobody would to every operation of the contract, on the made-up shop: no answer is a
// failure of the server, none hangs, none is outside the contract. The seed of a failing run is told; it gives the same
// requests again.
func TestMadeUpRequests(t *testing.T) {
	t.Parallel()
	many, seed := usualRequests, uint64(time.Now().UnixNano())
	if n, err := strconv.Atoi(os.Getenv(requestsEnv)); err == nil {
		many = n
	}
	if n, err := strconv.ParseUint(os.Getenv(seedEnv), 10, 64); err == nil {
		seed = n
	}
	c := withDemo(t)
	known, err := theContract()
	require.NoError(t, err)
	all := operations(t, known.spec)
	m := &maker{rand.New(rand.NewPCG(seed, 1)),
		[]string{"carrot_miso_dressing", "beetroot_horseradish_dip", "water", "lime_juice",
			"tahini", "tbsp", "l1", "released", "chilled", "g", "Ines", "2 leeks\n1 tbsp tahini", "1", "first"}}
	statuses := map[int]int{}
	for i := range many {
		o := all[i%len(all)]
		r, raw, err := m.request(c.base, o)
		if err != nil {
			continue // an address that no client can write
		}
		signed := m.IntN(10) > 0
		if signed {
			c.sign(r)
		}
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err, "seed %d: %s %s %s", seed, r.Method, r.URL, raw)
		answer, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		statuses[res.StatusCode/100]++
		if signed && res.StatusCode == http.StatusUnauthorized {
			c.as(anOwner(c)) // the session was ended, or its person left, by what was made up
		}
		said := fmt.Sprintf("seed %d, request %d: %s %s\n%.2000s\n%.2000s", seed, i, r.Method, r.URL, raw, answer)
		assert.Less(t, res.StatusCode, 500, said)
		assert.NoError(t, outside(c, o, r, res, answer), said)
		if t.Failed() {
			return
		}
	}
	t.Logf("seed %d: %d taken, %d refused", seed, statuses[2], statuses[4])
	assert.Positive(t, statuses[2], "some are taken")
	assert.Positive(t, statuses[4], "some are refused")
}

// anOwner is one who can sign in: a shop always keeps one.
func anOwner(c *client) string {
	c.t.Helper()
	all, err := c.app.Office.People(context.Background())
	require.NoError(c.t, err)
	i := slices.IndexFunc(all, func(p office.PersonView) bool { return p.Role == people.Owner && p.CanSignIn })
	require.GreaterOrEqual(c.t, i, 0)
	return all[i].Name
}

// outside says where an answer leaves the contract.
func outside(c *client, o operation, r *http.Request, res *http.Response, answer []byte) error {
	if !strings.Contains(res.Header.Get("Content-Type"), "json") {
		if res.StatusCode >= 400 {
			return fmt.Errorf("a refusal as %q", res.Header.Get("Content-Type"))
		}
		return nil
	}
	probe := httptest.NewRequest(r.Method, "/api"+strings.NewReplacer("{", "", "}", "").Replace(o.path), nil)
	route, params, err := c.router.FindRoute(probe)
	if err != nil {
		return err
	}
	return openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: probe, PathParams: params,
			Route: route},
		Status: res.StatusCode, Header: res.Header, Body: io.NopCloser(bytes.NewReader(answer)),
	})
}
