package gateway_test

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/place/gateway"
)

// quick is a client that asks twice, at once.
var quick = gateway.Options{Tries: 2, First: time.Nanosecond}

func serve(t *testing.T, h http.HandlerFunc) string {
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return s.URL
}

// A gateway may misbehave in any way; what it means is told apart: later, no,
// or perhaps done all the same.
func TestWhatAGatewaysAnswerMeans(t *testing.T) {
	for name, c := range map[string]struct {
		status  int
		body    string
		later   bool
		perhaps bool
		words   string
	}{
		"down":         {503, "", true, true, "503"},
		"too busy":     {429, "", true, false, "429"},
		"a proxy":      {200, "<html>sign in</html>", true, true, "can't be read"},
		"cut off":      {200, `{"id":[`, true, true, "can't be read"},
		"nameless":     {200, `{"state":"working"}`, true, true, "names no batch"},
		"endless":      {200, strings.Repeat(" ", 33<<20), true, true, "32 MiB"},
		"no":           {400, `{"detail":"at most 100 numbers in one look-up"}`, false, false, "Quaymarket refused: at most 100 numbers"},
		"no, wordless": {403, "", false, false, "403"},
		"elsewhere":    {307, "", false, false, "not followed"},
	} {
		at := serve(t, func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Location", "http://elsewhere.example/")
			w.WriteHeader(c.status)
			_, _ = io.WriteString(w, c.body)
		})
		p := gateway.Dial("Quaymarket", at, quick)
		_, err := p.Outlet.HandOver(t.Context(), "GB", "key", []place.Line{{Key: "key-1"}})
		require.Error(t, err, name)
		assert.Equal(t, c.later, fault.KindOf(err) == fault.Unavailable, name)
		assert.Equal(t, c.perhaps, place.Perhaps(err), name)
		assert.Contains(t, err.Error(), c.words, name)
		if c.perhaps {
			assert.Contains(t, err.Error(), "perhaps changed", name)
			assert.NotContains(t, err.Error(), "nothing was changed", name)
		}
		if name == "elsewhere" || name == "nameless" {
			continue // a question may be sent on, and need not name a batch
		}
		_, err = p.Directory.Sites(t.Context())
		require.Error(t, err, name)
		assert.False(t, place.Perhaps(err), "%s: a question changes nothing", name)
	}
	_, err := gateway.Dial("Quaymarket", "http://127.0.0.1:1", quick).Outlet.HandOver(t.Context(), "GB", "key", nil)
	assert.False(t, place.Perhaps(err), "it was never reached")
	assert.Contains(t, err.Error(), "nothing was changed there")
	assert.NotContains(t, err.Error(), "Post \"", "words for people")
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = gateway.Dial("Quaymarket", "http://127.0.0.1:1", quick).Directory.Sites(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}

// A batch that may have arrived once stays a perhaps, whatever comes after it.
func TestAPerhapsStaysOne(t *testing.T) {
	asked := atomic.Int64{}
	at := serve(t, func(w http.ResponseWriter, _ *http.Request) {
		if asked.Add(1) == 1 {
			_, _ = io.WriteString(w, `{"id":"B1","st`) // taken, and the answer lost
			return
		}
		w.WriteHeader(http.StatusTooManyRequests)
	})
	_, err := gateway.Dial("Q", at, quick).Outlet.HandOver(t.Context(), "GB", "key", nil)
	assert.True(t, place.Perhaps(err))
	asked.Store(0)
	gone := serve(t, func(w http.ResponseWriter, r *http.Request) {
		if asked.Add(1) == 1 {
			panic(http.ErrAbortHandler) // the line is cut after it was read
		}
		w.WriteHeader(http.StatusBadRequest)
	})
	_, err = gateway.Dial("Q", gone, quick).Outlet.HandOver(t.Context(), "GB", "key", nil)
	assert.True(t, place.Perhaps(err), "a no to the second says nothing of the first")
}

