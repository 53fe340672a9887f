package market_test

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/market"
)

// A gateway may misbehave in any way; what it means is told apart: later, or no.
func TestWhatAGatewaysAnswerMeans(t *testing.T) {
	for name, c := range map[string]struct {
		status int
		body   string
		later  bool
		words  string
	}{
		"down":         {503, "", true, "503"},
		"too busy":     {429, "", true, "429"},
		"a proxy":      {200, "<html>sign in</html>", true, "can't be read"},
		"cut off":      {200, `{"sites":[`, true, "can't be read"},
		"endless":      {200, strings.Repeat(" ", 33<<20), true, "32 MiB"},
		"no":           {400, `{"detail":"at most 100 numbers in one look-up"}`, false, "Quaymarket refused: at most 100 numbers"},
		"no, wordless": {403, "", false, "403"},
	} {
		s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			w.WriteHeader(c.status)
			_, _ = io.WriteString(w, c.body)
		}))
		_, err := market.NewGateway("Quaymarket", s.URL).Sites(t.Context())
		s.Close()
		require.Error(t, err, name)
		assert.Equal(t, c.later, market.MayWorkLater(err), name)
		assert.Contains(t, err.Error(), c.words, name)
	}
	_, err := market.NewGateway("Quaymarket", "http://127.0.0.1:1").Sites(t.Context())
	assert.True(t, market.MayWorkLater(err))
	assert.NotContains(t, err.Error(), "Get \"", "words for people")
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = market.NewGateway("Quaymarket", "http://127.0.0.1:1").Sites(ctx)
	assert.ErrorIs(t, err, context.Canceled)
}

func TestWhatIsAskedOfAGateway(t *testing.T) {
	var asked []string
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		asked = append(asked, strings.TrimSpace(r.Method+" "+r.URL.String()+" "+r.Header.Get("Idempotency-Key")+" "+string(body)))
		_, _ = io.WriteString(w, `{"id":"B1","state":"done","lines":[{"key":"k-1","state":"refused","words":"no"}]}`)
	}))
	defer s.Close()
	g := market.NewGateway("Q", s.URL+"/")
	_, err := g.EntriesByNumber(t.Context(), "GB", []string{"09520000000011", "09520000000028"})
	require.NoError(t, err)
	_, err = g.EntriesByWords(t.Context(), "GB", "mug & lid")
	require.NoError(t, err)
	_, err = g.Entry(t.Context(), "GB", "a/b?c")
	require.NoError(t, err)
	offers, err := g.Offers(t.Context(), "GB", []string{"Q7-1", "Q7-2"})
	require.NoError(t, err)
	assert.Empty(t, offers, "entries that aren't answered have none")
	price := int64(1999)
	b, err := g.Send(t.Context(), "GB", "key", []market.Line{{Key: "k-1", SKU: "S", Entry: "E", Price: &price}})
	require.NoError(t, err)
	assert.Equal(t, "no", b.Lines[0].Words)
	assert.Equal(t, []string{
		"GET /gateway/v1/sites/GB/entries?gtin=09520000000011%2C09520000000028",
		"GET /gateway/v1/sites/GB/entries?words=mug+%26+lid",
		"GET /gateway/v1/sites/GB/entries/a%2Fb%3Fc",
		"GET /gateway/v1/sites/GB/offers?entries=Q7-1%2CQ7-2",
		`POST /gateway/v1/sites/GB/batches key {"lines":[{"key":"k-1","sku":"S","entry":"E","price":1999}]}`,
	}, asked)
}
