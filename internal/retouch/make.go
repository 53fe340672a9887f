package retouch

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif"  // kinds that are read
	_ "image/jpeg" // …
	_ "image/png"  // …

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // …
)

// Limits on one picture; going over one is told with the limit.
const (
	MostBytes  = 20 << 20
	MostPixels = 50_000_000
	ThumbSide  = 160 // pixels of a thumbnail's longer side
)

// Picture is one with what places ask about it.
type Picture struct {
	Content []byte
	Digest  string // SHA-256, hex
	Kind    string // jpeg, png, gif, webp
	Width   int    // pixels
	Height  int
	Small   bool // it is smaller than its recipe wants, and wasn't enlarged
	decoded image.Image
}

// Read looks at a picture: what it is of, and that it is whole.
func Read(content []byte) (*Picture, error) {
	if len(content) > MostBytes {
		return nil, fmt.Errorf("the picture has %d MB; %d are the most that is read", len(content)>>20, MostBytes>>20)
	}
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil {
		return nil, errors.New("this is no picture in PNG, JPEG, GIF or WebP")
	}
	if int64(cfg.Width)*int64(cfg.Height) > MostPixels || cfg.Width < 1 || cfg.Height < 1 {
		return nil, fmt.Errorf("the picture has %d × %d pixels; %d million are the most that is read", cfg.Width, cfg.Height, MostPixels/1_000_000)
	}
	img, err := imaging.Decode(bytes.NewReader(content), imaging.AutoOrientation(true))
	if err != nil {
		return nil, fmt.Errorf("the picture is broken: %w", err)
	}
	p := describe(content, kind, img)
	return p, nil
}

func describe(content []byte, kind string, img image.Image) *Picture {
	sum := sha256.Sum256(content)
	size := img.Bounds().Size()
	return &Picture{Content: content, Digest: hex.EncodeToString(sum[:]), Kind: kind, Width: size.X, Height: size.Y, decoded: img}
}

// Thumbnail is a picture small, in PNG.
func (p *Picture) Thumbnail() ([]byte, error) {
	size := p.decoded.Bounds().Size()
	w, h := ThumbSide, 0
	if size.Y > size.X {
		w, h = 0, ThumbSide
	}
	var b bytes.Buffer
	err := imaging.Encode(&b, imaging.Resize(p.decoded, w, h, imaging.Box), imaging.PNG)
	return b.Bytes(), err
}

// quality of what is made in JPEG: nobody sees the difference, and it is a
// quarter of the bytes.
const quality = 90

// Make makes a picture of an original by a recipe. Most limits its longer side
// after all else, for looking at; 0 is none.
func (p *Picture) Make(r *Recipe, most int) (*Picture, error) {
	if err := r.Valid(); err != nil {
		return nil, err
	}
	if r.Nothing() && most == 0 {
		return p, nil
	}
	img, small := p.decoded, false
	switch r.Turn {
	case 90:
		img = imaging.Rotate270(img) // imaging turns the other way
	case 180:
		img = imaging.Rotate180(img)
	case 270:
		img = imaging.Rotate90(img)
	}
	if r.Mirror {
		img = imaging.FlipH(img)
	}
	if r.Crop != nil {
		img = imaging.Crop(img, r.Crop.in(img.Bounds().Size()))
	}
	if r.Brightness != 0 {
		img = imaging.AdjustBrightness(img, float64(r.Brightness))
	}
	kind := r.Kind
	if kind == "" && p.Kind == "png" {
		kind = "png"
	} else if kind == "" {
		kind = "jpeg"
	}
	if kind == "jpeg" || r.Pad || r.White || r.Caption != "" {
		img = onWhite(img)
	}
	if r.White {
		img = whitened(imaging.Clone(img))
	}
	if ratio, ok := ratios[r.Shape]; ok {
		img = shaped(img, ratio, r.Pad)
	}
	if r.Side > 0 {
		size := img.Bounds().Size()
		longer := max(size.X, size.Y)
		if small = longer < r.Side && !r.Enlarge; !small && longer != r.Side {
			img = sized(img, r.Side)
		}
	}
	if r.Caption != "" {
		var err error
		if img, err = captioned(imaging.Clone(img), r.Caption, r.At == "top"); err != nil {
			return nil, err
		}
	}
	if size := img.Bounds().Size(); most > 0 && max(size.X, size.Y) > most {
		img = sized(img, most)
	}
	var b bytes.Buffer
	var err error
	if kind == "png" {
		err = imaging.Encode(&b, img, imaging.PNG)
	} else {
		err = imaging.Encode(&b, img, imaging.JPEG, imaging.JPEGQuality(quality))
	}
	out := describe(b.Bytes(), kind, img)
	out.Small = small
	return out, err
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
// as much at one side as at the other.
func shaped(img image.Image, ratio [2]int, pad bool) image.Image {
	size := img.Bounds().Size()
	w, h := size.X, size.X*ratio[1]/ratio[0] // as wide as it is
	if (h < size.Y) == pad {
		w, h = size.Y*ratio[0]/ratio[1], size.Y // as high as it is
	}
	w, h = max(w, 1), max(h, 1)
	if pad {
		return imaging.PasteCenter(imaging.New(w, h, color.White), img)
	}
	return imaging.CropCenter(img, w, h)
}
