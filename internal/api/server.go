// Package api is the HTTP edge: routes from the contract, request validation, and the one place where errors become
// responses.
package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/pantry"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// server answers the contract's operations with use cases.
type server struct {
	app    *app.App
	madeUp []office.MadeUp // of the demo: its people with their PINs
}

// maxBody bounds any request: a bundle is the largest.
const maxBody = 33 << 20

// Options configure the edge; the zero value suits a shop on loopback.
type Options struct {
	Hosts       []string        // names by which the shop is reached, besides loopback
	RequestTime time.Duration   // that a request may take; 0 for the usual 30 s
	MadeUp      []office.MadeUp // people whose PINs stand on the sign-in page, of the demo
	Full        func() bool     // whether the disk of the database is full, where that can be told
}

const usualRequestTime = 30 * time.Second

func (o Options) requestTime() time.Duration {
	if o.RequestTime > 0 {
		return o.RequestTime
	}
	return usualRequestTime
}

// contract is the embedded api/openapi.yaml with a router over it and its operations by method and path.
type contract struct {
	spec       *openapi3.T
	router     routers.Router
	operations map[string]*routers.Route
}

// theContract is read once a process, since reading it takes a quarter of a second; nothing writes to it.
var theContract = sync.OnceValues(func() (contract, error) {
	spec, err := GetSpec()
	if err != nil {
		return contract{}, err
	}
	router, err := gorillamux.NewRouter(spec)
	return contract{spec, router, addresses(spec)}, err
})

// New returns the handler for the API under /api and the web app elsewhere.
func New(a *app.App, files fs.FS, o Options) (http.Handler, error) {
	names := hostNames(o.Hosts)
	c, err := theContract()
	if err != nil {
		return nil, fmt.Errorf("contract: %w", err)
	}
	e := echo.NewWithConfig(echo.Config{Router: echo.NewRouter(echo.RouterConfig{AutoHandleHEAD: true}),
		HTTPErrorHandler: o.respondError, Logger: slog.Default()})
	e.Use(middleware.Recover(), logRequests, headers, names.check, limitTime(o.requestTime()),
		middleware.BodyLimit(maxBody), whole, plainText)
	s := &server{a, o.MadeUp}
	group := e.Group("/api")
	group.Use(exists(c.operations, c.router), s.tellsTime, s.knows(c.operations), errands)
	RegisterHandlers(group, s)
	e.GET("/once/:token", s.signInOnce)
	e.GET("/healthz", s.health)
	group.Any("/*", func(*echo.Context) error { return kernel.ErrNotFound })
	e.GET("/*", webApp(files))
	return e, nil
}

// tellsTime sends the server's time with every answer, because a tablet's clock may be wrong by a day.
func (s *server) tellsTime(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		c.Response().Header().Set("Gallipot-Now", s.app.Now().Format(time.RFC3339Nano))
		return next(c)
	}
}

// logRequests writes one structured line a request.
func logRequests(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		start := time.Now()
		err := next(c)
		if strings.HasPrefix(c.Request().URL.Path, "/api") {
			slog.Debug("request", "method", c.Request().Method, "path", c.Request().URL.Path, "took", time.Since(start),
				"error", err)
		}
		return err
	}
}

func mistake(field, message string) error {
	return kernel.Problem{Kind: kernel.Invalid, Code: "invalid",
		Message: strings.ToUpper(message[:1]) + message[1:] + ".",
		Fields:  []pantry.FieldError{{Field: field, Message: message}}}
}

// readByParsers are the operations whose bodies are price lists, bundles, recipe files and documents. Parsers of their
// own check them and name lines and paths in their errors.
var readByParsers = []string{"postbundle", "postprices", "attachevidence", "addrecipefile", "readdelivery"}

// addresses maps the method and Echo's form of the path to each operation of the contract.
func addresses(spec *openapi3.T) map[string]*routers.Route {
	out := map[string]*routers.Route{}
	for path, item := range spec.Paths.Map() {
		at := strings.NewReplacer("{", ":", "}", "").Replace("/api" + path)
		for method, op := range item.Operations() {
			out[method+" "+at] = &routers.Route{Spec: spec, Path: path, PathItem: item, Method: method, Operation: op}
		}
	}
	return out
}

// nameOf returns an operation's id as the contract writes it; the generated code capitalises it.
func nameOf(r *routers.Route) string {
	id := r.Operation.OperationID
	return strings.ToLower(id[:1]) + id[1:]
}

// exists refuses unknown operations: 405 if other knows the path with another method, else 404.
func exists(known map[string]*routers.Route, other routers.Router) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := asGet(c.Request())
			if known[r.Method+" "+c.Path()] != nil {
				return next(c)
			}
			if _, _, err := other.FindRoute(r); errors.Is(err, routers.ErrMethodNotAllowed) {
				return echo.NewHTTPError(http.StatusMethodNotAllowed, "this address does not take "+r.Method)
			}
			return kernel.ErrNotFound
		}
	}
}

