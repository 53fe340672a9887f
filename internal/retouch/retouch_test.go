package retouch_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"easymargin/internal/retouch"
)

var (
	green = color.NRGBA{40, 110, 90, 255}
	sand  = color.NRGBA{226, 220, 200, 255}
	white = color.NRGBA{255, 255, 255, 255}
)

// photo is a green block, off the middle to the left and top, on sand.
func photo(t require.TestingT, w, h int) *retouch.Picture {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.SetNRGBA(x, y, sand)
			if x >= w/8 && x < w/2 && y >= h/8 && y < h/2 {
				img.SetNRGBA(x, y, green)
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	p, err := retouch.Read(context.Background(), b.Bytes())
	require.NoError(t, err)
	return p
}

func made(t require.TestingT, p *retouch.Picture, r retouch.Recipe) (*retouch.Picture, image.Image) {
	out, err := p.Make(context.Background(), &r, 0)
	require.NoError(t, err)
	img, kind, err := image.Decode(bytes.NewReader(out.Content))
	require.NoError(t, err)
	require.Equal(t, out.Kind, kind)
	require.Equal(t, [2]int{out.Width, out.Height}, [2]int{img.Bounds().Dx(), img.Bounds().Dy()}, "its figures are those of what was made")
	return out, img
}

func is(t *testing.T, img image.Image, x, y int, want color.NRGBA, words ...any) {
	t.Helper()
	got := color.NRGBAModel.Convert(img.At(x, y)).(color.NRGBA)
	assert.InDeltaSlice(t, []int{int(want.R), int(want.G), int(want.B)}, []int{int(got.R), int(got.G), int(got.B)}, 6, words...)
}

func TestWhatARecipeDoes(t *testing.T) {
	p := photo(t, 400, 200)
	for name, c := range map[string]struct {
		do    retouch.Recipe
		size  [2]int
		block [2]int // a point of the block
		sand  [2]int // and one of the paper
	}{
		"turned by a quarter":     {retouch.Recipe{Turn: 90}, [2]int{200, 400}, [2]int{140, 100}, [2]int{40, 300}},
		"by a half":               {retouch.Recipe{Turn: 180}, [2]int{400, 200}, [2]int{300, 140}, [2]int{100, 40}},
		"by three quarters":       {retouch.Recipe{Turn: 270}, [2]int{200, 400}, [2]int{60, 300}, [2]int{140, 100}},
		"mirrored":                {retouch.Recipe{Mirror: true}, [2]int{400, 200}, [2]int{300, 60}, [2]int{100, 60}},
		"turned, then mirrored":   {retouch.Recipe{Turn: 90, Mirror: true}, [2]int{200, 400}, [2]int{60, 100}, [2]int{140, 300}},
		"a part of it":            {retouch.Recipe{Crop: &retouch.Box{X: 0, Y: 0, W: 5000, H: 5000}}, [2]int{200, 100}, [2]int{100, 60}, [2]int{20, 10}},
		"cut to a square":         {retouch.Recipe{Shape: "square"}, [2]int{200, 200}, [2]int{50, 60}, [2]int{150, 60}},
		"filled to a square":      {retouch.Recipe{Shape: "square", Pad: true}, [2]int{400, 400}, [2]int{100, 160}, [2]int{350, 260}},
		"cut to three by four":    {retouch.Recipe{Shape: "3:4"}, [2]int{150, 200}, [2]int{30, 60}, [2]int{130, 60}},
		"filled to four by three": {retouch.Recipe{Shape: "4:3", Pad: true}, [2]int{400, 300}, [2]int{100, 110}, [2]int{350, 200}},
		"smaller":                 {retouch.Recipe{Side: 200}, [2]int{200, 100}, [2]int{50, 30}, [2]int{150, 30}},
		"enlarged, as is said":    {retouch.Recipe{Side: 800, Enlarge: true}, [2]int{800, 400}, [2]int{200, 120}, [2]int{600, 120}},
		"a square of one size":    {retouch.Recipe{Shape: "square", Side: 100}, [2]int{100, 100}, [2]int{25, 30}, [2]int{75, 30}},
	} {
		t.Run(name, func(t *testing.T) {
			out, img := made(t, p, c.do)
			assert.Equal(t, c.size, [2]int{out.Width, out.Height})
			is(t, img, c.block[0], c.block[1], green, "the block")
			is(t, img, c.sand[0], c.sand[1], sand, "the paper")
			assert.False(t, out.Small)
		})
	}
}

func TestSmallerOnesAreNotEnlargedUnsaid(t *testing.T) {
	out, _ := made(t, photo(t, 300, 200), retouch.Recipe{Side: 500})
	assert.Equal(t, [2]int{300, 200}, [2]int{out.Width, out.Height})
	assert.True(t, out.Small)
}

func TestABackgroundBecomesWhiteAndWhatItEnclosesStays(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 90, 90))
	for y := range 90 {
		for x := range 90 {
			img.SetNRGBA(x, y, sand)
			ring := x >= 20 && x < 70 && y >= 20 && y < 70 && !(x >= 40 && x < 50 && y >= 40 && y < 50)
			if ring {
				img.SetNRGBA(x, y, green)
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	p, err := retouch.Read(context.Background(), b.Bytes())
	require.NoError(t, err)
	_, got := made(t, p, retouch.Recipe{White: true})
	is(t, got, 5, 5, white)
	is(t, got, 88, 45, white, "all around")
	is(t, got, 30, 30, green, "the thing")
	is(t, got, 45, 45, sand, "what is enclosed")
}

func TestWhatIsClearGoesOutOnWhiteWhereItMust(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 40, 40))
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	p, err := retouch.Read(context.Background(), b.Bytes())
	require.NoError(t, err)
	out, got := made(t, p, retouch.Recipe{Kind: "jpeg"})
	assert.Equal(t, "jpeg", out.Kind)
	is(t, got, 20, 20, white)
}

