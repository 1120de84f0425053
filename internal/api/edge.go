package api

import (
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"unicode"
	"unicode/utf8"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"

	"github.com/labstack/echo/v5"
)

// body decodes a JSON body whose shape the contract has checked. If a number is too fine or too large for its unit, the
// error names its field.
func body[T any](c *echo.Context) (T, error) {
	var v T
	raw, err := peek(c.Request())
	if err != nil {
		return v, err
	}
	if err := json.Unmarshal(raw, &v); err != nil {
		var literal amount.LiteralError
		if errors.As(err, &literal) {
			return v, mistake(placeOf(raw, literal.Literal), literal.Message)
		}
		return v, mistake("body", "the body is not JSON of the right shape: "+err.Error())
	}
	return v, nil
}

// placeOf finds the path of a number in a JSON text, such as lines[2].grams.
func placeOf(raw []byte, literal string) string {
	place := "body"
	walkJSON(raw, func(path string, v any) bool {
		if n, ok := v.(json.Number); ok && string(n) == literal {
			place = path
			return false
		}
		return true
	})
	return place
}

// walkJSON visits every value of a JSON text with its path, until visit says no.
func walkJSON(raw []byte, visit func(path string, v any) bool) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var doc any
	if d.Decode(&doc) != nil {
		return
	}
	var walk func(path string, v any) bool
	walk = func(path string, v any) bool {
		if !visit(path, v) {
			return false
		}
		switch v := v.(type) {
		case map[string]any:
			for name, x := range v {
				at := name
				if path != "" {
					at = path + "." + name
				}
				if !visit(at+" (name)", name) || !walk(at, x) {
					return false
				}
			}
		case []any:
			for i, x := range v {
				if !walk(fmt.Sprintf("%s[%d]", path, i), x) {
					return false
				}
			}
		}
		return true
	}
	walk("", doc)
}

// answer sends the result of a use case.
func answer[T any](c *echo.Context, v T, err error) error {
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

// ahead is an answer that is encoded while the transaction is still being committed.
type ahead[T any] struct{ made chan encoded }

type encoded struct {
	raw []byte
	err error
}

func (a *ahead[T]) make(v func() T) {
	made := make(chan encoded, 1)
	a.made = made
	go func() {
		raw, err := json.Marshal(v())
		made <- encoded{raw, err}
	}()
}

// answer sends it once the commit has succeeded.
func (a *ahead[T]) answer(c *echo.Context, err error) error {
	if err != nil {
		return err
	}
	e := <-a.made
	if e.err != nil {
		return e.err
	}
	return c.JSONBlob(http.StatusOK, e.raw)
}

func done(c *echo.Context, err error) error {
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func orZero(n *int64) int64 {
	if n == nil {
		return 0
	}
	return *n
}

func deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

// whole reads the body into memory so that it can be checked before it is decoded; documents are streamed instead.
func whole(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.Body == nil || r.Body == http.NoBody || isForm(r) {
			return next(c)
		}
		raw, err := io.ReadAll(r.Body)
		if err != nil {
			return err
		}
		r.GetBody = func() (io.ReadCloser, error) { return held{bytes.NewReader(raw), raw}, nil }
		r.Body, _ = r.GetBody() // which never fails
		return next(c)
	}
}

// held is a body that was read into memory.
type held struct {
	*bytes.Reader
	raw []byte
}

func (held) Close() error { return nil }

func isForm(r *http.Request) bool {
	return strings.HasPrefix(strings.ToLower(r.Header.Get("Content-Type")), "multipart/form-data")
}

// peek returns the body that whole read without consuming it.
func peek(r *http.Request) ([]byte, error) {
	if h, ok := r.Body.(held); ok {
		return h.raw, nil
	}
	if r.Body == nil || r.Body == http.NoBody {
		return nil, nil
	}
	raw, err := io.ReadAll(r.Body)
	r.Body = io.NopCloser(bytes.NewReader(raw))
	return raw, err
}

// plainText refuses text that cannot be meant before it reaches the database: addresses with NUL or invalid UTF-8,
// bytes after the JSON of a body, and control or bidirectional characters. Recipes are exempt, since they are pasted
// from anywhere; the reader removes such characters itself.
func plainText(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		for _, s := range []string{r.URL.Path, r.URL.RawQuery} {
			plain, err := url.PathUnescape(s)
			if err != nil || hidden(plain, "") || !utf8.ValidString(plain) {
				return mistake("address", "the address holds characters that cannot be")
			}
		}
		if isForm(r) {
			return next(c)
		}
		raw, err := peek(r)
		if err != nil {
			return err
		}
		if !looksLikeJSON(r, raw) {
			return next(c)
		}
		if !json.Valid(raw) {
			return mistake("body", "the body is not JSON, or something follows it")
		}
		if suspicious(raw) {
			if err := wrongText(raw); err != nil {
				return err
			}
		}
		return next(c)
	}
}

