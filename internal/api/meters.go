package api

import (
	"time"

	"gallipot/internal/core/acidity"

	"github.com/labstack/echo/v5"
)

func (s *server) ListMeterChecks(c *echo.Context) error {
	v, err := s.app.Production.MeterChecks(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) AddMeterCheck(c *echo.Context, p AddMeterCheckParams) error {
	in, err := body[NewMeterCheck](c)
	if err != nil {
		return err
	}
	var at time.Time
	if in.CheckedAt != nil {
		at = *in.CheckedAt
	}
	check := acidity.Check{MV4: in.MvBuffer4, MV7: in.MvBuffer7, PH4: in.PhBuffer4, PH7: in.PhBuffer7,
		Celsius: in.BufferTemperatureC}
	v, err := s.app.Production.CheckMeter(c.Request().Context(), in.Meter, check, at)
	return answer(c, v, err)
}

func (s *server) CloseMeterCheck(c *echo.Context, id int64, p CloseMeterCheckParams) error {
	in, err := body[CloseMeterCheckJSONBody](c)
	if err != nil {
		return err
	}
	v, err := s.app.Production.CloseMeter(c.Request().Context(), id, in.ClosingPh, in.ClosingTemperatureC)
	return answer(c, v, err)
}