func TestACaptionStandsWhereItIsWantedAndFits(t *testing.T) {
	p := photo(t, 400, 400)
	dark := func(img image.Image, from, to int) int {
		n := 0
		for y := from; y < to; y++ {
			for x := range 400 {
				if c := color.GrayModel.Convert(img.At(x, y)).(color.Gray); c.Y < 60 {
					n++
				}
			}
		}
		return n
	}
	text := "Fits on every stove of the Fellgrove range, the small ones too"
	_, low := made(t, p, retouch.Recipe{Caption: text})
	assert.Positive(t, dark(low, 340, 400))
	assert.Zero(t, dark(low, 0, 60))
	for y := range 400 {
		is(t, low, 2, y, color.NRGBAModel.Convert(low.At(397, y)).(color.NRGBA), "nothing is cut off at the edges")
	}
	_, high := made(t, p, retouch.Recipe{Caption: text, At: "top"})
	assert.Positive(t, dark(high, 0, 60))
	assert.Zero(t, dark(high, 340, 400))
}

func TestBrightness(t *testing.T) {
	p := photo(t, 40, 40)
	_, up := made(t, p, retouch.Recipe{Brightness: 20})
	_, down := made(t, p, retouch.Recipe{Brightness: -20})
	at := func(img image.Image) uint8 { return color.GrayModel.Convert(img.At(10, 10)).(color.Gray).Y }
	_, same := made(t, p, retouch.Recipe{})
	assert.Greater(t, at(up), at(same))
	assert.Less(t, at(down), at(same))
}

