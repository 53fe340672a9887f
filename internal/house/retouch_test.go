package house_test

import (
	"bytes"
	"image/color"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/disintegration/imaging"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/retouch"
	"easymargin/internal/stops"
	"easymargin/internal/stops/preparing"
	"easymargin/internal/stops/sending"
	"easymargin/internal/store"
)

// block is a picture of so many pixels, of one colour.
func block(t *testing.T, w, h int, c color.Color) []byte {
	var b bytes.Buffer
	require.NoError(t, imaging.Encode(&b, imaging.New(w, h, c), imaging.JPEG))
	return b.Bytes()
}

// pictured has the place ask for two square pictures of 400 pixels, and gives one
// listing all else that it needs.
func pictured(t *testing.T) (*lantern, int64) {
	l := newLantern(t, 2)
	d := asks(60)
	d["cooking"]["pictures"] = map[string]any{"least": 2, "most": 4, "side": 400, "square": true, "kinds": []string{"jpeg", "png"}}
	l.row.Demands = d
	require.NoError(t, l.Preparing.ReadDemands(t.Context(), l.here.ID))
	l.idle()
	id := l.queue("")[0].ListingID
	l.say(id, "attributes.condition", "New")
	l.say(id, "attributes.colour", "Moss green")
	return l, id
}

func (l *lantern) choose(id int64, list ...preparing.PictureChoice) preparing.PreparedView {
	v, err := l.Preparing.Choose(l.t.Context(), id, list)
	require.NoError(l.t, err)
	l.idle()
	return v
}

func TestPicturesAPersonBringsGoUpAsTheyWereMade(t *testing.T) {
	l, id := pictured(t)
	assert.Contains(t, l.one(id).Other, "pictures are too few")
	one, err := l.Preparing.AddPicture(t.Context(), block(t, 600, 400, color.White))
	require.NoError(t, err)
	two, err := l.Preparing.AddPicture(t.Context(), block(t, 800, 800, color.Black))
	require.NoError(t, err)
	v := l.choose(id, preparing.PictureChoice{Original: one.Digest}, preparing.PictureChoice{Original: two.Digest, Text: "From above"})
	assert.Equal(t, []string{"it is not square", ""}, []string{v.Pictures[0].Words, v.Pictures[1].Words})
	assert.Equal(t, store.ListingIncomplete, v.State)

	square := retouch.Recipe{Turn: 90, Shape: "square"}
	v = l.choose(id, preparing.PictureChoice{Original: two.Digest, Text: "From above"}, preparing.PictureChoice{Original: one.Digest, Recipe: square})
	assert.Equal(t, [2]int64{400, 400}, [2]int64{v.Pictures[1].Width, v.Pictures[1].Height})
	assert.Equal(t, one.Digest, v.Pictures[1].Original, "the original stays")
	assert.NotEqual(t, one.Digest, v.Pictures[1].Digest)
	v = l.one(id)
	assert.Zero(t, v.Stops, "%v", v.Other)

	l.sendAll()
	said := l.row.Contents("GB")[v.SKU]
	require.NotNil(t, said, "it went")
	assert.Equal(t, []string{"sha256:" + two.Digest, "sha256:" + v.Pictures[1].Digest}, said.Pictures, "in a person's order")
	assert.Equal(t, []string{"From above", v.Title + ", view 2"}, said.Texts)
	assert.Equal(t, 2, l.row.Uploaded())
}

// What a place hasn't got any more is given to it once more.
func TestPicturesThatAPlaceLostAreUploadedAgain(t *testing.T) {
	l, id := pictured(t)
	p, err := l.Preparing.AddPicture(t.Context(), block(t, 500, 500, color.Black))
	require.NoError(t, err)
	l.choose(id, preparing.PictureChoice{Original: p.Digest}, preparing.PictureChoice{Original: p.Digest, Recipe: retouch.Recipe{Mirror: true}})
	require.NoError(t, l.Store.Do(t.Context(), func(tx store.Tx) error {
		for _, x := range l.one(id).Pictures {
			if err := tx.PutUpload(l.here.MarketplaceID, x.Digest, l.clock.Now()); err != nil {
				return err
			}
		}
		return nil
	}))
	sku := l.one(id).SKU
	l.sendAll()
	require.Nil(t, l.row.Contents("GB")[sku], "the place says that it has none of them")
	_, err = l.Sending.SendListings(t.Context(), []int64{id}, sending.How{}) // once more, as a person who saw why does
	require.NoError(t, err)
	l.idle()
	assert.NotNil(t, l.row.Contents("GB")[sku])
	assert.Equal(t, 2, l.row.Uploaded())
}

