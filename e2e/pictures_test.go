package e2e_test

import (
	"fmt"
	"image"
	"image/color"
	"net/http"
	"path/filepath"
	"testing"

	"github.com/disintegration/imaging"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type shownPicture struct {
	Digest, Original string
	Width, Height    int64
	Words, Seen      string
}

// A picture is brought, turned, cropped, given a caption, put first and kept; a
// place that forbids captions refuses one.
func TestAPictureCroppedTurnedMarkedAndRefused(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "30")
	before := preparations(t, p, "")[0]
	pictures := func(id int64) []shownPicture {
		return ask[struct{ Pictures []shownPicture }](t, p, fmt.Sprintf("/api/v1/preparations/%d", id)).Pictures
	}
	require.Len(t, pictures(before.ID), 1)
	s := open(t, p, fmt.Sprintf("/prepare/%d", before.ID))
	s.sees("h1", before.Title)
	s.keys('p')
	s.sees("section[aria-label=Pictures]", "The place forbids captions and marks")

	file := filepath.Join(t.TempDir(), "from above.png")
	img := imaging.Paste(imaging.New(900, 600, color.White), imaging.New(450, 600, color.Black), image.Point{})
	require.NoError(t, imaging.Save(img, file))
	s.MustElement("input[type=file]").MustSetFiles(file)
	s.sees("button[aria-label^='Picture 2'][aria-current]", "2") // the keys are for it
	s.keys('t')
	s.keys('c')
	s.MustElement(".ReactCrop__crop-selection").MustWaitVisible()
	s.MustElement(".ReactCrop__drag-handle.ord-e").MustFocus()
	s.keys(input.ArrowLeft, input.ArrowLeft, input.ArrowLeft, input.ArrowLeft)
	s.keys('c') // done
	s.keys('q') // square
	s.MustEval("() => document.activeElement.blur()")
	require.NoError(t, s.Keyboard.Press(input.ShiftLeft))
	s.keys(input.ArrowLeft)
	require.NoError(t, s.Keyboard.Release(input.ShiftLeft))
	s.write(s.labelled("To be seen"), "The quilt from above")
	s.press("Keep 2 pictures")
	s.MustWait(`() => !document.querySelector("section[aria-label=Pictures]").textContent.includes("Keep 2")`)
	got := pictures(before.ID)
	require.Len(t, got, 2)
	assert.Equal(t, "The quilt from above", got[0].Seen, "it leads now")
	assert.Equal(t, got[0].Width, got[0].Height, "square")
	assert.Less(t, got[0].Width, int64(600), "and a part of it")
	res, err := http.Get(p.URL + "/api/v1/pictures/" + got[0].Digest)
	require.NoError(t, err)
	defer res.Body.Close()
	turned, err := imaging.Decode(res.Body)
	require.NoError(t, err)
	grey := func(x, y int) uint8 { return color.GrayModel.Convert(turned.At(x, y)).(color.Gray).Y }
	size := int(got[0].Width)
	assert.Less(t, grey(size/2, 4), uint8(30), "what was left is at the top")
	assert.Greater(t, grey(size/2, size-5), uint8(220))

	caption := map[string]any{"pictures": []any{map[string]any{"original": got[0].Original, "recipe": map[string]any{"caption": "New"}}}}
	err = p.Ask(http.MethodPut, fmt.Sprintf("/api/v1/preparations/%d/pictures", before.ID), caption, nil)
	assert.ErrorContains(t, err, "forbids captions and marks on pictures; take the caption of picture 1 away")

	// Where it isn't forbidden, it is written on the picture.
	require.NoError(t, p.Ask(http.MethodPost, "/api/v1/sites/5/listings", map[string]any{"products": []int64{1}, "category": "camping"}, nil))
	other := preparation{}
	until(t, p, "it is there", func([]run) bool {
		for _, x := range ask[struct{ Rows []preparation }](t, p, "/api/v1/preparations?limit=500&part=all&site=5").Rows {
			other = x
		}
		return other.ID != 0
	})
	s.MustNavigate(fmt.Sprintf("%s/prepare/%d?as=pictures", p.URL, other.ID))
	s.sees("button[aria-label^='Picture 1']", "leads")
	plain := pictures(other.ID)[0].Digest
	s.write(s.labelled("Caption"), "Folds flat")
	s.press("Keep 1 picture")
	until(t, p, "it has its caption", func([]run) bool { return pictures(other.ID)[0].Digest != plain })
	marked := pictures(other.ID)[0]
	assert.Equal(t, plain, marked.Original, "the original stays")
	s.press("Take mine back")
	until(t, p, "it is as the supplier gives it", func([]run) bool { return pictures(other.ID)[0].Digest == plain })
}