func TestWhatCantBeDoneIsSaid(t *testing.T) {
	p := photo(t, 40, 40)
	for words, r := range map[string]retouch.Recipe{
		"by 90, 180 or 270":   {Turn: 45},
		"over the edge":       {Crop: &retouch.Box{X: 6000, W: 6000, H: 100}},
		"-100 to 100":         {Brightness: 101},
		"square, 4:3 or 3:4":  {Shape: "round"},
		"at most 3000 pixels": {Side: 3001},
		"top or the bottom":   {At: "left"},
		"jpeg or png":         {Kind: "gif"},
		"80 characters":       {Caption: string(bytes.Repeat([]byte("a"), 81))},
	} {
		_, err := p.Make(context.Background(), &r, 0)
		assert.ErrorContains(t, err, words)
	}
	for words, content := range map[string][]byte{"no picture": []byte("ref,title\n"), "broken": p.Content[:len(p.Content)/2]} {
		_, err := retouch.Read(context.Background(), content)
		assert.ErrorContains(t, err, words)
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 10_000, 2_501))))
	_, err := retouch.Read(context.Background(), b.Bytes())
	assert.ErrorContains(t, err, "25 million are the most")
}

// Telephones write pictures as they lie in the hand, with a note how to turn
// them: what is made has no such note, so it is turned.
func TestAPictureThatSaysHowItIsTurnedIsTurned(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 60, 20)), nil))
	turned := []byte("\xFF\xD8\xFF\xE1\x00\x22Exif\x00\x00MM\x00\x2A\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00")
	p, err := retouch.Read(context.Background(), append(turned, b.Bytes()[2:]...))
	require.NoError(t, err)
	assert.Equal(t, [2]int{20, 60}, [2]int{p.Width, p.Height})
}

// Whatever is done: the same is made of the same, nothing is longer than was
// wanted, and a shape is kept to the pixel.
func TestRecipes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := photo(t, rapid.IntRange(1, 60).Draw(t, "w"), rapid.IntRange(1, 60).Draw(t, "h"))
		r := retouch.Recipe{
			Turn: rapid.SampledFrom([]int{0, 90, 180, 270}).Draw(t, "turn"), Mirror: rapid.Bool().Draw(t, "mirror"), White: rapid.Bool().Draw(t, "white"),
			Brightness: rapid.IntRange(-100, 100).Draw(t, "brightness"), Shape: rapid.SampledFrom([]string{"", "square", "4:3", "3:4"}).Draw(t, "shape"),
			Pad: rapid.Bool().Draw(t, "pad"), Side: rapid.IntRange(0, 80).Draw(t, "side"), Enlarge: rapid.Bool().Draw(t, "enlarge"),
			Kind: rapid.SampledFrom([]string{"", "jpeg", "png"}).Draw(t, "kind"),
		}
		if rapid.Bool().Draw(t, "crop") {
			x, y := rapid.IntRange(0, 9999).Draw(t, "x"), rapid.IntRange(0, 9999).Draw(t, "y")
			r.Crop = &retouch.Box{X: x, Y: y, W: rapid.IntRange(1, 10_000-x).Draw(t, "cw"), H: rapid.IntRange(1, 10_000-y).Draw(t, "ch")}
		}
		out, _ := made(t, p, r)
		again, err := p.Make(context.Background(), &r, 0)
		require.NoError(t, err)
		require.Equal(t, out.Digest, again.Digest)
		if r.Side > 0 {
			require.True(t, max(out.Width, out.Height) == r.Side || out.Small && max(out.Width, out.Height) < r.Side)
		}
		if r.Shape == "square" {
			require.Equal(t, out.Width, out.Height)
		}
		if r.Enlarge {
			require.False(t, out.Small)
		}
	})
}

func BenchmarkSquareAndOneSize(b *testing.B) {
	p := photo(b, 1600, 1200)
	for b.Loop() {
		read, err := retouch.Read(context.Background(), p.Content)
		require.NoError(b, err)
		_, err = read.Make(context.Background(), &retouch.Recipe{Shape: "square", Pad: true, Side: 1000, Kind: "jpeg"}, 0)
		require.NoError(b, err)
	}
}
