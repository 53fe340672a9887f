package retouch

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"image"
	"image/color"
	"image/png"

	"github.com/disintegration/imaging"
)

// Picture is one with what places ask about it.
type Picture struct {
	Content []byte
	Digest  string // SHA-256, hex
	Kind    string // jpeg, png, gif, webp
	Width   int    // pixels
	Height  int
	Small   bool   // it is smaller than its recipe wants, and wasn't enlarged
	Thumb   []byte // it in small, PNG
}

func describe(content []byte, kind string, size image.Point) *Picture {
	sum := sha256.Sum256(content)
	return &Picture{Content: content, Digest: hex.EncodeToString(sum[:]), Kind: kind, Width: size.X, Height: size.Y}
}

// quality of what is made in JPEG: nobody sees the difference, and it is a
// quarter of the bytes.
const quality = 90

// quickly is how many pixels a PNG has that is packed quickly rather than well: more
// would take seconds.
const quickly = 2_000_000

// Make makes a picture of an original by a recipe. Most limits its longer side
// after all else, for looking at; 0 is none. What is made has at most MostSide²
// pixels: a larger original is brought to that first.
func (p *Picture) Make(ctx context.Context, r *Recipe, most int) (*Picture, error) {
	if err := r.Valid(); err != nil {
		return nil, err
	}
	if r.Nothing() && most == 0 {
		return p, nil
	}
	var out *Picture
	err := open(ctx, p.Content, r.pixels, func(img image.Image, _ string, _ image.Point) (err error) {
		out, err = made(ctx, img, p.Kind, r, most)
		return err
	})
	return out, err
}

// step is one thing that is done to a picture.
type step func(image.Image) (image.Image, error)

// made does what a recipe says, in the order of its fields, as long as ctx lets it.
func made(ctx context.Context, img image.Image, kind string, r *Recipe, most int) (*Picture, error) {
	kind, small := r.kind(kind), false
	for _, do := range r.steps(kind, most, &small) {
		var err error
		if img, err = do(img); err != nil {
			return nil, err
		}
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
	}
	var b bytes.Buffer
	as, option := imaging.JPEG, imaging.JPEGQuality(quality)
	if kind == "png" {
		as, option = imaging.PNG, imaging.PNGCompressionLevel(png.DefaultCompression)
		if size := img.Bounds().Size(); size.X*size.Y > quickly {
			option = imaging.PNGCompressionLevel(png.BestSpeed)
		}
	}
	if err := imaging.Encode(&b, img, as, option); err != nil {
		return nil, err
	}
	out := describe(b.Bytes(), kind, img.Bounds().Size())
	out.Small = small
	var err error
	out.Thumb, err = thumbnail(img)
	return out, err
}

// pixels is the most that a picture of a size has while it is made.
func (r *Recipe) pixels(size image.Point) int {
	most := min(size.X*size.Y, worked)
	if ratio, shaping := ratios[r.Shape]; shaping && r.Pad {
		for _, s := range []image.Point{size, {X: size.Y, Y: size.X}} { // whichever way it is turned
			w, h := framed(s, ratio, true)
			most = max(most, min(w*h, worked))
		}
	}
	return max(most, r.Side*r.Side)
}

// kind is what a picture is made in.
func (r *Recipe) kind(original string) string {
	switch {
	case r.Kind != "":
		return r.Kind
	case original == "png":
		return "png"
	}
	return "jpeg"
}

// steps are what a recipe does, one after the other. small is told whether the
// picture stays smaller than is wanted.
func (r *Recipe) steps(kind string, most int, small *bool) []step {
	var out []step
	add := func(when bool, do func(image.Image) image.Image) {
		if when {
			out = append(out, func(img image.Image) (image.Image, error) { return do(img), nil })
		}
	}
	add(r.Turn != 0, func(img image.Image) image.Image {
		switch r.Turn { // imaging turns the other way
		case 90:
			return imaging.Rotate270(img)
		case 180:
			return imaging.Rotate180(img)
		}
		return imaging.Rotate90(img)
	})
	add(r.Mirror, func(img image.Image) image.Image { return imaging.FlipH(img) })
	add(r.Crop != nil, func(img image.Image) image.Image { return imaging.Crop(img, r.Crop.in(img.Bounds().Size())) })
	add(r.Brightness != 0, func(img image.Image) image.Image { return imaging.AdjustBrightness(img, float64(r.Brightness)) })
	add(kind == "jpeg" || r.Pad || r.White || r.Caption != "", onWhite)
	add(r.White, func(img image.Image) image.Image { return whitened(imaging.Clone(img)) })
	ratio, shaping := ratios[r.Shape]
	add(shaping, func(img image.Image) image.Image { return shaped(img, ratio, r.Pad) })
	add(r.Side > 0, func(img image.Image) image.Image {
		size := img.Bounds().Size()
		longer := max(size.X, size.Y)
		if *small = longer < r.Side && !r.Enlarge; !*small && longer != r.Side {
			return sized(img, r.Side)
		}
		return img
	})
	if r.Caption != "" {
		out = append(out, func(img image.Image) (image.Image, error) {
			return captioned(imaging.Clone(img), r.Caption, r.At == "top")
		})
	}
	add(most > 0, func(img image.Image) image.Image {
		if size := img.Bounds().Size(); max(size.X, size.Y) > most {
			return sized(img, most)
		}
		return img
	})
	return out
}

// in is a box in pixels of a picture's size; never empty.
func (b *Box) in(size image.Point) image.Rectangle {
	at := func(n, of int) int { return n * of / whole }
	out := image.Rect(at(b.X, size.X), at(b.Y, size.Y), at(b.X+b.W, size.X), at(b.Y+b.H, size.Y))
	out.Max.X, out.Max.Y = max(out.Max.X, out.Min.X+1), max(out.Max.Y, out.Min.Y+1)
	return out
}

func sized(img image.Image, side int) image.Image {
	size := img.Bounds().Size()
	w, h := side, 0
	if size.Y > size.X {
		w, h = 0, side
	}
	return imaging.Resize(img, w, h, imaging.CatmullRom)
}

func onWhite(img image.Image) image.Image {
	if o, ok := img.(interface{ Opaque() bool }); ok && o.Opaque() {
		return img
	}
	size := img.Bounds().Size()
	return imaging.OverlayCenter(imaging.New(size.X, size.Y, color.White), img, 1)
}

// shaped brings a picture to a ratio: by white at its sides, or by cutting off
// as much at one side as at the other. Where white would make more pixels of it than
// are worked on, it is brought smaller first.
func shaped(img image.Image, ratio [2]int, pad bool) image.Image {
	w, h := framed(img.Bounds().Size(), ratio, pad)
	if !pad {
		return imaging.CropCenter(img, w, h)
	}
	if pixels := w * h; pixels > worked {
		img = smaller(img, pixels)
		w, h = framed(img.Bounds().Size(), ratio, pad)
	}
	return imaging.PasteCenter(imaging.New(w, h, color.White), img)
}

// framed is the size of a picture brought to a ratio.
func framed(size image.Point, ratio [2]int, pad bool) (w, h int) {
	w, h = size.X, size.X*ratio[1]/ratio[0] // as wide as it is
	if (h < size.Y) == pad {
		w, h = size.Y*ratio[0]/ratio[1], size.Y // as high as it is
	}
	return max(w, 1), max(h, 1)
}
