package api

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/people"
	"gallipot/internal/core/told"
	"gallipot/internal/demo"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// eachOperation calls do for every operation of the contract, with an address that fits its shape.
func eachOperation(t *testing.T, do func(name, method, path string)) {
	t.Helper()
	known, err := theContract()
	require.NoError(t, err)
	n := 0
	for at, route := range known.operations {
		method, path, _ := strings.Cut(at, " ")
		parts := strings.Split(path, "/")
		for i, p := range parts {
			if strings.HasPrefix(p, ":") {
				parts[i] = "1"
			}
		}
		n++
		do(nameOf(route), method, strings.Join(parts, "/"))
	}
	require.Greater(t, n, 60)
}

func TestEveryOperationSaysWhoMayUseIt(t *testing.T) {
	t.Parallel()
	there := map[string]bool{}
	eachOperation(t, func(name, _, _ string) {
		there[name] = true
		role, named := asked[name]
		assert.True(t, named && (role.Known() || role == everybody), "%s is for whom?", name)
	})
	for name := range asked {
		assert.True(t, there[name], "%s is no operation", name)
	}
}

// TestNobodyDoesWhatIsNotTheirs tries every operation as nobody, and as each role below the one it asks for.
func TestNobodyDoesWhatIsNotTheirs(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	names := map[people.Role]string{people.Helper: "Ola", people.Maker: "Bram"}
	eachOperation(t, func(name, method, path string) {
		role := asked[name]
		if role == everybody {
			return
		}
		c.as("")
		got := c.raw(method, path, "application/json", []byte("{}"))
		assert.Equal(t, http.StatusUnauthorized, got.status, "%s as nobody: %s", name, got.body)
		for lower, who := range names {
			if lower.May(role) {
				continue
			}
			got := c.as(who).raw(method, path, "application/json", []byte("{}"))
			assert.Equal(t, http.StatusForbidden, got.status, "%s as %s: %s", name, lower, got.body)
			assert.Contains(t, string(got.body), who, "it says who is signed in")
		}
	})
}

// TestAHelperWeighsFillsAndReadsAndDoesNotDecide goes through a batch as a helper.
func TestAHelperWeighsFillsAndReadsAndDoesNotDecide(t *testing.T) {
	t.Parallel()
	now := clock()
	b := bake(t, withDemo(t), now)
	b.as("Ola")
	b.weighAndFill()
	b.readAll(4.0)
	v := b.view()
	assert.True(t, v.CanRelease)
	assert.Equal(t, []string{"Ola"}, v.Record.Hands)
	b.write(map[string]any{"kind": "void", "void": map[string]any{"entry": v.Record.Readings[0].ID,
		"cause": "it fell into the sink"}}).refused(403, "")
	for _, state := range []string{"released", "hold", "rejected", "called_back"} {
		b.decide(state, "I think so").refused(403, "")
	}
	b.write(map[string]any{"kind": "jars_in", "jars_in": map[string]any{"reason": "counted"}}).refused(403, "")
	b.send("POST", "/api/labels/2/print?key=x", map[string]any{"batch": b.id, "count": 1}).refused(403, "")
	c := b.as("Bram")
	b.decide("called_back", "I think so").refused(403, "")
	assert.Equal(t, "released", into[production.BatchView](b.decide("released", "").ok()).Record.State)
	assert.Equal(t, "Bram", get[production.BatchView](c, fmt.Sprintf("/api/batches/%d", b.id)).Record.DecideBy)
}

// TestANameStaysWithWhatItSigned tries to become a second person by another name, and to sign as the program does.
func TestANameStaysWithWhatItSigned(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	id := get[[]office.PersonView](c, "/api/people")[0].ID
	c.send("PUT", fmt.Sprintf("/api/people/%d", id), map[string]string{"name": "Somebody else"}).refused(422, "body")
	for _, name := range []string{"Gallipot", " gallipot"} {
		c.send("POST", "/api/people", map[string]string{"name": name, "role": "maker", "secret": "382716"}).
			refused(422, "name")
	}
}

func (c *client) signIn(name, secret string) reply {
	return c.send("POST", "/api/session", map[string]string{"name": name, "secret": secret})
}

