package sim

import (
	"image"
	"image/color"
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

// A shape says what is at a point of a picture of 640 × 640: paper, the thing,
// or a darker part of it.
type shape func(x, y int) int

const (
	paper = iota
	thing
	shade
)

func box(x, y, x0, y0, x1, y1 int) bool { return x >= x0 && x < x1 && y >= y0 && y < y1 }

func disc(x, y, cx, cy, r int) bool { return (x-cx)*(x-cx)+(y-cy)*(y-cy) <= r*r }

// oval is a disc that is as wide as w and as high as h.
func oval(x, y, cx, cy, w, h int) bool {
	dx, dy := (x-cx)*1000/w, (y-cy)*1000/h
	return dx*dx+dy*dy <= 1_000_000
}

// tone is the thing, or its shade where that is wanted.
func tone(is, dark bool) int {
	switch {
	case dark:
		return shade
	case is:
		return thing
	}
	return paper
}

// shapes are drawn by category; anything else is a box with a lid.
var shapes = map[string]shape{
	"mugs": func(x, y int) int {
		handle := disc(x, y, 430, 340, 95) && !disc(x, y, 430, 340, 58) && x > 400
		return tone(box(x, y, 170, 200, 430, 500) || handle, box(x, y, 170, 200, 430, 232) || box(x, y, 170, 200, 215, 500))
	},
	"stoves": func(x, y int) int {
		flame := y > 130 && y < 320 && abs(x-320) < (y-130)*(330-y)/210
		legs := y > 400 && y < 540 && (abs(x-320) > (y-400)/3+90 && abs(x-320) < (y-400)/3+125)
		return tone(box(x, y, 190, 340, 450, 400) || legs, flame || box(x, y, 230, 318, 410, 342))
	},
	"cookware": func(x, y int) int {
		pot := box(x, y, 140, 270, 440, 440) || oval(x, y, 290, 440, 150, 50)
		return tone(pot || box(x, y, 440, 290, 580, 322), box(x, y, 125, 250, 455, 276) || box(x, y, 270, 215, 310, 250))
	},
	"cutlery": func(x, y int) int {
		fork := box(x, y, 395, 120, 410, 250) || box(x, y, 425, 120, 440, 250) || box(x, y, 455, 120, 470, 250) ||
			box(x, y, 395, 250, 470, 290) || box(x, y, 418, 290, 447, 540)
		return tone(oval(x, y, 215, 200, 62, 90) || box(x, y, 200, 280, 230, 540), fork)
	},
	"water": func(x, y int) int {
		body := box(x, y, 220, 250, 420, 530) || oval(x, y, 320, 250, 100, 60)
		return tone(body, box(x, y, 275, 120, 365, 170) || box(x, y, 220, 360, 420, 385) || box(x, y, 285, 170, 355, 200))
	},
	"tarps": func(x, y int) int {
		sheet := y > 170 && y < 500 && abs(x-320) < (y-170)*7/10
		return tone(sheet, sheet && x < 320 || box(x, y, 314, 120, 326, 520))
	},
	"pegs": func(x, y int) int {
		peg := func(cx int) bool { return y > 160 && y < 540 && abs(x-cx) < 22-(y-160)/22 || disc(x, y, cx, 150, 34) }
		return tone(peg(200) || peg(440), peg(320))
	},
	"sleep": func(x, y int) int {
		roll := box(x, y, 200, 230, 520, 450) || disc(x, y, 200, 340, 110) || oval(x, y, 520, 340, 40, 110)
		return tone(roll, disc(x, y, 200, 340, 70) && !disc(x, y, 200, 340, 45) || disc(x, y, 200, 340, 18) ||
			box(x, y, 330, 230, 352, 450) || box(x, y, 430, 230, 452, 450))
	},
	"packs": func(x, y int) int {
		body := box(x, y, 190, 210, 450, 530) || oval(x, y, 320, 215, 130, 80)
		return tone(body, box(x, y, 230, 370, 410, 500) || box(x, y, 190, 270, 450, 292) || box(x, y, 285, 100, 355, 140))
	},
	"poles": func(x, y int) int {
		left := y > 140 && y < 540 && abs(x-(150+(y-140)/2)) < 11
		right := y > 140 && y < 540 && abs(x-(490-(y-140)/2)) < 11
		return tone(left || right, y > 110 && y < 220 && (abs(x-(150+(y-140)/2)) < 22 || abs(x-(490-(y-140)/2)) < 22))
	},
	"finding": func(x, y int) int {
		needle := abs(x-320) < 26-abs(y-320)/6 && abs(y-320) < 150
		ring := disc(x, y, 320, 320, 210) && !disc(x, y, 320, 320, 178)
		return tone(ring || needle && y > 320, needle && y <= 320 || box(x, y, 300, 80, 340, 118))
	},
	"light": func(x, y int) int {
		glass := oval(x, y, 320, 320, 110, 130)
		return tone(glass, box(x, y, 220, 430, 420, 520) || box(x, y, 240, 170, 400, 215) ||
			disc(x, y, 320, 170, 90) && !disc(x, y, 320, 170, 74) && y < 172)
	},
	"walking": func(x, y int) int {
		boot := box(x, y, 230, 150, 370, 420) || box(x, y, 230, 400, 500, 490) || oval(x, y, 480, 445, 50, 45)
		return tone(boot, box(x, y, 220, 490, 530, 520) || box(x, y, 230, 150, 370, 180) || box(x, y, 300, 230, 380, 244) ||
			box(x, y, 300, 280, 380, 294) || box(x, y, 300, 330, 380, 344))
	},
}

func abs(v int) int { return max(v, -v) }

// photo draws a simple thing in the demo's palette as a PNG of 640 × 640
// pixels, by the category that its name begins with. Sellers photograph on
// paper, marketplaces on white.
func photo(ground color.RGBA) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
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
		ink := palette[abs(sum)%len(palette)]
		dark := color.RGBA{ink.R / 3 * 2, ink.G / 3 * 2, ink.B / 3 * 2, 255}
		img := image.NewPaletted(image.Rect(0, 0, side, side), color.Palette{ground, ink, dark})
		sort, _, _ := strings.Cut(name, "-")
		draws := shapes[sort]
		if draws == nil {
			draws = func(x, y int) int { return tone(box(x, y, 150, 220, 490, 500), box(x, y, 130, 160, 510, 210)) }
		}
		for y := range side {
			for x := range side {
				img.Pix[y*img.Stride+x] = uint8(draws(x, y))
			}
		}
		w.Header().Set("Content-Type", "image/png")
		_ = png.Encode(w, img)
	}
}

var (
	onPaper = color.RGBA{0xF6, 0xF3, 0xEC, 255}
	onWhite = color.RGBA{255, 255, 255, 255}
)
