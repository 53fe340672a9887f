package retouch

import (
	"image"
	"image/color"
)

// near is how far a colour may be from that of the corner it is reached from,
// and still be background: the sum over red, green and blue.
const near = 60

// whitened makes the background white: all that is reached from the picture's
// corners without stepping on another colour. What is enclosed stays.
func whitened(img *image.NRGBA) image.Image {
	size := img.Bounds().Size()
	g := ground{img: img, w: size.X, seen: make([]bool, size.X*size.Y)}
	for _, corner := range []int{0, size.X - 1, (size.Y - 1) * size.X, size.Y*size.X - 1} {
		g.from = g.at(corner)
		g.reach(int32(corner))
	}
	for i, background := range g.seen {
		if background {
			img.SetNRGBA(i%size.X, i/size.X, color.NRGBA{255, 255, 255, 255})
		}
	}
	return img
}

// ground is what of a picture is background, as far as it was reached.
type ground struct {
	img  *image.NRGBA
	w    int
	seen []bool
	from color.NRGBA // the corner's
	next []int32     // where runs of background begin that weren't reached yet
}

// reach goes over the background from a place, a run of a row at a time: so it
// remembers a place a run, not four a pixel.
func (g *ground) reach(at int32) {
	for g.next = append(g.next[:0], at); len(g.next) > 0; {
		i := int(g.next[len(g.next)-1])
		g.next = g.next[:len(g.next)-1]
		if !g.open(i) {
			continue
		}
		row := i - i%g.w
		left, right := i, i
		for left > row && g.open(left-1) {
			left--
		}
		for right < row+g.w-1 && g.open(right+1) {
			right++
		}
		for k := left; k <= right; k++ {
			g.seen[k] = true
		}
		g.runs(left-g.w, right-g.w)
		g.runs(left+g.w, right+g.w)
	}
}

// runs notes where runs of background begin between two places of a row.
func (g *ground) runs(from, to int) {
	if from < 0 || to >= len(g.seen) {
		return
	}
	within := false
	for k := from; k <= to; k++ {
		open := g.open(k)
		if open && !within {
			g.next = append(g.next, int32(k))
		}
		within = open
	}
}

// open tells whether a place is background that wasn't reached yet.
func (g *ground) open(i int) bool { return !g.seen[i] && apart(g.at(i), g.from) <= near }

func (g *ground) at(i int) color.NRGBA { return g.img.NRGBAAt(i%g.w, i/g.w) }

func apart(a, b color.NRGBA) int {
	far := func(x, y uint8) int { return max(int(x), int(y)) - min(int(x), int(y)) }
	return far(a.R, b.R) + far(a.G, b.G) + far(a.B, b.B)
}
