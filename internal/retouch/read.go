package retouch

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif"  // kinds that are read
	_ "image/jpeg" // …
	_ "image/png"  // …
	"io"
	"math"
	"runtime"
	"time"

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // …
	"golang.org/x/sync/semaphore"
)

// Limits on one picture, looked at before anything of its size is allocated. Going
// over one is told with the limit.
const (
	MostBytes  = 20 << 20   // of its file
	MostPixels = 25_000_000 // as it comes
	longest    = 20_000     // pixels of a side, as it comes
	mostScans  = 32         // of a JPEG: each goes over the whole picture once more
	scanned    = 300_000_000
	decoded    = 100 << 20 // bytes that its pixels take: some kinds have eight to a pixel
	ThumbSide  = 160       // pixels of a thumbnail's longer side
)

// worked is how many pixels a picture is worked on with: one that has more is brought
// to that first, so that no step takes more than a few times its memory.
const worked = MostSide * MostSide

// Memory and time that work on pictures may take, whoever asks for it.
const (
	budget  = 256 << 20 // bytes, of all that are worked on at once
	patient = 30 * time.Second
)

var memory = semaphore.NewWeighted(budget)

// errLong says that a picture took too long.
var errLong = fmt.Errorf("the picture takes longer than %d seconds to work on; save it anew in a plain form, or smaller", int(patient.Seconds()))

// Read looks at a picture: what it is of, that it is whole, and how it looks small.
func Read(ctx context.Context, content []byte) (*Picture, error) {
	var out *Picture
	small := func(image.Point) int { return ThumbSide * ThumbSide }
	err := open(ctx, content, small, func(img image.Image, kind string, size image.Point) (err error) {
		out = describe(content, kind, size)
		out.Thumb, err = thumbnail(img)
		return err
	})
	return out, err
}

// open decodes a picture and has something done with it, within the limits; making says
// how many pixels that takes of one of a size. size is its own; img may have fewer pixels.
func open(ctx context.Context, content []byte, making func(size image.Point) int, do func(img image.Image, kind string, size image.Point) error) error {
	if len(content) > MostBytes {
		return fmt.Errorf("the picture has %d MB; %d are the most that is read", len(content)>>20, MostBytes>>20)
	}
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil {
		return errors.New("this is no picture in PNG, JPEG, GIF or WebP")
	}
	pixels := int64(cfg.Width) * int64(cfg.Height)
	switch {
	case cfg.Width < 1 || cfg.Height < 1 || pixels > MostPixels:
		return fmt.Errorf("the picture has %d × %d pixels; %d million are the most that is read", cfg.Width, cfg.Height, MostPixels/1_000_000)
	case cfg.Width > longest || cfg.Height > longest:
		return fmt.Errorf("the picture has %d × %d pixels; a side has at most %d", cfg.Width, cfg.Height, longest)
	case pixels*perPixel(cfg.ColorModel) > decoded:
		return fmt.Errorf("the picture has %d × %d pixels of 16 bits a colour; %d million of such are the most that is read", cfg.Width, cfg.Height, decoded/8/1_000_000)
	}
	if kind == "jpeg" {
		if n := scans(content); n > mostScans || int64(n)*pixels > scanned {
			return fmt.Errorf("the picture goes over its %d × %d pixels in %d scans, which is more than is read; save it anew as a plain JPEG", cfg.Width, cfg.Height, n)
		}
	}
	ctx, end := context.WithTimeoutCause(ctx, patient, errLong)
	defer end()
	// What it is decoded to, turned as it says, and what a step is made from and to.
	need := min(pixels*(perPixel(cfg.ColorModel)+4)+3*4*int64(making(image.Pt(cfg.Width, cfg.Height))), budget)
	if err := memory.Acquire(ctx, need); err != nil {
		return context.Cause(ctx)
	}
	defer memory.Release(need)
	img, err := imaging.Decode(&timed{ctx, bytes.NewReader(content)}, imaging.AutoOrientation(true))
	if ctx.Err() != nil {
		return context.Cause(ctx)
	}
	if err != nil {
		return fmt.Errorf("the picture is broken: %w", err)
	}
	size := img.Bounds().Size()
	if pixels > worked {
		runtime.GC() // what came before it is turned, and before it is smaller, is let go of at once
		img = lessened(img)
		runtime.GC()
	}
	if err := do(img, kind, size); err != nil {
		return err
	}
	if ctx.Err() != nil {
		return context.Cause(ctx)
	}
	return nil
}

// perPixel is how many bytes a decoded pixel takes.
func perPixel(m color.Model) int64 {
	switch m {
	case color.NRGBA64Model, color.RGBA64Model:
		return 8
	case color.YCbCrModel:
		return 3
	}
	return 4
}

// lessened is a picture with as many pixels as are worked on.
func lessened(img image.Image) image.Image {
	size := img.Bounds().Size()
	return smaller(img, size.X*size.Y)
}

// smaller is a picture brought to such a size that what would have so many pixels has as
// many as are worked on.
func smaller(img image.Image, pixels int) image.Image {
	size := img.Bounds().Size()
	by := math.Sqrt(float64(worked) / float64(pixels))
	return imaging.Resize(img, max(int(float64(size.X)*by), 1), max(int(float64(size.Y)*by), 1), imaging.Box)
}

// timed reads until its context ends.
type timed struct {
	ctx context.Context
	r   io.Reader
}

func (t *timed) Read(p []byte) (int, error) {
	if err := t.ctx.Err(); err != nil {
		return 0, err
	}
	return t.r.Read(p)
}

// scans is how often a JPEG goes over its pixels: the number of its start-of-scan
// markers (ITU-T T.81, B.1.1.3).
func scans(content []byte) int {
	n := 0
	for i := 0; i+1 < len(content); i++ {
		if content[i] == 0xFF && content[i+1] == 0xDA {
			n++
		}
	}
	return n
}

// thumbnail is a picture small, in PNG.
func thumbnail(img image.Image) ([]byte, error) {
	size := img.Bounds().Size()
	w, h := ThumbSide, 0
	if size.Y > size.X {
		w, h = 0, ThumbSide
	}
	var b bytes.Buffer
	err := imaging.Encode(&b, imaging.Resize(img, w, h, imaging.Box), imaging.PNG)
	return b.Bytes(), err
}
