package app

import (
	"context"
	"errors"
	"strings"
	"time"

	"gallipot/internal/core/acidity"
)

// MeterCheck is a meter check with its closing look, as it is kept.
type MeterCheck struct {
	ID             int64
	Meter          string
	MV4            float64
	MV7            float64
	Celsius        float64
	SlopePercent   float64
	Accepted       bool
	CheckedAt      time.Time
	CheckedBy      string
	ClosingPH      *float64
	ClosingCelsius *float64
	ClosingGood    *bool
	ClosingAt      *time.Time
}

// MeterStore keeps meter checks.
type MeterStore interface {
	MeterChecks(since time.Time) ([]MeterCheck, error)
	MeterCheck(id int64) (MeterCheck, error)
	AddMeterCheck(c *MeterCheck) error
	CloseMeterCheck(c MeterCheck) error
	FailedChecks(ids []int64) ([]int64, error)
}

// MeterCheckView is a meter check with what it means.
type MeterCheckView struct {
	ID          int64     `json:"id"`
	Meter       string    `json:"meter"`
	MV4         float64   `json:"mv_buffer_4"`
	MV7         float64   `json:"mv_buffer_7"`
	Celsius     float64   `json:"buffer_temperature_c"`
	Slope       float64   `json:"slope_percent"`
	Accepted    bool      `json:"accepted"`
	Reasons     []string  `json:"reasons"`
	CheckedAt   time.Time `json:"checked_at"`
	CheckedBy   string    `json:"checked_by"`
	Today       bool      `json:"today"`
	ClosingPH   *float64  `json:"closing_ph"`
	ClosingGood *bool     `json:"closing_good"`
}

func (a *App) meterView(c MeterCheck) MeterCheckView {
	r := acidity.Check{MV4: c.MV4, MV7: c.MV7, Celsius: c.Celsius}.Judge()
	now := a.Now()
	y, m, d := now.Date()
	cy, cm, cd := c.CheckedAt.In(now.Location()).Date()
	return MeterCheckView{ID: c.ID, Meter: c.Meter, MV4: c.MV4, MV7: c.MV7, Celsius: c.Celsius, Slope: r.SlopePercent,
		Accepted: r.Accepted, Reasons: r.Reasons,
		CheckedAt: c.CheckedAt, CheckedBy: c.CheckedBy, Today: y == cy && m == cm && d == cd, ClosingPH: c.ClosingPH,
		ClosingGood: c.ClosingGood}
}

// MeterChecks lists the checks of the last 30 days, newest first.
func (a *App) MeterChecks(ctx context.Context) ([]MeterCheckView, error) {
	rows, err := a.Store.With(ctx).MeterChecks(a.Now().AddDate(0, 0, -30))
	out := make([]MeterCheckView, len(rows))
	for i, r := range rows {
		out[i] = a.meterView(r)
	}
	return out, err
}

// CheckMeter records a meter check in both buffers and judges it. at may lie in the past, never in the future.
func (a *App) CheckMeter(ctx context.Context, meter string, c acidity.Check, at time.Time, by string) (MeterCheckView,
	error) {
	by, err := person(by)
	if err != nil {
		return MeterCheckView{}, err
	}
	meter = strings.TrimSpace(meter)
	switch {
	case meter == "" || len([]rune(meter)) > 60:
		return MeterCheckView{}, field("meter", "name the meter, in at most 60 characters")
	case !(c.MV4 >= -600 && c.MV4 <= 600):
		return MeterCheckView{}, field("mv_buffer_4", "between -600 and 600 mV")
	case !(c.MV7 >= -600 && c.MV7 <= 600):
		return MeterCheckView{}, field("mv_buffer_7", "between -600 and 600 mV")
	case !(c.Celsius >= 5 && c.Celsius <= 40):
		return MeterCheckView{}, field("buffer_temperature_c", "buffers at 5 to 40 °C")
	}
	if at.IsZero() {
		at = a.Now()
	}
	if at.After(a.Now().Add(time.Minute)) || at.Before(a.Now().AddDate(-1, 0, 0)) {
		return MeterCheckView{}, field("checked_at", "the check lies in the last year, and not in the future")
	}
	r := c.Judge()
	row := MeterCheck{Meter: meter, MV4: c.MV4, MV7: c.MV7, Celsius: c.Celsius, SlopePercent: r.SlopePercent,
		Accepted: r.Accepted, CheckedAt: at, CheckedBy: by}
	return once(ctx, a, func(st Store) (MeterCheckView, error) {
		if err := st.AddMeterCheck(&row); err != nil {
			return MeterCheckView{}, err
		}
		return a.meterView(row), nil
	})
}

// CloseMeter records the closing look at buffer 4.01. Readings that rest on a check whose closing look fails support
// nothing.
func (a *App) CloseMeter(ctx context.Context, id int64, ph, celsius float64, by string) (MeterCheckView, error) {
	if _, err := person(by); err != nil {
		return MeterCheckView{}, err
	}
	if ph <= 0 || ph >= 14 {
		return MeterCheckView{}, field("closing_ph", "a pH lies between 0 and 14")
	}
	if celsius < 5 || celsius > 40 {
		return MeterCheckView{}, field("closing_temperature_c", "buffer at 5 to 40 °C")
	}
	return once(ctx, a, func(st Store) (MeterCheckView, error) {
		c, err := st.MeterCheck(id)
		if err != nil {
			return MeterCheckView{}, err
		}
		now, good := a.Now(), acidity.ClosingLookGood(ph, celsius)
		c.ClosingPH, c.ClosingCelsius, c.ClosingGood, c.ClosingAt = &ph, &celsius, &good, &now
		if err := st.CloseMeterCheck(c); errors.Is(err, ErrConflict) {
			return MeterCheckView{}, refused("closed", "This check has its closing look already; check the meter anew.")
		} else if err != nil {
			return MeterCheckView{}, err
		}
		if !good { // its readings support nothing now
			ids, err := st.BatchesOnMeter(id)
			if err != nil {
				return MeterCheckView{}, err
			}
			if err := a.judgeAll(ctx, st, ids); err != nil {
				return MeterCheckView{}, err
			}
		}
		return a.meterView(c), nil
	})
}
