package sim_test

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/sim"
)

// selling is a stand-in with one listing of ours on sale.
func selling(t *testing.T) *sim.Marketplace {
	clock := sim.NewClock(time.Date(2026, 3, 3, 8, 40, 0, 0, time.UTC), 0)
	m := &sim.Marketplace{Clock: clock, Sites: []sim.Site{{Code: "GB", Name: "GB", Currency: "GBP", MaxLines: 9}}, Charges: map[string]int64{"GB": 250},
		Entries: []*sim.Entry{{Ref: "E-1", Title: "Enamel mug"}}}
	res := ask(t, m, http.MethodPost, "/gateway/v1/sites/GB/batches", "k", `{"lines":[{"key":"k-1","sku":"A-1","entry":"E-1","price":900,"quantity":3}]}`)
	require.Equal(t, http.StatusOK, res.Code, res.Body.String())
	clock.Forward(time.Hour)
	return m
}

func ask(t *testing.T, m *sim.Marketplace, method, path, key, body string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, path, strings.NewReader(body))
	if key != "" {
		r.Header.Set("Idempotency-Key", key)
	}
	w := httptest.NewRecorder()
	m.ServeHTTP(w, r)
	return w
}

type told struct {
	Orders []sim.Order
	Next   string
}

func orders(t *testing.T, m *sim.Marketplace, since string) told {
	res := ask(t, m, http.MethodGet, "/gateway/v1/sites/GB/orders?since="+since, "", "")
	require.Equal(t, http.StatusOK, res.Code)
	var out told
	require.NoError(t, json.Unmarshal(res.Body.Bytes(), &out))
	return out
}

// What is bought is off the shelf at once, is told once from where reading ended, and
// again only once it changed.
func TestWhatIsBoughtIsToldFromWhereReadingEnded(t *testing.T) {
	m := selling(t)
	assert.Equal(t, told{Orders: []sim.Order{}, Next: "0"}, orders(t, m, ""))
	ref, err := m.Buy("GB", "A-1", 2)
	require.NoError(t, err)
	assert.Equal(t, int64(1), m.Offered("GB", "A-1"))
	_, err = m.Buy("GB", "A-1", 2)
	assert.Error(t, err, "fewer are on sale")
	_, err = m.Buy("GB", "B-1", 1)
	assert.Error(t, err)
	first := orders(t, m, "")
	require.Len(t, first.Orders, 1)
	l := first.Orders[0].Lines[0]
	assert.Equal(t, [4]any{ref, "Enamel mug", int64(900), int64(250)}, [4]any{first.Orders[0].Ref, l.Title, l.Price, l.Delivery})
	assert.Empty(t, orders(t, m, first.Next).Orders)
	m.CallOff("GB", ref)
	again := orders(t, m, first.Next)
	require.Len(t, again.Orders, 1)
	assert.Equal(t, [2]any{"cancelled", int64(2050)}, [2]any{again.Orders[0].Lines[0].State, again.Orders[0].Lines[0].Refunded})
}

func TestManyOrdersAreToldInParts(t *testing.T) {
	m := selling(t)
	body := `{"lines":[{"key":"r-1","sku":"A-1","entry":"E-1","price":900,"quantity":99}]}`
	require.Equal(t, http.StatusOK, ask(t, m, http.MethodPost, "/gateway/v1/sites/GB/batches", "r", body).Code)
	m.Clock.Forward(time.Hour)
	for range 60 {
		_, err := m.Buy("GB", "A-1", 1)
		require.NoError(t, err)
	}
	first := orders(t, m, "")
	second := orders(t, m, first.Next)
	assert.Equal(t, [2]int{50, 10}, [2]int{len(first.Orders), len(second.Orders)})
	assert.Empty(t, orders(t, m, second.Next).Orders)
}

// What the seller answers is looked at, and a no changes nothing.
func TestAnswersAreLookedAt(t *testing.T) {
	m := selling(t)
	ref, err := m.Buy("GB", "A-1", 1)
	require.NoError(t, err)
	path := "/gateway/v1/sites/GB/orders/" + ref + "/answers"
	for body, status := range map[string]int{
		`{"lines":[{"line":"1","do":"sent","carrier":"Harbour Post"}]}`: http.StatusBadRequest,
		`{"lines":[{"line":"9","do":"cancelled"}]}`:                     http.StatusBadRequest,
		`{"lines":[{"line":"1","do":"burnt"}]}`:                         http.StatusBadRequest,
		`{"lines":`:                                                     http.StatusBadRequest,
	} {
		assert.Equal(t, status, ask(t, m, http.MethodPost, path, "k", body).Code, body)
	}
	sent := `{"lines":[{"line":"1","do":"sent","carrier":"Harbour Post","tracking":"HP-1"}]}`
	assert.Equal(t, http.StatusBadRequest, ask(t, m, http.MethodPost, path, "", sent).Code, "without a key")
	assert.Equal(t, http.StatusNotFound, ask(t, m, http.MethodPost, "/gateway/v1/sites/GB/orders/GB-9/answers", "k", sent).Code)
	assert.Empty(t, m.Ordered("GB", ref).Lines[0].State)
	require.Equal(t, http.StatusOK, ask(t, m, http.MethodPost, path, "k", sent).Code)
	require.Equal(t, http.StatusOK, ask(t, m, http.MethodPost, path, "k2", `{"lines":[{"line":"1","do":"refunded","amount":100}]}`).Code)
	l := m.Ordered("GB", ref).Lines[0]
	assert.Equal(t, [4]any{"sent", "Harbour Post", "HP-1", int64(100)}, [4]any{l.State, l.Carrier, l.Tracking, l.Refunded})
	m.CallOff("GB", ref)
	assert.Equal(t, "returned", m.Ordered("GB", ref).Lines[0].State, "what was sent comes back")

	other, err := m.Buy("GB", "A-1", 1)
	require.NoError(t, err)
	m.CallOff("GB", other)
	assert.Equal(t, http.StatusConflict, ask(t, m, http.MethodPost, "/gateway/v1/sites/GB/orders/"+other+"/answers", "k", sent).Code)
}