// asGet turns HEAD into GET, since the GET handler answers it and the GET's contract applies.
func asGet(r *http.Request) *http.Request {
	if r.Method != http.MethodHead {
		return r
	}
	r = r.Clone(r.Context())
	r.Method = http.MethodGet
	return r
}

var looseRequests = &openapi3filter.Options{MultiError: true,
	AuthenticationFunc: openapi3filter.NoopAuthenticationFunc, ExcludeRequestBody: true}

// valid checks a request against the contract.
func valid(c *echo.Context, route *routers.Route) error {
	r := asGet(c.Request())
	params := map[string]string{}
	for _, p := range c.PathValues() {
		params[p.Name] = p.Value
	}
	in := &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: route, Options: looseRequests}
	if err := openapi3filter.ValidateRequest(r.Context(), in); err != nil {
		return contractProblem(err)
	}
	if slices.Contains(readByParsers, strings.ToLower(route.Operation.OperationID)) {
		return nil
	}
	raw, err := peek(r)
	if err != nil {
		return err
	}
	if err := fits(raw, r.Header.Get("Content-Type"), route.Operation.RequestBody); err != nil {
		return contractProblem(err)
	}
	return nil
}

// fits checks a JSON body against the contract. The library's own check of bodies is slower: it also sets defaults and
// handles read-only and write-only fields, and the contract has neither.
func fits(raw []byte, contentType string, asked *openapi3.RequestBodyRef) error {
	if asked == nil || len(raw) == 0 && !asked.Value.Required {
		return nil
	}
	if len(raw) == 0 {
		return errors.New("nothing was sent")
	}
	kind := asked.Value.Content.Get(contentType)
	if kind == nil {
		return fmt.Errorf("header Content-Type has unexpected value %q", contentType)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var doc any
	if err := d.Decode(&doc); err != nil {
		return err
	}
	return kind.Schema.Value.VisitJSON(doc, openapi3.MultiErrors())
}

// contractProblem lists the fields in which a request breaks the contract, each by its path.
func contractProblem(err error) error {
	var fields []pantry.FieldError
	var walk func(err error, where string)
	walk = func(err error, where string) {
		var multi openapi3.MultiError
		var request *openapi3filter.RequestError
		var schema *openapi3.SchemaError
		switch {
		case errors.As(err, &request) && err == error(request):
			if request.Parameter != nil {
				where = request.Parameter.Name
			}
			if request.Err == nil {
				fields = append(fields, pantry.FieldError{Field: orBody(where), Message: request.Reason})
				return
			}
			walk(request.Err, where)
		case errors.As(err, &multi):
			for _, e := range multi {
				walk(e, where)
			}
		case errors.As(err, &schema):
			path := jsonPath(schema.JSONPointer())
			if path == "" {
				path = where
			}
			fields = append(fields, pantry.FieldError{Field: orBody(path), Message: plainReason(schema)})
		default:
			fields = append(fields, pantry.FieldError{Field: orBody(where), Message: err.Error()})
		}
	}
	walk(err, "")
	if len(fields) > 20 {
		fields = fields[:20]
	}
	return kernel.Problem{Kind: kernel.Invalid, Code: "contract",
		Message: "What was sent does not fit; nothing was stored.",
		Fields:  fields}
}

// plainReason words for a person how a value breaks the contract; the library's own messages are for programs.
func plainReason(e *openapi3.SchemaError) string {
	switch e.SchemaField {
	case "type":
		switch {
		case e.Schema.Type.Is("integer"):
			return "a whole number is needed here"
		case e.Schema.Type.Is("number"):
			return "a number is needed here"
		case e.Schema.Type.Is("string"):
			return "words are needed here"
		}
	case "minimum":
		return "at least " + strconv.FormatFloat(*e.Schema.Min, 'f', -1, 64)
	case "maximum":
		return "at most " + strconv.FormatFloat(*e.Schema.Max, 'f', -1, 64)
	case "maxLength":
		return fmt.Sprintf("at most %d characters", *e.Schema.MaxLength)
	}
	return e.Reason
}

func orBody(where string) string {
	if where == "" {
		return "body"
	}
	return where
}

// jsonPath writes a pointer the way fields are named elsewhere: lines[2].grams.
func jsonPath(parts []string) string {
	var b strings.Builder
	for _, p := range parts {
		if p != "" && strings.Trim(p, "0123456789") == "" {
			b.WriteString("[" + p + "]")
			continue
		}
		if b.Len() > 0 {
			b.WriteByte('.')
		}
		b.WriteString(p)
	}
	return b.String()
}

// respondError turns every error into problem+json. A database that is away because its disk is full is told so.
func (o Options) respondError(c *echo.Context, err error) {
	if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Committed {
		return
	}
	if errors.Is(err, kernel.ErrAway) && !errors.Is(err, kernel.ErrUnsure) && o.Full != nil && o.Full() {
		err = kernel.ErrFull
	}
	status, p := problemOf(err)
	if status >= http.StatusInternalServerError {
		slog.Error("request failed", "method", c.Request().Method, "path", c.Request().URL.Path, "error", err)
	}
	p["status"] = status
	raw, err := json.Marshal(p)
	if err == nil {
		err = c.Blob(status, "application/problem+json", raw)
	}
	if err != nil {
		slog.Error("response failed", "error", err)
	}
}

// troubleOf names what is wrong with the database, and says whether anything was stored.
func troubleOf(err error) (code, title string) {
	switch {
	case errors.Is(err, kernel.ErrUnsure):
		return "unsure", "It is not known whether this was stored: the database broke off while it was being " +
			"written. Look before you send it again."
	case errors.Is(err, kernel.ErrFull):
		return "full", "The disk of the database is full: nothing was stored. What you typed is kept here; make " +
			"room, and it goes on."
	case errors.Is(err, kernel.ErrTimeout), errors.Is(err, context.DeadlineExceeded):
		return "timeout", "This took too long and was given up; nothing was stored. Try again, or ask for less at once."
	case errors.Is(err, kernel.ErrAway):
		return "away", "The database does not answer; nothing was stored. What you typed is kept here: try again " +
			"in a moment."
	}
	return "", ""
}

func problemOf(err error) (int, map[string]any) {
	out := func(code, title string) map[string]any {
		return map[string]any{"code": code, "title": title, "fields": []pantry.FieldError{}}
	}
	if code, title := troubleOf(err); code != "" {
		return http.StatusServiceUnavailable, out(code, title)
	}
	var p kernel.Problem
	var field pantry.FieldError
	var coded interface{ StatusCode() int }
	var tooLarge *http.MaxBytesError
	var slow net.Error
	switch {
	case errors.As(err, &p):
		return problemParts(p, out(p.Code, p.Message))
	case errors.As(err, &field):
		m := out("invalid", field.Message)
		m["fields"] = []pantry.FieldError{field}
		return http.StatusUnprocessableEntity, m
	case errors.As(err, &slow) && slow.Timeout() && !errors.Is(err, context.DeadlineExceeded):
		return http.StatusRequestTimeout, out("slow",
			"What was sent came too slowly; nothing was stored. Send it again.")
	case errors.Is(err, context.Canceled): // the browser went elsewhere; nobody reads this
		return http.StatusRequestTimeout, out("cancelled", "The request was given up.")
	case errors.Is(err, kernel.ErrNobody):
		return http.StatusUnauthorized, out("sign_in", "Say who you are first; nothing was stored.")
	case errors.Is(err, kernel.ErrNotFound):
		return http.StatusNotFound, out("not_found", "This is not here: it may have been renamed or thrown away.")
	case errors.Is(err, kernel.ErrConflict), errors.Is(err, kernel.ErrTaken), errors.Is(err, kernel.ErrInUse),
		errors.Is(err, kernel.ErrLocked):
		return http.StatusConflict, out("conflict",
			"This clashes with something stored meanwhile; load the page again and look.")
	case errors.As(err, &tooLarge):
		return http.StatusRequestEntityTooLarge, out("too_large", "That is more than can be taken at once.")
	case errors.As(err, &coded) && coded.StatusCode() < 500:
		title := http.StatusText(coded.StatusCode())
		if coded.StatusCode() == http.StatusRequestEntityTooLarge {
			title = "That is more than can be taken at once."
		}
		return coded.StatusCode(), out("request", title)
	}
	return http.StatusInternalServerError,
		out("internal", "Something went wrong here; nothing was stored. The log of the server says what.")
}

// problemParts adds the fields of a use case's problem and the other side of a conflict.
func problemParts(p kernel.Problem, m map[string]any) (int, map[string]any) {
	if p.Fields != nil {
		m["fields"] = p.Fields
	}
	if p.Current != nil {
		m["current"] = p.Current
	}
	return map[string]int{kernel.Invalid: 422, kernel.Missing: 404, kernel.Clash: 409, kernel.Refused: 422,
		kernel.Unknown:   401,
		kernel.Forbidden: 403}[p.Kind], m
}

// webApp serves the built files. Other addresses get index.html, since the app routes them itself; a missing asset is
// 404.
func webApp(files fs.FS) echo.HandlerFunc {
	static := http.FileServerFS(files)
	return func(c *echo.Context) error {
		name := strings.TrimPrefix(c.Request().URL.Path, "/")
		// An address of the app may hold a full stop, as an id does; what asks for a page gets the page.
		page := strings.Contains(c.Request().Header.Get("Accept"), "text/html")
		_, err := fs.Stat(files, name)
		if strings.HasPrefix(name, "assets/") || strings.Contains(name, ".") && (err == nil || !page) {
			if err != nil {
				return kernel.ErrNotFound
			}
			if strings.HasPrefix(name, "assets/") {
				c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
			}
			static.ServeHTTP(c.Response(), c.Request())
			return nil
		}
		index, err := fs.ReadFile(files, "index.html")
		if err != nil {
			return c.String(http.StatusServiceUnavailable, "The web app is not built: run make build.")
		}
		c.Response().Header().Set("Cache-Control", "no-cache")
		return c.HTMLBlob(http.StatusOK, index)
	}
}
