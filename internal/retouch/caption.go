package retouch

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

var lettering = sync.OnceValues(func() (*opentype.Font, error) { return opentype.Parse(gobold.TTF) })

// ink and paper are a caption's colours.
var (
	ink   = image.NewUniform(color.NRGBA{29, 39, 51, 255})
	paper = image.NewUniform(color.NRGBA{255, 255, 255, 225})
)

// captioned writes a line over the whole width of a picture, as large as it fits.
func captioned(img *image.NRGBA, text string, top bool) (image.Image, error) {
	f, err := lettering()
	if err != nil {
		return nil, fmt.Errorf("lettering: %w", err)
	}
	size := img.Bounds().Size()
	for points := float64(max(size.Y/14, 10)); ; points *= 0.9 {
		face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: points, DPI: 72, Hinting: font.HintingFull})
		if err != nil {
			return nil, fmt.Errorf("lettering: %w", err)
		}
		wide := font.MeasureString(face, text).Ceil()
		if wide > size.X*9/10 && points > 8 {
			continue
		}
		high := int(points * 1.7)
		band := image.Rect(0, size.Y-high, size.X, size.Y)
		if top {
			band = image.Rect(0, 0, size.X, high)
		}
		draw.Draw(img, band, paper, image.Point{}, draw.Over)
		line := font.Drawer{Dst: img, Src: ink, Face: face, Dot: fixed.P((size.X-wide)/2, band.Min.Y+int(points*1.2))}
		line.DrawString(text)
		return img, nil
	}
}
