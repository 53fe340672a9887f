package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/fault"
	"easymargin/internal/place"
	"easymargin/internal/sim"
	"easymargin/internal/store"
)

func (l *lantern) readBack() {
	require.NoError(l.t, l.Sending.ReadBack(l.t.Context(), l.here.ID))
	l.idle()
}

func (l *lantern) said() []store.WordDifferenceRow {
	list, err := l.Store.WordDifferences(l.t.Context(), store.Page{Limit: 9})
	require.NoError(l.t, err)
	return list.Rows
}

// somebody has changed what a listing of ours says at Lantern Row.
func (l *lantern) elsewhere(sku string, change func(c *sim.Content)) {
	l.row.Rewrite("GB", sku, change)
}

// What was changed at the place is laid beside what was sent, field by field: of
// a field theirs is kept as if a person had said it, the rest goes as ours again.
func TestWhatIsSaidThereIsLaidBeside(t *testing.T) {
	l, ids := onSale(t, 2)
	l.readBack()
	assert.Empty(t, l.said(), "all is as it was sent")
	sku := l.one(ids[0]).SKU
	wanted := l.row.Contents("GB")[sku].Title
	l.elsewhere(sku, func(c *sim.Content) {
		c.Title, c.Description = "Somebody else's title", "Their words of it."
		c.Attributes["colour"] = "Rust red"
	})
	l.readBack()
	rows := l.said()
	require.Len(t, rows, 1)
	assert.Equal(t, []string{"attributes.colour", "description", "title"}, rows[0].Fields)
	l.readBack()
	require.Len(t, l.said(), 1, "told once")
	beside, err := l.Preparing.Beside(t.Context(), ids[0])
	require.NoError(t, err)
	require.Len(t, beside, 3)
	assert.Equal(t, [4]any{"title", wanted, "Somebody else's title", wanted},
		[4]any{beside[2].Field, beside[2].Sent, beside[2].There, beside[2].Wanted})
	assert.Equal(t, []string{"attributes.colour", "description", "title"}, l.one(ids[0]).Changed, "as they are there, ours would change all")

	require.NoError(t, l.Preparing.Settle(t.Context(), ids[:1], []string{"description", "attributes.colour"}))
	l.idle()
	assert.Empty(t, l.said())
	assert.Equal(t, []string{"title"}, l.one(ids[0]).Changed, "ours of the rest")
	assert.Equal(t, int64(1), l.sendWords(nil))
	now := l.row.Contents("GB")[sku]
	assert.Equal(t, [3]string{strings.Replace(wanted, "Moss green", "Rust red", 1), "Their words of it.", "Rust red"}, [3]string{now.Title, now.Description, now.Attributes["colour"]})
	l.readBack()
	assert.Empty(t, l.said())
	assert.Equal(t, fault.Conflict, fault.KindOf(l.Preparing.Settle(t.Context(), ids[:1], nil)), "nothing to decide on")
}

// Put back there by whoever changed it, it is as it was; sent over, it is ours.
func TestWhatIsPutBackThereIsForgotten(t *testing.T) {
	l, ids := onSale(t, 1)
	sku := l.one(ids[0]).SKU
	before := l.row.Contents("GB")[sku].Title
	l.elsewhere(sku, func(c *sim.Content) { c.Title = "Otherwise" })
	l.readBack()
	require.Len(t, l.said(), 1)
	l.elsewhere(sku, func(c *sim.Content) { c.Title = before })
	l.readBack()
	assert.Empty(t, l.said())
	assert.Empty(t, l.one(ids[0]).Changed)

	l.elsewhere(sku, func(c *sim.Content) { c.Title = "Otherwise again" })
	l.readBack()
	require.Len(t, l.said(), 1)
	l.later(15 * time.Minute)
	assert.Equal(t, int64(1), l.sendWords(nil), "ours, without deciding first")
	assert.Empty(t, l.said())
	assert.Equal(t, before, l.row.Contents("GB")[sku].Title)
}

// Only what a place tells counts; pictures are copies of ours where they are as many.
func TestWhatAPlaceDoesNotTellIsNoDifference(t *testing.T) {
	ours := &place.Content{Title: "Mug", Description: "Long", Brand: "Skarholt", Pictures: []string{"sha256:a", "sha256:b"}, Words: []string{"hill", "tea"}}
	theirs := &place.Content{Title: "Mug", Pictures: []string{"https://pictures.example/1", "https://pictures.example/2"}, Words: []string{"hill"}}
	got, err := place.BesideOf(ours, theirs)
	require.NoError(t, err)
	assert.Equal(t, []place.Beside{{Field: "words", Ours: "hill, tea", Theirs: "hill"}}, got)
	now, err := place.With(ours, theirs)
	require.NoError(t, err)
	assert.Equal(t, &place.Content{Title: "Mug", Description: "Long", Brand: "Skarholt", Pictures: ours.Pictures, Words: []string{"hill"}}, now)
	theirs.Pictures = theirs.Pictures[:1]
	got, err = place.BesideOf(ours, theirs)
	require.NoError(t, err)
	assert.Contains(t, got, place.Beside{Field: "pictures", Ours: "2", Theirs: "1"})
	text, err := json.Marshal(ours)
	require.NoError(t, err)
	assert.Contains(t, string(text), "sha256:b", "ours is left as it was")
}
