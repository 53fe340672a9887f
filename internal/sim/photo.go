package sim

import (
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"net/http"
	"strings"
)

// palette is the demo's.
var palette = []color.RGBA{
	{0x2F, 0x6B, 0x5E, 255},
	{0xB4, 0x53, 0x2A, 255},
	{0x6C, 0x5B, 0x8E, 255},
	{0x4A, 0x7F, 0xA5, 255},
	{0xC9, 0xA1, 0x3B, 255},
	{0x57, 0x60, 0x6B, 255},
}

// photo draws a simple thing in the demo's palette as a PNG of 640 × 640
// pixels: a mug, a tarp or a box, by the category that its name begins with.
func photo(w http.ResponseWriter, r *http.Request) {
	name, ok := strings.CutSuffix(r.PathValue("ref"), ".png")
	if !ok {
		http.NotFound(w, r)
		return
	}
	sum := 0
	for _, c := range name {
		sum = sum*7 + int(c)
	}
	const side = 640
	paper := color.RGBA{0xF6, 0xF3, 0xEC, 255}
	ink := palette[sum%len(palette)]
	img := image.NewPaletted(image.Rect(0, 0, side, side), color.Palette{paper, ink})
	block := func(x0, y0, x1, y1 int, c color.Color) {
		draw.Draw(img, image.Rect(x0, y0, x1, y1), image.NewUniform(c), image.Point{}, draw.Src)
	}
	sort, _, _ := strings.Cut(name, "-")
	switch sort {
	case "mugs", "cookware", "water", "stoves": // a mug with a handle
		block(160, 200, 420, 500, ink)
		block(420, 260, 500, 440, ink)
		block(420, 300, 460, 400, paper)
	case "tarps", "pegs", "sleep", "walking", "poles": // a tarp on its pole
		for y := 160; y < 500; y++ {
			half := (y - 160) * 7 / 10
			block(320-half, y, 320+half, y+1, ink)
		}
		block(316, 160, 324, 500, paper)
	default: // a box with a lid
		block(150, 220, 490, 500, ink)
		block(130, 160, 510, 210, ink)
	}
	w.Header().Set("Content-Type", "image/png")
	_ = png.Encode(w, img)
}
