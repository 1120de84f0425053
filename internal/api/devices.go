package api

import "github.com/labstack/echo/v5"

func (s *server) ListDevices(c *echo.Context) error {
	v, err := s.app.Production.Devices(c.Request().Context())
	return answer(c, v, err)
}

func (s *server) ReadDevice(c *echo.Context, id string, p ReadDeviceParams) error {
	v, err := s.app.Production.ReadDevice(c.Request().Context(), id, deref(p.After))
	return answer(c, v, err)
}

func (s *server) AskDevice(c *echo.Context, id string) error {
	in, err := body[AskDeviceJSONBody](c)
	if err != nil {
		return err
	}
	said, err := s.app.Production.AskDevice(c.Request().Context(), id, in.Command)
	return answer(c, map[string]string{"answer": said}, err)
}
