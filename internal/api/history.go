package api

import (
	"bytes"
	"fmt"
	"net/http"

	"gallipot/internal/app/office"
	"gallipot/internal/core/day"
	"gallipot/internal/interchange"

	"github.com/labstack/echo/v5"
)

func (s *server) GetHistory(c *echo.Context, p GetHistoryParams) error {
	before := int64(0)
	if p.Before != nil {
		before = *p.Before
	}
	v, err := s.app.Office.History(c.Request().Context(), string(p.Of), deref(p.Id), before)
	return answer(c, v, err)
}

func (s *server) GetRecords(c *echo.Context, p GetRecordsParams) error {
	ask := office.RecordsAsk{Day: day.Day(deref(p.Day)), By: deref(p.By), Before: orZero(p.Before)}
	if p.What != nil {
		ask.What = string(*p.What)
	}
	v, err := s.app.Office.Records(c.Request().Context(), ask)
	return answer(c, v, err)
}

func (s *server) GetStory(c *echo.Context, id int64) error {
	v, err := s.app.Production.Story(c.Request().Context(), id)
	return answer(c, v, err)
}

func (s *server) GetRecordFile(c *echo.Context, id int64) error {
	v, err := s.app.Production.Story(c.Request().Context(), id)
	if err != nil {
		return err
	}
	moment, day, err := s.app.Production.Told(c.Request().Context())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if _, err := interchange.WriteStory(&b, v, moment, day); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="record-%s.pdf"`, v.Code))
	return c.Blob(http.StatusOK, "application/pdf", b.Bytes())
}
