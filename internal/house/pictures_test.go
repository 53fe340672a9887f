package house_test

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	_, err := w.bringIn(
		"Tidewrack",
		"ref,title,cost,images\nA,Thing,1.00,"+strings.Join(
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
		)+"\n",
	)
	require.NoError(t, err)
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