func TestFiveWrongTriesWaitAMinute(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	now := noon()
	c.app.Now = func() time.Time { return now }
	pin := demo.MadeUp()[1]
	c.as("")
	for i := range 4 {
		told := c.signIn(pin.Name, fmt.Sprintf("90000%d", i)).refused(422, "")
		assert.Contains(t, told, "not the right PIN")
	}
	assert.Contains(t, c.signIn(pin.Name, "900009").refused(422, ""), "Wait 60 seconds")
	assert.Contains(t, c.signIn(pin.Name, pin.Secret).refused(422, ""), "Wait", "the right one, too")
	c.signIn("Ola", demo.MadeUp()[3].Secret).ok()
	now = now.Add(time.Minute)
	c.signIn(pin.Name, pin.Secret).ok()
	c.signIn(pin.Name, "900000").refused(422, "")
	assert.NotContains(t, c.signIn(pin.Name, "900000").refused(422, ""), "Wait", "counting began anew")
	assert.Contains(t, c.signIn("Nobody", "900000").refused(422, ""), "not the right PIN")
	assert.Contains(t, c.signIn(pin.Name, "' OR 1=1 --").refused(422, ""), "not the right PIN")
}

// TestGuessesAtOnceAreCountedOneByOne sends thirty side by side.
func TestGuessesAtOnceAreCountedOneByOne(t *testing.T) {
	t.Parallel()
	c := withDemo(t).as("")
	codes := make(chan string, 30)
	for i := range 30 {
		go func() {
			got := c.signIn("Bram", fmt.Sprintf("9000%02d", i))
			_, rest, _ := strings.Cut(string(got.body), `"code":"`)
			code, _, _ := strings.Cut(rest, `"`)
			codes <- code
		}()
	}
	wrong := 0
	for range 30 {
		if <-codes == "wrong_secret" {
			wrong++
		}
	}
	assert.Equal(t, 4, wrong, "the fifth and all after it wait")
}

func TestTheSessionsCookieIsTheBrowsersOwn(t *testing.T) {
	t.Parallel()
	c := withDemo(t).as("")
	pin := demo.MadeUp()[0]
	got := c.signIn(pin.Name, pin.Secret).ok()
	cookie := got.header.Get("Set-Cookie")
	for _, part := range []string{"gallipot=", "HttpOnly", "SameSite=Strict", "Path=/"} {
		assert.Contains(t, cookie, part)
	}
	assert.NotContains(t, string(got.body), strings.TrimPrefix(strings.Split(cookie, ";")[0], "gallipot="))
	v := into[office.SessionView](got)
	assert.Equal(t, "Ines", v.Person.Name)
	assert.Len(t, v.People, 4)
	assert.Empty(t, v.Made, "PINs stand on the demo's own page only")
	c.token = strings.TrimPrefix(strings.Split(cookie, ";")[0], "gallipot=")
	c.send("GET", "/api/today", nil).ok()
	other := c.token
	c.signIn("Ola", demo.MadeUp()[3].Secret).ok() // hands change: the session before ends
	c.token = other
	c.send("GET", "/api/today", nil).refused(401, "")
	c.as("Ines").send("DELETE", "/api/session", nil).ok()
	c.send("GET", "/api/today", nil).refused(401, "")
	c.token = "made up"
	c.send("GET", "/api/today", nil).refused(401, "")
}

func TestAnAddressSignsInOnce(t *testing.T) {
	t.Parallel()
	c := withDemo(t).as("")
	token, err := c.app.Office.SingleSignIn(context.Background(), "Ines")
	require.NoError(t, err)
	visit := func() *http.Response {
		client := &http.Client{CheckRedirect: func(*http.Request,
			[]*http.Request) error {
			return http.ErrUseLastResponse
		}}
		res, err := client.Get(c.base + "/once/" + token)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res
	}
	first := visit()
	assert.Equal(t, "/", first.Header.Get("Location"))
	require.Len(t, first.Cookies(), 1)
	c.token = first.Cookies()[0].Value
	assert.Equal(t, "Ines", get[office.SessionView](c, "/api/session").Person.Name)
	second := visit()
	assert.Empty(t, second.Cookies(), "it is used up")
	assert.Equal(t, http.StatusSeeOther, second.StatusCode)
}

