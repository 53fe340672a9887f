package web_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
)

// What somebody else has changed since it was opened is not written over: the
// answer has it as it is now, and nothing was changed.
func TestEditsOfOneThingMeet(t *testing.T) {
	s := newStall(t, func(x *sim.Entry) bool { return x.Category == "mugs" })
	e, do := s.edge, s.do
	do(200, "POST", "/api/v1/marketplaces", fmt.Sprintf(`{"name":"Quaymarket","address":%q}`, s.url))
	do(200, "PUT", "/api/v1/sites/1/terms", `{"charged":"0","outbound":"0","handling":"0","cushion":"0%","allowances":[]}`)
	do(200, "POST", "/api/v1/sources", `{"supplier":"Fernhollow","currency":"GBP","charge":"0","tax":"without"}`)
	do(
		201,
		"POST",
		"/api/v1/feeds?name=list.csv",
		fmt.Sprintf("ref,title,cost,stock,ean,brand\nA,%q,4.00,7,%s,%s\n", s.entry.Title, s.entry.GTIN, s.entry.Brand),
	)
	do(200, "POST", "/api/v1/feeds/1/take", `{"source_id":1,"once":true}`)
	do(
		200,
		"PUT",
		"/api/v1/sites/1/fees",
		`{"category":"mugs","starts_on":"2030-01-01","fees":[{"name":"commission","of":"total","rate":"20%"}]}`,
	)

	settings := e.ask("GET", "/api/v1/sources/1/settings", "")
	assert.Equal(t, `"1"`, settings.header.Get("ETag"))
	rule := get[[]map[string]any](e, "/api/v1/sites/1/rules")[0]
	ruleText := func(name string) string {
		return fmt.Sprintf(`{"id":%v,"name":%q,"rule":{"aims":[{"kind":"margin","value":"21%%"}],"keep":[]}}`, rule["id"], name)
	}
	for _, c := range []struct {
		what, method, path, body string
		shows                    string // of what is there now
	}{
		{"a rule", "POST", "/api/v1/sites/1/rules", ruleText("Mine"), `"name":"Mine"`},
		{"fees", "PUT", "/api/v1/sites/1/fees", `{"category":"mugs","starts_on":"2030-01-01","fees":[{"name":"commission","of":"total","rate":"22%"}]}`, `"rate":"22%"`},
		{"terms", "PUT", "/api/v1/sites/1/terms", `{"charged":"1.00","outbound":"2.85"}`, `"charged":"1.00"`},
		{"following", "PUT", "/api/v1/sites/1/policy", `{"figures":{"small":"1%"},"runs":"by hand","most_at_once":0,"most_a_day":0,"batch_hours":6}`, `"small":"1%"`},
		{"a watch", "PUT", "/api/v1/watches/1", `{"mail":true,"active":true,"once":false}`, `"mail":true`},
		{"mail", "PUT", "/api/v1/mail-settings", `{"host":"mail.example","port":587,"security":"tls","from":"a@b.example","to":"a@b.example"}`, `"host":"mail.example"`},
		{"settings", "PUT", "/api/v1/sources/1/settings", edited(t, settings.text, "every", 30), `"every":30`},
		{"a listing", "PUT", "/api/v1/listings/1/former-price", `{"former":"99.00"}`, `"former":9900`},
		{"what is kept", "PUT", "/api/v1/retention", `{"days":{"runs":40}}`, `"days":40`},
	} {
		version := e.version(c.what)
		first := e.ask(c.method, c.path, c.body, header("If-Match", version))
		require.Equal(t, 200, first.status, "%s: %s", c.what, first.text)
		s.settle(s.events)
		assert.NotEqual(t, version, e.version(c.what), "%s has another version now", c.what)
		late := e.ask(c.method, c.path, c.body, header("If-Match", version))
		assert.Equal(t, 412, late.status, "%s: %s", c.what, late.text)
		detail, location := late.problem(t)
		assert.Contains(t, detail, "changed by somebody else")
		assert.Equal(t, "current", location, c.what)
		assert.Contains(t, late.text, c.shows, "%s as it is now", c.what)
		assert.Equal(t, 200, e.ask(c.method, c.path, c.body, header("If-Match", e.version(c.what))).status, "%s, once it was seen", c.what)
		assert.Equal(t, 200, e.ask(c.method, c.path, c.body).status, "%s by a script that asks for no more", c.what)
	}
}

// edited is a JSON object with one of its values changed.
func edited(t *testing.T, text, key string, value any) string {
	var all map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &all))
	all[key] = value
	delete(all, "version")
	out, err := json.Marshal(all)
	require.NoError(t, err)
	return string(out)
}

// version is what If-Match takes of a thing now.
func (e *edge) version(what string) string {
	of := func(row map[string]any) string { return fmt.Sprintf(`"%v"`, row["version"]) }
	switch what {
	case "a rule":
		return of(get[[]map[string]any](e, "/api/v1/sites/1/rules")[0])
	case "fees":
		for _, f := range get[[]map[string]any](e, "/api/v1/sites/1/fees") {
			if f["starts_on"] == "2030-01-01" {
				return of(f)
			}
		}
	case "a watch":
		return of(get[[]map[string]any](e, "/api/v1/watches")[0])
	case "mail":
		return e.ask("GET", "/api/v1/mail-settings", "").header.Get("ETag")
	case "following":
		return e.ask("GET", "/api/v1/sites/1/policy", "").header.Get("ETag")
	case "terms":
		return of(get[[]map[string]any](e, "/api/v1/sites")[0])
	case "settings":
		return e.ask("GET", "/api/v1/sources/1/settings", "").header.Get("ETag")
	case "a listing":
		return of(rows(e, "/api/v1/listings")[0])
	case "what is kept":
		return e.ask("GET", "/api/v1/retention", "").header.Get("ETag")
	}
	e.t.Fatal("no version of " + what)
	return ""
}
