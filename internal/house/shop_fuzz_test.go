package house_test

import (
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/store"
)

// FuzzShopForms sends any text in any field of the own shop's forms, and asks for any
// of its pages. No page fails by it, whatever is bought was there, and the data agree
// with themselves.
func FuzzShopForms(f *testing.F) {
	x := tillOf(stallIn(f, f.TempDir(), 2, "pictures"), 90)
	for _, quantity := range []string{"1", "99", "-1", "9223372036854775807", "1e3", "\x00", "١"} {
		f.Add("/basket", x.skus[0], quantity, "1", "Ada Fell", "ada@post.example", "1 Quay", "", "0")
		f.Add("/checkout", x.skus[1], quantity, "", "<b>Ada", "ada@post.example\r\nBcc: b@post.example", strings.Repeat("é", 3000), "key", "99999999999999999999")
	}
	for _, path := range []string{"/search?q=%00", "/c/%3E", "/p/..%2Fx", "/order/S-1?key=%00", "/pictures/x.y.jpg", "/search?q=%22OR&page=-9"} {
		f.Add(path, x.skus[0], "1", "1", "", "", "", "basket=x; basket=y", "0")
	}
	asks := 0
	f.Fuzz(func(t *testing.T, path, sku, quantity, add, name, mail, street, cookie, total string) {
		if asks%100 == 0 { // each some baskets, before the shop's limits are reached
			x.pages.Config.Handler = x.Shop(house.ShopAt{})
		}
		asks++
		shelf := func() map[string]store.ShopListing {
			rows, err := x.Store.Reading(t.Context()).OnShelf(x.here.ID, x.skus)
			require.NoError(t, err)
			return rows
		}
		before := shelf()
		form := url.Values{"sku": {sku}, "quantity": {quantity}, "add": {add}, "name": {name}, "mail": {mail}, "street": {street}, "more": {name}, "town": {street}, "postcode": {name}, "total": {total}}
		send := func(method, path, cookie string) *httptest.ResponseRecorder {
			at, err := url.ParseRequestURI(path)
			if err != nil || !strings.HasPrefix(at.Path, "/") {
				at = &url.URL{Path: "/"}
			}
			r := httptest.NewRequestWithContext(t.Context(), method, "http://localhost/", strings.NewReader(form.Encode()))
			r.URL, r.RequestURI, r.RemoteAddr = at, at.RequestURI(), netip.MustParseAddrPort("203.0.113.9:1").String()
			r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			if cookie != "" {
				r.Header.Set("Cookie", cookie)
			}
			w := httptest.NewRecorder()
			x.pages.Config.Handler.ServeHTTP(w, r)
			require.Less(t, w.Code, http.StatusInternalServerError, "%s %s: %s", method, path, w.Body)
			return w
		}
		send(http.MethodGet, path, cookie)
		send(http.MethodPost, path, cookie)
		own := ""
		if put := send(http.MethodPost, "/basket", ""); len(put.Result().Cookies()) > 0 {
			own = put.Result().Cookies()[0].String()
		}
		send(http.MethodGet, "/checkout", own)
		send(http.MethodPost, "/checkout", own)
		for s, row := range shelf() {
			require.GreaterOrEqual(t, row.Quantity, int64(0))
			require.LessOrEqual(t, row.Quantity, before[s].Quantity)
		}
		if asks%50 == 1 {
			list, err := x.Store.Check(t.Context())
			require.NoError(t, err)
			require.Empty(t, store.Broken(list))
		}
	})
}
