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
	seen := make([]bool, size.X*size.Y)
	var next []int
	for _, corner := range []int{0, size.X - 1, (size.Y - 1) * size.X, size.Y*size.X - 1} {
		from := at(img, corner)
		next = append(next[:0], corner)
		for len(next) > 0 {
			i := next[len(next)-1]
			next = next[:len(next)-1]
			if seen[i] || apart(at(img, i), from) > near {
				continue
			}
			seen[i] = true
			x := i % size.X
			if x > 0 {
				next = append(next, i-1)
			}
			if x < size.X-1 {
				next = append(next, i+1)
			}
			if i >= size.X {
				next = append(next, i-size.X)
			}
			if i+size.X < len(seen) {
				next = append(next, i+size.X)
			}
		}
	}
	for i, background := range seen {
		if background {
			img.SetNRGBA(i%size.X, i/size.X, color.NRGBA{255, 255, 255, 255})
		}
	}
	return img
}

func at(img *image.NRGBA, i int) color.NRGBA {
	w := img.Bounds().Dx()
	return img.NRGBAAt(i%w, i/w)
}

func apart(a, b color.NRGBA) int {
	far := func(x, y uint8) int { return max(int(x), int(y)) - min(int(x), int(y)) }
	return far(a.R, b.R) + far(a.G, b.G) + far(a.B, b.B)
}