func TestCaptionsAreRefusedWhereThePlaceForbidsThem(t *testing.T) {
	l, id := pictured(t)
	p, err := l.Preparing.AddPicture(t.Context(), block(t, 500, 500, color.Black))
	require.NoError(t, err)
	forbid := func(on bool) {
		require.NoError(t, l.Store.Do(t.Context(), func(tx store.Tx) error { return tx.Update(&l.here, map[string]any{"no_marks": on}) }))
	}
	forbid(false)
	marked := []preparing.PictureChoice{{Original: p.Digest, Recipe: retouch.Recipe{Caption: "New"}}, {Original: p.Digest}}
	l.choose(id, marked...)
	assert.Zero(t, l.one(id).Stops)

	forbid(true)
	assert.Equal(t, "it has a caption, which the place forbids", l.one(id).Pictures[0].Words, "and what was there already is stopped")
	assert.Equal(t, 1, l.one(id).Stops)
	_, err = l.Preparing.Choose(t.Context(), id, marked)
	assert.ErrorContains(t, err, "forbids captions and marks on pictures; take the caption of picture 1 away")
	_, err = l.Preparing.Retouch(t.Context(), []int64{id}, marked[0].Recipe)
	assert.ErrorContains(t, err, "forbids captions")
}

func TestTheSameIsDoneToThePicturesOfMany(t *testing.T) {
	l, id := pictured(t)
	other := l.queue("")[1].ListingID
	if other == id {
		other = l.queue("")[0].ListingID
	}
	wide, err := l.Preparing.AddPicture(t.Context(), block(t, 1000, 500, color.Black))
	require.NoError(t, err)
	small, err := l.Preparing.AddPicture(t.Context(), block(t, 300, 200, color.White))
	require.NoError(t, err)
	l.choose(id, preparing.PictureChoice{Original: wide.Digest, Recipe: retouch.Recipe{Turn: 180}}, preparing.PictureChoice{Original: small.Digest})
	run, err := l.Preparing.Retouch(t.Context(), []int64{id, other}, retouch.Recipe{Shape: "square", Pad: true, Side: 600})
	require.NoError(t, err)
	l.idle()
	got := l.one(id).Pictures
	assert.Equal(t, [2]int64{600, 600}, [2]int64{got[0].Width, got[0].Height})
	assert.Equal(t, 180, got[0].Recipe.Turn, "what was done to it already stays done")
	assert.Equal(t, [3]any{int64(300), int64(300), true}, [3]any{got[1].Width, got[1].Height, got[1].Small}, "never enlarged unsaid")
	done, err := store.Get[store.Run](t.Context(), l.Store, run.ID)
	require.NoError(t, err)
	assert.Contains(t, done.Note, "2 pictures made; 1 listing left as they were:")
	assert.Contains(t, done.Note, "has no pictures")

	v, err := l.Preparing.Choose(t.Context(), id, nil)
	require.NoError(t, err)
	assert.Empty(t, v.Pictures, "taken back, the supplier's stand there again: none")
}

func TestWhatIsNoPictureIsRefused(t *testing.T) {
	l, id := pictured(t)
	_, err := l.Preparing.AddPicture(t.Context(), []byte("<svg onload=alert(1)>"))
	assert.ErrorContains(t, err, "no picture in PNG, JPEG, GIF or WebP")
	_, err = l.Preparing.FetchPicture(t.Context(), "http://10.0.0.1/x.png")
	assert.ErrorContains(t, err, "private network")
	_, err = l.Preparing.Choose(t.Context(), id, []preparing.PictureChoice{{Original: strings.Repeat("0", 64)}})
	kind, _ := stops.StatusOf(err)
	assert.Equal(t, http.StatusNotFound, kind)
	p, err := l.Preparing.AddPicture(t.Context(), block(t, 50, 50, color.White))
	require.NoError(t, err)
	_, err = l.Preparing.Choose(t.Context(), id, []preparing.PictureChoice{{Original: p.Digest}, {Original: p.Digest}})
	assert.ErrorContains(t, err, "picture 2 stands there twice")
	assert.Equal(t, fault.Invalid, fault.KindOf(err))
	_, err = l.Preparing.Look(t.Context(), p.Digest, []byte(`{"turn":5}`))
	assert.ErrorContains(t, err, "90, 180 or 270")
}

func TestAPictureFromAnAddress(t *testing.T) {
	l, _ := pictured(t)
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write(block(t, 120, 90, color.White)) }))
	defer shop.Close()
	l.House.Fetch.Allow(strings.TrimPrefix(shop.URL, "http://"))
	p, err := l.Preparing.FetchPicture(t.Context(), shop.URL+"/mug.jpg")
	require.NoError(t, err)
	assert.Equal(t, [2]int64{120, 90}, [2]int64{p.Width, p.Height})
}
