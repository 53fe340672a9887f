package house_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/demo"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/stops/sources"
	"easymargin/internal/store"
)

func drawn(t *testing.T, w, h int) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, w, h))))
	return b.Bytes()
}

// Pictures are fetched, checked, kept once, and shown small; what is wrong with
// one is said with it.
func TestPicturesAreFetchedAndChecked(t *testing.T) {
	w := newWorld(t, "pictures")
	big, small := drawn(t, 700, 350), drawn(t, 90, 60)
	serve := map[string][]byte{"/a.png": big, "/b.png": big, "/small.png": small, "/text.png": []byte("ref,title\n"), "/cut.png": big[:60]}
	shop := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if body, ok := serve[r.URL.Path]; ok {
			_, _ = rw.Write(body)
			return
		}
		http.NotFound(rw, r)
	}))
	defer shop.Close()
	w.House.Fetch.Allow(strings.TrimPrefix(shop.URL, "http://"))
	at := shop.URL
	text := "ref,title,cost,images\nA,Thing,1.00," + strings.Join(
		[]string{
			at + "/a.png",
			at + "/b.png",
			at + "/small.png",
			at + "/text.png",
			at + "/cut.png",
			at + "/none.png",
			"http://10.0.0.1/x.png",
		},
		"|",
	) + "\n"
	s, err := w.Sources.Make(t.Context(), sources.NewSource{Supplier: "Tidewrack", Currency: "GBP", Charge: "0", Tax: "without"})
	require.NoError(t, err)
	set, err := w.Sources.Settings(t.Context(), s.ID)
	require.NoError(t, err)
	set.LookUp = false // or it would wait on Match, where pictures are looked at
	require.NoError(t, w.Sources.SetSettings(t.Context(), s.ID, stops.IfMatch{}, set))
	f, err := w.Sources.BringIn(t.Context(), strings.NewReader(text), sources.Arriving{Name: "t.csv"})
	require.NoError(t, err)
	w.take(f.ID, s.ID, true)
	id := w.find("thing")[0].ID
	assert.Empty(t, w.item(id).Pictures, "nothing is fetched for what is neither ours nor kept")
	require.NoError(t, w.Sources.Keep(t.Context(), id, ""))
	w.idle()
	got := w.item(id).Pictures
	require.Len(t, got, 7)
	assert.Equal(t, [3]any{store.PictureKept, int64(700), ""}, [3]any{got[0].State, got[0].Width, got[0].Why})
	assert.Equal(t, got[0].Digest, got[1].Digest, "the same picture is kept once")
	assert.Equal(t, "90 pixels long; 500 are asked for", got[2].Why)
	for i, want := range map[int]string{3: "no picture in PNG", 4: "broken", 5: "404", 6: "private network"} {
		assert.Equal(t, store.PictureFailed, got[i].State)
		assert.Contains(t, got[i].Why, want)
	}
	thumb, err := os.ReadFile(w.Store.PictureFile(got[0].Digest, true))
	require.NoError(t, err)
	cfg, err := png.DecodeConfig(bytes.NewReader(thumb))
	require.NoError(t, err)
	assert.Equal(t, [2]int{160, 80}, [2]int{cfg.Width, cfg.Height})
}

func (w *world) item(id int64) sources.SupplierItem {
	x, err := w.Sources.SupplierItem(w.t.Context(), id)
	require.NoError(w.t, err)
	return x
}

// At the desk both sides are seen: what waits there has its picture fetched, and
// so have the entries it may be; in lists a product without a supplier's picture
// has its entry's.
func TestThingsAreSeenWhereTheyAreDecided(t *testing.T) {
	w := newWorld(t, "pictures")
	site, err := w.Store.SiteOf(t.Context(), w.site.ID)
	require.NoError(t, err)
	address, err := url.Parse(site.Marketplace.Address)
	require.NoError(t, err)
	w.House.Fetch.Allow(address.Host)
	several := demo.Quaymarket(w.clock).Entries
	twice := several[slices.IndexFunc(several, func(e *sim.Entry) bool { return e.Units == 2 })] // two entries with one number
	sole := several[slices.IndexFunc(several, func(e *sim.Entry) bool { return e.Units == 1 && !e.Leave && e.GTIN != twice.GTIN })]
	_, err = w.bringIn("Brindlewick", "ref,title,brand,cost,stock,ean,images\nA,Twice,,1.00,5,"+twice.GTIN+","+address.Scheme+"://"+address.Host+
		"/pic/mugs-ours.png\n"+fmt.Sprintf("B,%q,%s,9.00,5,%s,\n", sole.Title, sole.Brand, sole.GTIN))
	require.NoError(t, err)
	w.idle()
	list, err := w.Store.Matches(t.Context(), []string{"several", "none"}, store.Page{Limit: 10})
	require.NoError(t, err)
	require.Len(t, list.Rows, 1)
	assert.NotEmpty(t, list.Rows[0].Picture, "what waits is seen")
	choices, err := w.Matching.Candidates(t.Context(), list.Rows[0].ID, "")
	require.NoError(t, err)
	require.Len(t, choices, 2)
	for _, c := range choices {
		assert.NotEmpty(t, c.Picture, "and so is %s", c.Title)
	}
	listed := w.listings(store.ListingFilter{})
	require.Len(t, listed, 1)
	assert.NotEmpty(t, listed[0].Picture, "the entry's, where no supplier shows what it is")

	// Found by words: fetched because somebody looks, and seen the next time.
	look := func() string {
		found, err := w.Matching.Candidates(t.Context(), list.Rows[0].ID, "quilt down winter")
		require.NoError(t, err)
		for _, c := range found {
			if c.ByWord {
				return c.Picture
			}
		}
		return "none found"
	}
	assert.Empty(t, look())
	w.idle()
	assert.Len(t, look(), 64, "a digest")
}
