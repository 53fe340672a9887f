package fetch_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/fetch"
)

// A file is given whole to the address that was said, and to no other: neither to
// where it points nor, without leave, into this network.
func TestAFileIsGivenToItsAddressAlone(t *testing.T) {
	var got []string
	var auth, media string
	status, location := http.StatusCreated, ""
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(r.Body)
		assert.NoError(t, err)
		got, media = append(got, r.Method+" "+r.URL.Path+" "+string(body)), r.Header.Get("Content-Type")
		auth, _, _ = r.BasicAuth()
		if location != "" {
			w.Header().Set("Location", location)
		}
		w.WriteHeader(status)
		_, _ = io.WriteString(w, strings.Repeat("no room ", 100))
	}))
	t.Cleanup(srv.Close)
	q := fetch.Request{Address: srv.URL + "/in/stock.csv", Username: "saltmarsh", Password: "sesame"}
	f := fetch.New(nil)
	err := f.Put(t.Context(), q, "text/csv", []byte("sku\n"))
	assert.ErrorContains(t, err, "--allow")
	assert.Empty(t, got, "an address of this network is left alone")

	f.Allow(strings.TrimPrefix(srv.URL, "http://"))
	require.NoError(t, f.Put(t.Context(), q, "text/csv", []byte("sku\nA-1\n")))
	assert.Equal(t, []string{"PUT /in/stock.csv sku\nA-1\n"}, got)
	assert.Equal(t, [2]string{"saltmarsh", "text/csv"}, [2]string{auth, media})

	status, location, got = http.StatusTemporaryRedirect, srv.URL+"/elsewhere", nil
	err = f.Put(t.Context(), q, "text/csv", []byte("sku\n"))
	assert.ErrorContains(t, err, "307")
	assert.Len(t, got, 1, "it isn't sent on")

	status, location = http.StatusInsufficientStorage, ""
	err = f.Put(t.Context(), q, "text/csv", []byte("sku\n"))
	assert.Equal(t, fault.Unavailable, fault.KindOf(err))
	assert.ErrorContains(t, err, "no room")
	assert.Less(t, len(err.Error()), 500, "no more of what it says than a person reads")

	for _, address := range []string{"ftp://host/in", "stock.csv", "http://"} {
		assert.ErrorContains(t, f.Put(t.Context(), fetch.Request{Address: address}, "text/csv", nil), "not an address", address)
	}
	srv.Close()
	assert.ErrorContains(t, f.Put(t.Context(), q, "text/csv", nil), "can't be reached")
}
