package api

import (
	"fmt"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWrongInputIsAnsweredAndNeverBreaksAnything sends what cannot be to every address of the kitchen. The client
// itself fails the test on a 500 and on an answer that breaks the contract.
func TestWrongInputIsAnsweredAndNeverBreaksAnything(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	long := strings.Repeat("x", 4000)
	for _, try := range []struct {
		method, path, body string
		status             int
		field              string
	}{
		{"POST", "/api/recipes", `{}`, 422, "words"},
		{"POST", "/api/recipes", `{"words":5}`, 422, "words"},
		{"POST", "/api/recipes", `{"words":"a","more":1}`, 422, ""},
		{"POST", "/api/recipes", `{"words":"a","name":"` + long + `"}`, 422, "name"},
		{"POST", "/api/recipes", `[`, 422, ""},
		{"GET", "/api/recipes/0", "", 422, "id"},
		{"GET", "/api/recipes/999", "", 404, ""},
		{"GET", "/api/recipes/x", "", 422, "id"},
		{"PUT", "/api/recipes/1?rev=1", `{"name":"a","words":"b"}`, 422, "answers"},
		{"PUT", "/api/recipes/1", `{"name":"a","words":"b","answers":{}}`, 422, "rev"},
		{"PUT", "/api/recipes/999?rev=1", `{"name":"a","words":"b","answers":{}}`, 404, ""},
		{"POST", "/api/recipes/2/draft", `{"name":""}`, 422, "name"},
		{"POST", "/api/recipes/2/draft", `{"name":"x"}`, 422, "notices.doubling"},
		{"POST", "/api/recipes/999/draft", `{"name":"x"}`, 404, ""},
		{"DELETE", "/api/recipes/999" + why, "", 404, ""},
		{"DELETE", "/api/recipes/999", "", 422, "why"},
		{"PUT", "/api/ingredients/nothing/measures/tbsp", `{"weighings":[1,2,3]}`, 404, ""},
		{"PUT", "/api/ingredients/tahini/measures/My%20Spoon", `{"weighings":[1,2,3]}`, 422, "measure"},
		{"PUT", "/api/ingredients/tahini/measures/tbsp", `{"weighings":[]}`, 422, "weighings"},
		{"PUT", "/api/ingredients/tahini/measures/tbsp", `{"weighings":[1,2,-3]}`, 422, "weighings[2]"},
		{"PUT", "/api/ingredients/tahini/measures/tbsp", `{"weighings":["a"]}`, 422, "weighings[0]"},
		{"GET", "/api/preparations/nothing", "", 404, ""},
		{"GET", "/api/preparations/nothing/less-water", "", 404, ""},
		{"GET", "/api/preparations/pine_nut.toast/less-water", "", 422, ""},
		{"POST", "/api/preparations",
			`{"id":"","name":"x","input":"kale","output":"kale","yield_percent":50,"spread_percent":1,"labour_min_per_kg":1,"wait_min":0,"typical":false}`, 422, "output"},
		{"POST", "/api/preparations",
			`{"id":"","name":"x","input":"kale","output":"carrot","yield_percent":1001,"spread_percent":1,"labour_min_per_kg":1,"wait_min":0,"typical":false}`, 422, "yield_percent"},
		{"PUT", "/api/preparations/kale_bunch.destem?rev=9",
			`{"id":"","name":"x","input":"kale_bunch","output":"kale","yield_percent":50,"spread_percent":1,"labour_min_per_kg":1,"wait_min":0,"typical":true}`, 409, ""},
		{"POST", "/api/preparations/nothing/yields?rev=0", `{"day":"2026-11-01","in_g":1,"out_g":1}`, 404, ""},
		{"POST", "/api/preparations/kale_bunch.destem/yields?rev=1",
			`{"day":"2026-11-01","in_g":10,"out_g":5,"co_out_g":1}`, 422, "co_out_g"},
		{"POST", "/api/routes", `{"routes":[],"out_g":1}`, 422, "routes"},
		{"POST", "/api/routes", `{"routes":[{"preparation":"","ingredient":"nothing"}],"out_g":1}`, 422, "routes[0]"},
		{"POST", "/api/routes", `{"routes":[{"preparation":"kale_bunch.destem","ingredient":""}],"out_g":1e12}`, 422,
			"out_g"},
		{"GET", "/api/formulas/nothing/trials", "", 404, ""},
		{"POST", "/api/formulas/nothing/trials",
			`{"id":0,"version":1,"made_on":"2026-11-01","by":"","vessel":"","lines":[{"ingredient":"kale","grams":1,"added_g":0}],"finished_g":0,"score":0,"note":""}`, 404, ""},
		{"POST", "/api/formulas/pea_pistachio_spread/trials",
			`{"id":0,"version":1,"made_on":"yesterday","by":"","vessel":"","lines":[{"ingredient":"kale","grams":1,"added_g":0}],"finished_g":0,"score":0,"note":""}`, 422, "made_on"},
		{"POST", "/api/formulas/pea_pistachio_spread/trials",
			`{"id":0,"version":1,"made_on":"2026-11-01","by":"","vessel":"","lines":[{"ingredient":"kale","grams":0,"added_g":0}],"finished_g":0,"score":0,"note":""}`, 422, "lines"},
		{"POST", "/api/formulas/pea_pistachio_spread/trials",
			`{"id":0,"version":1,"made_on":"2026-11-01","by":"","vessel":"","lines":[{"ingredient":"kale","grams":1,"added_g":0}],"finished_g":0,"score":11,"note":""}`, 422, "score"},
		{"POST", "/api/formulas/pea_pistachio_spread/trials",
			`{"id":0,"version":1,"made_on":"2026-11-01","by":"","vessel":"","lines":[{"component":{"formula":"nothing","version":1},"grams":1,"added_g":0}],"finished_g":0,"score":1,"note":""}`, 422, "lines[0]"},
		{"POST", "/api/formulas/pea_pistachio_spread/standard",
			`{"trials":[],"reference_g":1000,"division_g":1,"by_score":false}`, 422, "trials"},
		{"POST", "/api/formulas/pea_pistachio_spread/standard",
			`{"trials":[1,2,3],"reference_g":-5,"division_g":1,"by_score":false}`, 422, "reference_g"},
		{"POST", "/api/formulas/pea_pistachio_spread/standard/draft",
			`{"trials":[77],"reference_g":1000,"division_g":1,"by_score":false}`, 422, "trials"},
		{"GET", "/api/formulas/nothing/family", "", 404, ""},
		{"POST", "/api/formulas/carrot_miso_dressing/variants", `{"version":4,"name":"x"}`, 422, "parent"},
		{"POST", "/api/formulas/carrot_miso_dressing/variants", `{"version":3,"name":"Carrot & miso, thicker"}`, 422,
			"name"},
		{"POST", "/api/formulas/nothing/rebase", `{"apply":true}`, 404, ""},
		{"POST", "/api/formulas/carrot_miso_tahini/rebase", `{"apply":true}`, 422, ""},
		{"POST", "/api/side-by-side",
			`{"versions":[{"formula":"a","version":1},{"formula":"a","version":1},{"formula":"a","version":1},{"formula":"a","version":1}]}`, 422, "versions"},
		{"GET", "/api/formulas/carrot_miso_dressing/versions/3/at-size?jars=-1", "", 422, "jars"},
		{"GET", "/api/formulas/carrot_miso_dressing/versions/99/at-size?jars=5", "", 404, ""},
		{"GET", "/api/formulas/nothing/versions/1/recipe", "", 404, ""},
		{"GET", "/api/formulas/carrot_miso_dressing/versions/99/sheet.csv", "", 404, ""},
	} {
		t.Run(fmt.Sprintf("%s %s %.40s", try.method, try.path, try.body), func(t *testing.T) {
			kind, body := "", []byte(nil)
			if try.body != "" {
				kind, body = "application/json", []byte(try.body)
			}
			got := c.raw(try.method, try.path, kind, body)
			require.Equal(t, try.status, got.status, string(got.body))
			assert.Equal(t, "application/problem+json", got.header.Get("Content-Type"))
			if try.field != "" {
				got.refused(try.status, try.field)
			}
		})
	}
}

func TestNobodyWritesWithoutAName(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	c.as("")
	for path, body := range map[string]any{
		"/api/recipes":         map[string]any{"words": "2 tbsp tahini"},
		"/api/recipes/1/draft": map[string]any{"name": "x"},
		"/api/formulas/carrot_miso_dressing/variants": map[string]any{"version": 3, "name": "x"},
		"/api/formulas/carrot_miso_thicker/rebase":    map[string]any{"apply": true},
		"/api/formulas/pea_pistachio_spread/standard/draft": map[string]any{"trials": []int{1, 2}, "reference_g": 1000,
			"division_g": 1, "by_score": false},
	} {
		c.send("POST", path, body).refused(401, "")
	}
	c.send("PUT", "/api/ingredients/tahini/measures/tbsp", map[string]any{"weighings": []float64{1, 2, 3}}).refused(401,
		"")
	c.send("POST", "/api/preparations/kale_bunch.destem/yields?rev=1",
		map[string]any{"day": "2026-11-01", "in_g": 10, "out_g": 5}).refused(401, "")
}

// TestTheContractHasNoDefaultsAndNoOneWayFields holds what fits relies on.
func TestTheContractHasNoDefaultsAndNoOneWayFields(t *testing.T) {
	t.Parallel()
	known, err := theContract()
	require.NoError(t, err)
	seen := map[*openapi3.Schema]bool{}
	var look func(name string, ref *openapi3.SchemaRef)
	look = func(name string, ref *openapi3.SchemaRef) {
		if ref == nil || seen[ref.Value] {
			return
		}
		s := ref.Value
		seen[s] = true
		assert.False(t, s.Default != nil || s.ReadOnly || s.WriteOnly, name)
		look(name, s.Items)
		look(name, s.AdditionalProperties.Schema)
		for field, p := range s.Properties {
			look(name+"."+field, p)
		}
	}
	for path, item := range known.spec.Paths.Map() {
		for method, op := range item.Operations() {
			if op.RequestBody == nil {
				continue
			}
			for kind, media := range op.RequestBody.Value.Content {
				look(method+" "+path+" "+kind, media.Schema)
			}
		}
	}
	require.Greater(t, len(seen), 100)
}

func TestABodyThatIsNoneOrOfAnotherKindIsRefused(t *testing.T) {
	t.Parallel()
	c := newClient(t, noon())
	for _, body := range []string{"", "null", `"words"`, "[]"} {
		got := c.raw("POST", "/api/formulas", "application/json", []byte(body))
		got.refused(422, "body")
	}
	got := c.raw("POST", "/api/formulas", "text/plain", []byte(`{"name":"Dip"}`))
	got.refused(422, "body")
	assert.Contains(t, string(got.body), "Content-Type")
	got = c.raw("POST", "/api/formulas", "application/json", []byte(`{"name":"Dip","more":1}`))
	got.refused(422, "body")
	assert.Contains(t, string(got.body), "more")
	c.raw("POST", "/api/formulas", "application/json; charset=utf-8", []byte(`{"name":"Dip"}`)).ok()
}
