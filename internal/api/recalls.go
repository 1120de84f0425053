package api

import (
	"fmt"
	"net/http"
	"strings"

	"gallipot/internal/app/release"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/recall"

	"github.com/labstack/echo/v5"
)

func (s *server) ListRecalls(c *echo.Context) error {
	v, err := s.app.Release.Recalls(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) StartRecall(c *echo.Context, _ StartRecallParams) error {
	in, err := body[release.NewRecall](c)
	if err != nil {
		return err
	}
	v, err := s.app.Release.StartRecall(c.Request().Context(), in)
	return answer(c, v, err)
}

func (s *server) GetRecall(c *echo.Context, id int64) error {
	v, err := s.app.Release.Recall(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) GetRecallLetters(c *echo.Context, id int64) error {
	v, err := s.app.Release.Recall(c.Request().Context(), id)
	if err != nil {
		return err
	}
	var b strings.Builder
	for _, l := range v.Letters {
		fmt.Fprintf(&b, "%s\n", strings.Repeat("-", 72))
		if l.Contact != "" {
			fmt.Fprintf(&b, "To: %s, %s\n", l.To, l.Contact)
		} else {
			fmt.Fprintf(&b, "To: %s\n", l.To)
		}
		fmt.Fprintf(&b, "Subject: %s\n\n%s\n\n", l.Subject, l.Text)
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="letters-%s.txt"`, v.Code))
	return c.Blob(http.StatusOK, "text/plain; charset=utf-8", []byte(b.String()))
}

func (s *server) WriteRecall(c *echo.Context, id int64, p WriteRecallParams) error {
	in, err := body[NewRecallEntry](c)
	if err != nil {
		return err
	}
	act := in.details()
	if act == nil {
		return mistake("kind", entry.KindError{Kind: string(in.Kind)}.Error())
	}
	v, err := s.app.Release.WriteRecall(c.Request().Context(), id, act, p.Key)
	return answer(c, v, err)
}

// details returns the body of the act's kind, or nil if it is missing.
func (in NewRecallEntry) details() any {
	switch {
	case in.Kind == "counted" && in.Counted != nil:
		return &recall.Counted{Batch: in.Counted.Batch, Place: in.Counted.Place, Jars: in.Counted.Jars,
			Note: strings.TrimSpace(deref(in.Counted.Note))}
	case in.Kind == "told" && in.Told != nil:
		return &recall.Told{Party: in.Told.Party, How: strings.TrimSpace(in.Told.How)}
	case in.Kind == "answered" && in.Answered != nil:
		x := in.Answered
		return &recall.Answered{Party: x.Party, Batch: x.Batch, Held: x.Held, Sold: x.Sold,
			Note: strings.TrimSpace(deref(x.Note))}
	case in.Kind == "widened":
		return &recall.Widened{}
	case in.Kind == "closed" && in.Closed != nil:
		return &recall.Closed{Done: strings.TrimSpace(in.Closed.Done)}
	}
	return nil
}