func TestTheFirstStartMakesTheOwner(t *testing.T) {
	t.Parallel()
	c := serve(t, shownEmpty.New(t, seedOnly), noon())
	v := get[office.SessionView](c, "/api/session")
	assert.True(t, v.First)
	assert.Nil(t, v.Person)
	c.send("GET", "/api/shop", nil).refused(401, "")
	first := func(name, secret string) reply {
		return c.send("POST", "/api/people/first", map[string]string{"name": name, "secret": secret})
	}
	first(" ", "274910").refused(422, "name")
	for _, weak := range []string{"1234", "111111", "123456", "987654", "12345678", "short"} {
		first("Odile", weak).refused(422, "secret")
	}
	got := first("Odile", "quern stones 7").ok()
	c.token = strings.TrimPrefix(strings.Split(got.header.Get("Set-Cookie"), ";")[0], "gallipot=")
	assert.Equal(t, people.Owner, get[office.SessionView](c, "/api/session").Person.Role)
	assert.Contains(t, first("Mallory", "583026").refused(422, ""), "has its owner already")
	assert.Len(t, get[[]office.PersonView](c, "/api/people"), 1)
	c.send("GET", "/api/shop", nil).ok()
}

func TestPeopleComeChangeAndGo(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	add := func(name, role, secret string) reply {
		return c.send("POST", "/api/people", map[string]string{"name": name, "role": role, "secret": secret})
	}
	change := func(id int64, what map[string]any) reply {
		return c.send("PUT", fmt.Sprintf("/api/people/%d", id), what)
	}
	add("Ola", "helper", "640912").refused(422, "name")
	add("Tove", "helper", "000000").refused(422, "secret")
	tove := into[office.PersonView](add("Tove", "helper", "640912").ok())
	all := get[[]office.PersonView](c, "/api/people")
	ines := all[0]

	hers := c.session("Tove")
	as := func(token string) int {
		mine := c.token
		c.token = token
		defer func() { c.token = mine }()
		return c.send("GET", "/api/today", nil).status
	}
	assert.Equal(t, 200, as(hers))
	change(tove.ID, map[string]any{"role": "maker"}).ok()
	assert.Equal(t, 200, as(hers), "more may stay")
	change(tove.ID, map[string]any{"role": "helper"}).ok()
	assert.Equal(t, 401, as(hers), "less signs out")
	hers = c.session("Tove")
	change(tove.ID, map[string]any{"secret": "641913"}).ok()
	assert.Equal(t, 401, as(hers), "another secret signs out")
	hers = c.session("Tove")
	change(tove.ID, map[string]any{"retire": true}).refused(422, "why")
	change(tove.ID, map[string]any{"retire": true, "why": "moved away"}).ok()
	assert.Equal(t, 401, as(hers), "and whoever left is out at once")
	c.signIn("Tove", "641913").refused(422, "")
	add("Tove", "helper", "640912").refused(422, "name")
	change(tove.ID, map[string]any{"back": true}).ok()

	assert.Contains(t, change(ines.ID, map[string]any{"role": "maker"}).refused(422, ""), "at least one owner")
	change(ines.ID, map[string]any{"retire": true, "why": "tired"}).refused(422, "")
	change(999, map[string]any{"role": "maker"}).refused(404, "")
	c.as("Ola")
	change(tove.ID, map[string]any{"secret": "999111"}).refused(403, "")
	change(all[3].ID, map[string]any{"role": "owner"}).refused(403, "")
	change(all[3].ID, map[string]any{"secret": "817263", "role": "owner"}).refused(403, "")
	change(all[3].ID, map[string]any{"secret": "817263"}).ok()
	c.signIn("Ola", "817263").ok()
}

// TestAnActAfterARestAsksForThePIN while the screen stays readable.
func TestAnActAfterARestAsksForThePIN(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	now := noon()
	c.app.Now = func() time.Time { return now }
	c.as("Bram")
	act := func() reply {
		return c.send("POST", "/api/formulas", map[string]string{"name": "Dip of " + now.String()})
	}
	act().ok()
	now = now.Add(15 * time.Minute)
	act().ok()
	now = now.Add(15*time.Minute + time.Second)
	assert.Contains(t, string(act().body), `"code":"locked"`)
	act().refused(401, "")
	c.send("GET", "/api/today", nil).ok()
	c.as("Bram")
	act().ok()
	now = now.Add(17 * time.Hour)
	c.send("GET", "/api/today", nil).refused(401, "")
}

// TestAnActFromATabOfSomebodyElseAsksWhoItIs acts from a screen that still shows who was there before.
func TestAnActFromATabOfSomebodyElseAsksWhoItIs(t *testing.T) {
	t.Parallel()
	c := withDemo(t).as("Bram")
	act := func(shown string) int {
		return c.with("POST", "/api/formulas", `{"name":"Dip of `+shown+`"}`, func(r *http.Request) {
			r.Header.Set(handsHeader, shown)
		}).StatusCode
	}
	assert.Equal(t, http.StatusUnauthorized, act("Ines"))
	assert.Equal(t, http.StatusUnauthorized, act("%zz"))
	assert.Less(t, act("Bram"), 300)
	assert.Less(t, act("Br%61m"), 300)
	for _, f := range get[[]catalog.FormulaRow](c, "/api/formulas") {
		assert.NotEqual(t, "Dip of Ines", f.Name)
	}
}

