package production

import (
	"context"
	"strings"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/acidity"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/shop"
)

// MeterCheckView is a meter check with what it means.
type MeterCheckView struct {
	ID          int64      `json:"id"`
	Meter       string     `json:"meter"`
	MV4         *float64   `json:"mv_buffer_4"`
	MV7         *float64   `json:"mv_buffer_7"`
	PH4         *float64   `json:"ph_buffer_4"`
	PH7         *float64   `json:"ph_buffer_7"`
	Celsius     float64    `json:"buffer_temperature_c"`
	Slope       *float64   `json:"slope_percent"`
	Accepted    bool       `json:"accepted"`
	Reasons     []string   `json:"reasons"`
	CheckedAt   time.Time  `json:"checked_at"`
	CheckedBy   string     `json:"checked_by"`
	Late        bool       `json:"late"`  // entered more than 12 h after it was made
	Today       bool       `json:"today"` // of the shop's day
	ClosingPH   *float64   `json:"closing_ph"`
	ClosingGood *bool      `json:"closing_good"` // of the newest look
	ClosingAt   *time.Time `json:"closing_at"`
	ClosingBy   string     `json:"closing_by"`
}

func (a *Room) meterView(c kernel.MeterCheck, s shop.Settings) MeterCheckView {
	r := c.Check.Judge()
	v := MeterCheckView{ID: c.ID, Meter: c.Meter, MV4: c.Check.MV4, MV7: c.Check.MV7, PH4: c.Check.PH4,
		PH7: c.Check.PH7, Celsius: c.Check.Celsius, Accepted: r.Accepted, Reasons: r.Reasons, CheckedAt: c.CheckedAt,
		CheckedBy: c.CheckedBy, Late: c.EnteredAt.Sub(c.CheckedAt) > bench.LateAfter,
		Today: acidity.SameDay(a.Now(), c.CheckedAt, s.Zone())}
	if c.Check.HasMV() {
		v.Slope = &r.SlopePercent
	}
	if n := len(c.Looks); n > 0 {
		l := c.Looks[n-1]
		v.ClosingPH, v.ClosingGood, v.ClosingAt, v.ClosingBy = &l.PH, &l.Good, &l.At, l.By
	}
	return v
}

// MeterChecks lists the checks of the last 30 days, newest first.
func (a *Room) MeterChecks(ctx context.Context) ([]MeterCheckView, error) {
	st := a.On(ctx)
	s, _, err := a.Settings(st)
	if err != nil {
		return nil, err
	}
	rows, err := st.MeterChecks(a.Now().AddDate(0, 0, -30))
	out := make([]MeterCheckView, len(rows))
	for i, r := range rows {
		out[i] = a.meterView(r, s)
	}
	return out, err
}

// CheckMeter records a meter check in both buffers and judges it. at may lie in the past, never in the future; entered
// late it supports only readings entered after it.
func (a *Room) CheckMeter(ctx context.Context, meter string, c acidity.Check, at time.Time) (MeterCheckView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return MeterCheckView{}, err
	}
	meter = strings.TrimSpace(meter)
	if err := checkBuffers(meter, c); err != nil {
		return MeterCheckView{}, err
	}
	if at = a.toTheMinute(at); at.IsZero() {
		at = a.Now()
	}
	if at.After(a.Now().Add(time.Minute)) || at.Before(a.Now().AddDate(-1, 0, 0)) {
		return MeterCheckView{}, kernel.Mistake("checked_at", "the check lies in the last year, and not in the future")
	}
	row := kernel.MeterCheck{Meter: meter, Check: c, Accepted: c.Judge().Accepted, CheckedAt: at, CheckedBy: by,
		EnteredAt: a.Now()}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (MeterCheckView, error) {
		s, _, err := a.Settings(st)
		if err != nil {
			return MeterCheckView{}, err
		}
		if err := st.AddMeterCheck(&row); err != nil {
			return MeterCheckView{}, err
		}
		if !row.Accepted {
			err = a.judgeOnMeter(ctx, st, row)
		}
		return a.meterView(row, s), err
	})
}

// checkBuffers refuses buffers that cannot be.
func checkBuffers(meter string, c acidity.Check) error {
	inMV := func(x *float64) bool { return x == nil || *x >= -600 && *x <= 600 }
	inPH := func(x *float64) bool { return x == nil || *x > 0 && *x < 14 }
	switch {
	case meter == "" || len([]rune(meter)) > 60:
		return kernel.Mistake("meter", "name the meter, in at most 60 characters")
	case !c.HasMV() && (c.PH4 == nil || c.PH7 == nil):
		return kernel.Mistake("mv_buffer_4",
			"give both buffers in mV, or, where the meter shows none, what both read as pH")
	case !inMV(c.MV4):
		return kernel.Mistake("mv_buffer_4", "between -600 and 600 mV")
	case !inMV(c.MV7):
		return kernel.Mistake("mv_buffer_7", "between -600 and 600 mV")
	case !inPH(c.PH4):
		return kernel.Mistake("ph_buffer_4", "a pH lies between 0 and 14")
	case !inPH(c.PH7):
		return kernel.Mistake("ph_buffer_7", "a pH lies between 0 and 14")
	case !(c.Celsius >= 5 && c.Celsius <= 40):
		return kernel.Mistake("buffer_temperature_c", "buffers at 5 to 40 °C")
	}
	return nil
}

// judgeOnMeter judges the batches anew whose readings a failed check or look takes the support from.
func (a *Room) judgeOnMeter(ctx context.Context, st kernel.Store, c kernel.MeterCheck) error {
	events, err := st.MeterEvents([]int64{c.ID}, time.Time{})
	if err != nil {
		return err
	}
	since := time.Time{} // the last that passed before the newest event
	for _, e := range events {
		if e.Good && e.EnteredAt.Before(a.Now()) && e.At.After(since) {
			since = e.At
		}
	}
	ids, err := st.BatchesOnMeter(c.Meter, since)
	if err != nil {
		return err
	}
	return a.JudgeAll(ctx, st, ids)
}

// CloseMeter records a closing look at buffer 4.01. One that fails takes the support from the readings of its meter
// back to what passed before it; passing later restores nothing.
func (a *Room) CloseMeter(ctx context.Context, id int64, ph, celsius float64) (MeterCheckView, error) {
	by, err := kernel.Signed(ctx)
	if err != nil {
		return MeterCheckView{}, err
	}
	if ph <= 0 || ph >= 14 {
		return MeterCheckView{}, kernel.Mistake("closing_ph", "a pH lies between 0 and 14")
	}
	if celsius < 5 || celsius > 40 {
		return MeterCheckView{}, kernel.Mistake("closing_temperature_c", "buffer at 5 to 40 °C")
	}
	return kernel.Once(ctx, a.Kernel, func(st kernel.Store) (MeterCheckView, error) {
		c, err := st.MeterCheck(id)
		if err != nil {
			return MeterCheckView{}, err
		}
		s, _, err := a.Settings(st)
		if err != nil {
			return MeterCheckView{}, err
		}
		look := kernel.MeterLook{Check: id, PH: ph, Celsius: celsius, Good: acidity.ClosingLookGood(ph, celsius),
			At: a.Now(),
			By: by}
		if err := st.AddMeterLook(look); err != nil {
			return MeterCheckView{}, err
		}
		if !look.Good {
			if err := a.judgeOnMeter(ctx, st, c); err != nil {
				return MeterCheckView{}, err
			}
		}
		c.Looks = append(c.Looks, look)
		return a.meterView(c, s), nil
	})
}
