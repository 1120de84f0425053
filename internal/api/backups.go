package api

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"
)

func (s *server) GetBackups(c *echo.Context) error {
	v, err := s.app.Office.Backups(c.Request().Context())
	return answer(c, v, err)
}

// MakeBackup makes one to its end, however long that takes and whoever goes away meanwhile.
func (s *server) MakeBackup(c *echo.Context, _ MakeBackupParams) error {
	if err := unhurried(c); err != nil {
		return err
	}
	v, err := s.app.Office.MakeBackup(context.WithoutCancel(c.Request().Context()))
	return answer(c, v, err)
}

// unhurried lifts the time that an answer may take: a backup is as long as the shop is old.
func unhurried(c *echo.Context) error {
	return http.NewResponseController(c.Response()).SetWriteDeadline(time.Time{})
}

func (s *server) GetBackupFile(c *echo.Context, id int64) error {
	b, f, err := s.app.Office.OpenBackup(c.Request().Context(), id)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := unhurried(c); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Type", "application/zip")
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", b.File))
	http.ServeContent(c.Response(), c.Request(), b.File, b.At, f)
	return nil
}

// health tells whoever watches the program whether its database answers, and whether the record is protected from it.
func (s *server) health(c *echo.Context) error {
	why, err := s.app.Office.Health(c.Request().Context())
	if err != nil {
		return err
	}
	said := map[string]string{"status": "ok", "record": "protected"}
	if why != "" {
		said["record"] = "not protected: " + why
	}
	return c.JSON(http.StatusOK, said)
}