// TestWhatWasDoneReadsAsSentences changes things as different people and reads their histories.
func TestWhatWasDoneReadsAsSentences(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	history := func(of, id string) []told.HistoryRow {
		return get[office.HistoryPage](c, "/api/history?of="+of+"&id="+id).Rows
	}
	g := get[catalog.IngredientView](c, "/api/ingredients/tahini")
	g.Ingredient.Name, g.Ingredient.PH.Typical = "Tahini, hulled", 6.1
	g.Ingredient.Offers = g.Ingredient.Offers[:0]
	c.as("Bram").send("PUT", fmt.Sprintf("/api/ingredients/tahini?rev=%d&why=hulled+now", g.Rev),
		g.Ingredient).ok()
	rows := history("ingredient", "tahini")
	assert.Equal(t, "Bram", rows[0].By)
	assert.Contains(t, rows[0].Said, "took a price out of use")
	assert.Contains(t, rows[1].Said, "changed Tahini, hulled")
	assert.Contains(t, strings.Join(rows[1].Details, "; "), "ph typical: ")
	assert.Contains(t, strings.Join(rows[1].Details, "; "), "→ 6.1")

	s := get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/4")
	for i, add := range []float64{1, 3} {
		v := s.Version
		v.Lines[0].Grams = v.Lines[0].Grams.Plus(amount.G(add))
		v.Note = fmt.Sprintf("try %d", i)
		s = into[catalog.SheetView](c.send("PUT",
			fmt.Sprintf("/api/formulas/carrot_miso_dressing/versions/4?rev=%d", s.Rev),
			v).ok())
	}
	rows = history("formula", "carrot_miso_dressing")
	assert.Equal(t, "changed the draft of version 4", rows[0].Said)
	require.Len(t, rows[0].Details, 2, "the typing of one sitting is told once: %v", rows[0].Details)
	assert.Equal(t, "Carrot, raw: 300 g → 304 g", rows[0].Details[0])
	assert.NotContains(t, rows[1].Said, "changed the draft")
	c.as("Ines").send("PUT", "/api/formulas/carrot_miso_dressing",
		map[string]any{"name": "Carrot, miso", "retired": false}).ok()
	assert.Contains(t, history("formula", "carrot_miso_dressing")[0].Said, "renamed it from Carrot & miso dressing")

	assert.Contains(t, history("batch", "21")[0].Said, "printed 31")
	assert.Contains(t, saidIn(history("batch", "21")), "Ola weighed line")
	shop := get[office.ShopView](c, "/api/shop")
	shop.OpenedDays = 5
	c.send("PUT", fmt.Sprintf("/api/shop?rev=%d", shop.Rev), shop.Settings).ok()
	rows = history("shop", "")
	assert.Equal(t, []string{"opened days: 7 → 5"}, rows[0].Details)
	assert.Contains(t, saidIn(rows), "added Ola, helper")
	assert.Contains(t, saidIn(history("label", "2")), "made the GB label")
	assert.Contains(t, saidIn(history("formula", "hazelnut_kale_pesto")), "withdrew “Own study at 5 °C, ten pulls”")
	c.send("GET", "/api/history?of=everything", nil).refused(422, "of")
	assert.Empty(t, history("ingredient", "nothing"))
}

func saidIn(rows []told.HistoryRow) string {
	var b strings.Builder
	for _, r := range rows {
		b.WriteString(r.By + " " + r.Said + "\n")
	}
	return b.String()
}

// BenchmarkSignIn signs somebody in with a PIN: slow by intent, and not slower than a hand waits.
func BenchmarkSignIn(b *testing.B) {
	c, _ := safeDemo(b)
	pin := demo.MadeUp()[1]
	body := fmt.Appendf(nil, `{"name":%q,"secret":%q}`, pin.Name, pin.Secret)
	var took []time.Duration
	for b.Loop() {
		took = append(took, c.timed(b, "POST", c.base+"/api/session", body))
	}
	b.ReportMetric(p95(took), "p95-ms")
}