// While it may work later it is asked again, with the same key; a place that
// says how long to wait is left alone by everybody, and waited for.
func TestAGatewayIsAskedAgain(t *testing.T) {
	keys := make(chan string, 9)
	fails := atomic.Int64{}
	at := serve(t, func(w http.ResponseWriter, r *http.Request) {
		keys <- r.Header.Get("Idempotency-Key")
		if fails.Add(-1) >= 0 {
			w.WriteHeader(http.StatusServiceUnavailable)
			return
		}
		_, _ = io.WriteString(w, `{"id":"B1","state":"working","lines":[]}`)
	})
	fails.Store(2)
	b, err := gateway.Dial("Q", at, gateway.Options{Tries: 3, First: time.Nanosecond}).Outlet.HandOver(t.Context(), "GB", "k1", nil)
	require.NoError(t, err)
	assert.Equal(t, "B1", b.ID)
	assert.Equal(t, []string{"k1", "k1", "k1"}, []string{<-keys, <-keys, <-keys})

	fails.Store(0)
	began, first := time.Now(), atomic.Bool{}
	busy := serve(t, func(w http.ResponseWriter, _ *http.Request) {
		if first.CompareAndSwap(false, true) {
			w.Header().Set("Retry-After", "1")
			w.WriteHeader(http.StatusTooManyRequests)
			return
		}
		_, _ = io.WriteString(w, `{"sites":[]}`)
	})
	p := gateway.Dial("Q", busy, gateway.Options{Tries: 1})
	_, err = p.Directory.Sites(t.Context())
	require.NoError(t, err, "how often it is tried doesn't count what it asked to wait for")
	assert.GreaterOrEqual(t, time.Since(began), time.Second)
}

func TestWhatIsAskedOfAGateway(t *testing.T) {
	var asked []string
	at := serve(t, func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		assert.NoError(t, err)
		asked = append(asked, strings.TrimSpace(r.Method+" "+r.URL.String()+" "+r.Header.Get("Idempotency-Key")+" "+string(body)))
		_, _ = io.WriteString(
			w,
			`{"id":"B1","state":"done","next":"n","lines":[{"key":"k-1","state":"refused","words":"no"}],"listings":[{"sku":"S","entry":"E","price":5,"quantity":2}]}`,
		)
	})
	g := gateway.Dial("Q", at+"/", quick)
	_, err := g.Catalogue.EntriesByNumber(t.Context(), "GB", []string{"09520000000011", "09520000000028"})
	require.NoError(t, err)
	_, err = g.Catalogue.EntriesByWords(t.Context(), "GB", "mug & lid")
	require.NoError(t, err)
	_, err = g.Catalogue.Entry(t.Context(), "GB", "a/b?c")
	require.NoError(t, err)
	offers, err := g.Rivals.Offers(t.Context(), "GB", []string{"Q7-1", "Q7-2"})
	require.NoError(t, err)
	assert.Empty(t, offers, "entries that aren't answered have none")
	price := int64(1999)
	b, err := g.Outlet.HandOver(t.Context(), "GB", "key", []place.Line{{Key: "k-1", SKU: "S", Entry: "E", Price: &price}})
	require.NoError(t, err)
	assert.Equal(t, "no", b.Lines[0].Words)
	there, next, err := g.Outlet.Listings(t.Context(), "GB", "m n")
	require.NoError(t, err)
	assert.Equal(t, []any{[]place.Listing{{SKU: "S", Entry: "E", Price: 5, Quantity: 2}}, "n"}, []any{there, next})
	_, _, err = g.Orders.Orders(t.Context(), "GB", "")
	require.NoError(t, err)
	assert.Equal(t, []string{
		"GET /gateway/v1/sites/GB/entries?gtin=09520000000011%2C09520000000028",
		"GET /gateway/v1/sites/GB/entries?words=mug+%26+lid",
		"GET /gateway/v1/sites/GB/entries/a%2Fb%3Fc",
		"GET /gateway/v1/sites/GB/offers?entries=Q7-1%2CQ7-2",
		`POST /gateway/v1/sites/GB/batches key {"lines":[{"key":"k-1","sku":"S","entry":"E","price":1999}]}`,
		"GET /gateway/v1/sites/GB/listings?after=m+n&limit=1000",
		"GET /gateway/v1/sites/GB/orders",
	}, asked)
}
