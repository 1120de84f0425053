package api

import (
	"fmt"
	"net/http"
	"slices"
	"testing"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestDevicesTellAndArePlayed(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	list := get[[]production.DeviceView](c, "/api/devices")
	require.Len(t, list, 6)
	scale := list[0]
	assert.Equal(t, "Bench scale", scale.Name)
	assert.True(t, scale.StandIn && scale.Counts && scale.Reading.Answers, "in a made-up shop a stand-in counts")
	c.send("POST", "/api/devices/bench/ask", map[string]string{"command": "sim pour 250 500"}).ok()
	r := scale.Reading
	for end := time.Now().Add(20 * time.Second); time.Now().Before(end) && (r.Value < 249 || !r.Steady); {
		r = get[production.DeviceReading](c, "/api/devices/bench/reading?after="+fmt.Sprint(r.Seq))
	}
	assert.InDelta(t, 250, r.Value, 0.11)
	c.send("POST", "/api/devices/bench/ask", map[string]string{"command": "tare"}).ok()
	c.send("POST", "/api/devices/bench/ask",
		map[string]string{"command": "who"}).refused(http.StatusUnprocessableEntity, "command")
	c.send("POST", "/api/devices/printer/ask", map[string]string{"command": "sim jam"}).ok()
	c.send("GET", "/api/devices/nothing/reading", nil).refused(http.StatusNotFound, "")
	said := into[map[string]string](c.send("POST", "/api/devices/printer/ask",
		map[string]string{"command": "count"}).ok())
	assert.Equal(t, "printed 0", said["answer"])
}

func TestDevicesAreThingsOfTheShop(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	was := get[office.ShopView](c, "/api/shop")
	put := func(change func(s *shop.Settings)) reply {
		s := was.Settings
		s.Devices = slices.Clone(was.Devices)
		change(&s)
		return c.send("PUT", "/api/shop?rev="+fmt.Sprint(was.Rev), s)
	}
	put(func(s *shop.Settings) { s.Devices[0].Address = "the shelf" }).refused(http.StatusUnprocessableEntity,
		"devices[0].address")
	put(func(s *shop.Settings) { s.Devices[0].Division = amount.G(0) }).refused(http.StatusUnprocessableEntity,
		"devices[0].division_g")
	put(func(s *shop.Settings) { s.Devices = s.Devices[2:] }).refused(http.StatusUnprocessableEntity, "devices")
	put(func(s *shop.Settings) {
		s.Jars = []pack.Jar{{Name: "hexagon",
			ML: 0}}
	}).refused(http.StatusUnprocessableEntity,
		"jars[0].ml")
	put(func(s *shop.Settings) {
		s.Devices[0].Division, s.Devices[0].Address = amount.G(1), "127.0.0.1:9"
		s.Jars = []pack.Jar{{Name: "Hexagon, 190 mL", ML: 196}}
	}).ok()
	now := get[office.ShopView](c, "/api/shop")
	assert.Equal(t, "1", now.ScaleDivision.String(), "the bench scale's division is the shop's")
	list := get[[]production.DeviceView](c, "/api/devices")
	assert.False(t, list[0].StandIn)
	assert.False(t, list[0].Reading.Answers, "nothing is at that address")
	c.send("POST", "/api/devices/bench/ask",
		map[string]string{"command": "tare"}).refused(http.StatusUnprocessableEntity, "")
	c.send("POST", "/api/devices/bench/ask",
		map[string]string{"command": "sim put 5"}).refused(http.StatusUnprocessableEntity,
		"command")
}

func TestLabelsGoToThePrinterAndAreCountedOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	var label kernel.LabelRow
	for _, l := range get[[]kernel.LabelRow](c, "/api/labels") {
		if l.Formula == "carrot_miso_dressing" && l.Regime == "GB" {
			label = l
		}
	}
	count := func() string {
		return into[map[string]string](c.send("POST", "/api/devices/printer/ask",
			map[string]string{"command": "count"}).ok())["answer"]
	}
	batch := get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=14", label.ID))
	require.Empty(t, batch.Block)
	before := batch.Printed
	run := func(key string, labels int) reply {
		return c.send("POST", fmt.Sprintf("/api/labels/%d/print?key=%s", label.ID, key), map[string]any{"batch": 14,
			"count": labels, "printer": "printer"})
	}
	run("roll-1", 12).ok()
	run("roll-1", 12).ok()
	assert.Equal(t, "printed 12", count(), "sent twice, printed once")
	c.send("POST", "/api/devices/printer/ask", map[string]string{"command": "sim roll 3"}).ok()
	said := run("roll-2", 12).refused(http.StatusUnprocessableEntity, "")
	assert.Contains(t, said, "3 labels are left")
	assert.Equal(t, before+12, get[release.LabelView](c, fmt.Sprintf("/api/labels/%d?batch=14", label.ID)).Printed,
		"what was not printed is not logged")
	c.send("POST", "/api/devices/printer/ask", map[string]string{"command": "sim roll 500"}).ok()
	run("roll-2", 12).ok()
	assert.Equal(t, "printed 24", count())
	batch.WidthMM, batch.HeightMM = 80, 66
	c.design(batch, func(d *kernel.LabelDesign) { d.Stock, d.Form = "", labelart.Two }).ok()
	run("roll-4", 5).ok()
	assert.Equal(t, "printed 34", count(), "five fronts and five backs")
	c.app.Production.StandIns = false
	run("roll-3", 1).refused(http.StatusUnprocessableEntity, "printer")
}