// suspicious reports whether a JSON text may contain a control or bidirectional character. Hardly any does, and
// scanning bytes is much faster than decoding the text.
func suspicious(raw []byte) bool {
	for i, b := range raw {
		switch b {
		case '\\':
			if i+1 < len(raw) && bytes.IndexByte([]byte("ubf"), raw[i+1]) >= 0 {
				return true // an escape of some character
			}
		case 0x7f, 0xc2, 0xd8: // DEL; what begins U+0080 to U+00BF, and the Arabic letter mark
			return true
		case 0xe2: // what begins the marks of direction, among much else
			if i+2 < len(raw) && (raw[i+1] == 0x80 &&
				(raw[i+2] == 0x8e || raw[i+2] == 0x8f || raw[i+2] >= 0xaa && raw[i+2] <= 0xae) ||
				raw[i+1] == 0x81 && raw[i+2] >= 0xa6 && raw[i+2] <= 0xa9) {
				return true
			}
		}
	}
	return false
}

func looksLikeJSON(r *http.Request, raw []byte) bool {
	kind := strings.ToLower(r.Header.Get("Content-Type"))
	return len(raw) > 0 && strings.Contains(kind, "json") && !strings.HasSuffix(r.URL.Path, "/bundle")
}

func wrongText(raw []byte) error {
	var err error
	walkJSON(raw, func(path string, v any) bool {
		s, ok := v.(string)
		spoken := path == "words" || strings.HasSuffix(path, ".words")
		if ok && (strings.ContainsRune(s, 0) || !spoken && hidden(s, "\n\r\t")) {
			err = mistake(path, "a control or direction character is in the text; take it out")
		}
		return err == nil
	})
	return err
}

// hidden reports whether a text contains control characters other than the allowed ones, or bidirectional ones.
func hidden(s, allowed string) bool {
	return strings.ContainsFunc(s, func(r rune) bool {
		return unicode.IsControl(r) && !strings.ContainsRune(allowed, r) || unicode.Is(unicode.Bidi_Control, r)
	})
}

// errands puts an errand into the context of each request with an idempotency key; its digest covers the method, the
// address and the body.
func errands(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		key := r.Header.Get("Idempotency-Key")
		if key == "" || r.Method == http.MethodGet || r.Method == http.MethodHead {
			return next(c)
		}
		if len(key) > kernel.MaxKey || hidden(key, "") || !utf8.ValidString(key) {
			return mistake("Idempotency-Key", "an idempotency key has 1 to 100 plain characters")
		}
		e := kernel.Errand{Key: key, Operation: r.Method + " " + r.URL.Path}
		if !isForm(r) { // a form differs from sending to sending; its handler says what it holds
			raw, err := peek(r)
			if err != nil {
				return err
			}
			sum := sha256.Sum256(append([]byte(r.URL.RawQuery+"\n"), raw...))
			e.Digest = sum[:]
		}
		c.SetRequest(r.WithContext(kernel.WithErrand(r.Context(), e)))
		return next(c)
	}
}
