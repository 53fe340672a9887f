package retouch_test

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"encoding/json"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"runtime"
	"runtime/metrics"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/retouch"
)

// flat is a PNG of one colour of any size, a few bytes a thousand pixels: its rows are
// written without its pixels ever being in memory.
func flat(w, h int) []byte {
	var b bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(name string, body []byte) {
		_ = binary.Write(&b, binary.BigEndian, uint32(len(body)))
		whole := append([]byte(name), body...)
		b.Write(whole)
		_ = binary.Write(&b, binary.BigEndian, crc32.ChecksumIEEE(whole))
	}
	head := binary.BigEndian.AppendUint32(nil, uint32(w))
	head = binary.BigEndian.AppendUint32(head, uint32(h))
	chunk("IHDR", append(head, 8, 0, 0, 0, 0)) // grey, eight bits
	var z bytes.Buffer
	zip := zlib.NewWriter(&z)
	row := make([]byte, w+1)
	for range h {
		_, _ = zip.Write(row)
	}
	_ = zip.Close()
	chunk("IDAT", z.Bytes())
	chunk("IEND", nil)
	return b.Bytes()
}

// scanned is a progressive JPEG with so many scans more than it needs, all empty.
func scanned(t testing.TB, side, more int) []byte {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, side, side)), nil))
	raw := b.Bytes()
	at := bytes.Index(raw, []byte{0xFF, 0xC0}) // the frame's header: SOF0 becomes SOF2, progressive
	raw[at+1] = 0xC2
	sos := bytes.Index(raw, []byte{0xFF, 0xDA})
	out := append([]byte{}, raw[:sos]...)
	blocks := (side + 7) / 8 * ((side + 7) / 8)
	for range more {
		out = append(out, 0xFF, 0xDA, 0, 8, 1, 1, 0, 0, 0, 0)  // a scan of DC coefficients …
		out = append(out, make([]byte, 2*((blocks+7)/8)+1)...) // … all of them none: two bits a block
	}
	return append(out, 0xFF, 0xD9)
}

// noise is a picture in which no two pixels are alike.
func noise(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range img.Pix {
		img.Pix[i] = byte(r.Uint32()) | 1
	}
	return img
}

// wild are recipes that ask for the most.
var wild = []retouch.Recipe{
	{Shape: "square", Pad: true}, {Shape: "square", Pad: true, Side: retouch.MostSide, Enlarge: true, Kind: "png"}, {White: true}, {White: true, Shape: "3:4", Pad: true, Caption: "On every stove", At: "top"},
	{Turn: 90, Mirror: true, Crop: &retouch.Box{X: 0, Y: 0, W: 1, H: 10_000}, Shape: "4:3", Pad: true}, {Side: retouch.MostSide, Enlarge: true, Brightness: 100, Kind: "jpeg"},
}

const (
	mostMemory = 256 << 20
	mostTime   = 2 * time.Second
)

// processor is the processor time that this process took: it is the same whatever else
// the machine does.
func processor() time.Duration {
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		panic(err)
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// took is how much memory and processor time something takes at most.
func took(do func()) (most uint64, lasted time.Duration) {
	runtime.GC()
	held := func() uint64 {
		s := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
		metrics.Read(s)
		return s[0].Value.Uint64()
	}
	before := held()
	var top atomic.Uint64
	end, ended := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(ended)
		tick := time.NewTicker(time.Millisecond)
		defer tick.Stop()
		for {
			select {
			case <-end:
				return
			case <-tick.C:
				top.Store(max(top.Load(), held()))
			}
		}
	}()
	began := processor()
	do()
	lasted = processor() - began
	top.Store(max(top.Load(), held()))
	close(end)
	<-ended
	return top.Load() - min(before, top.Load()), lasted
}

// within reads a picture and makes all that is wild of it, and looks what that takes.
func within(t testing.TB, name string, content []byte, recipes []retouch.Recipe) {
	for i := -1; i < len(recipes); i++ {
		memory, lasted := took(func() {
			if i < 0 {
				_, _ = retouch.Read(context.Background(), content) // any words are fine
				return
			}
			out, err := (&retouch.Picture{Content: content}).Make(context.Background(), &recipes[i], 0)
			if err == nil {
				assert.LessOrEqual(t, out.Width*out.Height, retouch.MostSide*retouch.MostSide, "%s, recipe %d", name, i)
			}
		})
		t.Logf("%s, recipe %d: %d MiB, %v", name, i, memory>>20, lasted.Round(time.Millisecond))
		assert.Less(t, memory, uint64(mostMemory), "%s, recipe %d: %d MiB", name, i, memory>>20)
		assert.Less(t, lasted, 5*mostTime, "%s, recipe %d", name, i) // of all cores of a slow machine
	}
}

// Pictures made to stop whoever looks at them don't: sides, pixels, scans and what
// would come of them are bounded before anything of their size is allocated.
func TestHostilePicturesStopNothing(t *testing.T) {
	encoded := func(img image.Image) []byte {
		var b bytes.Buffer
		require.NoError(t, png.Encode(&b, img))
		return b.Bytes()
	}
	var photo, animated bytes.Buffer
	require.NoError(t, jpeg.Encode(&photo, image.NewYCbCr(image.Rect(0, 0, 5000, 5000), image.YCbCrSubsampleRatio444), nil))
	frames := &gif.GIF{}
	for range 200 {
		frames.Image, frames.Delay = append(frames.Image, image.NewPaletted(image.Rect(0, 0, 900, 900), color.Palette{color.White, color.Black})), append(frames.Delay, 1)
	}
	require.NoError(t, gif.EncodeAll(&animated, frames))
	turned := append([]byte("\xFF\xD8\xFF\xE1\x00\x22Exif\x00\x00MM\x00\x2A\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00"), photo.Bytes()[2:]...)
	for name, x := range map[string]struct {
		content []byte
		recipes []retouch.Recipe // of those that are read, the dearest alone: each takes a second
	}{
		"a line": {flat(1, 1_000_000), wild}, "a longer line": {flat(1, 50_000_000), wild}, "a broad line": {flat(1_000_000, 1), wild}, "as long as may be": {flat(20_000, 1), wild},
		"49 million": {flat(7000, 7000), wild}, "100 scans": {scanned(t, 1000, 100), wild}, "many scans of much": {scanned(t, 4900, 31), wild}, "too many of 16 bits": {encoded(image.NewNRGBA64(image.Rect(0, 0, 4000, 4000))), wild},
		"frames": {animated.Bytes(), wild[:2]}, "a strip": {flat(20_000, 1250), wild[4:5]}, "25 million": {flat(5000, 5000), wild[2:3]}, "16 bits": {encoded(image.NewNRGBA64(image.Rect(0, 0, 3000, 3000))), wild[3:4]},
		"noise": {encoded(noise(2200, 2200)), wild[1:2]}, "a turned photo": {turned, wild[3:4]},
	} {
		t.Run(name, func(t *testing.T) { within(t, name, x.content, x.recipes) })
	}
	for words, content := range map[string][]byte{"a side has at most 20000": flat(1, 1_000_000), "25 million are the most": flat(7000, 7000), "in 101 scans": append(scanned(t, 100, 101), 0)} {
		_, err := retouch.Read(t.Context(), content)
		assert.ErrorContains(t, err, words)
	}
	_, err := retouch.Read(t.Context(), scanned(t, 100, 3))
	assert.NoError(t, err, "a few scans are a picture")
}

// Any bytes, any recipe.
func FuzzPicture(f *testing.F) {
	recipe, err := json.Marshal(retouch.Recipe{Shape: "square", Pad: true, White: true, Caption: "x", Side: 3000, Enlarge: true})
	require.NoError(f, err)
	var photo, animated bytes.Buffer
	require.NoError(f, jpeg.Encode(&photo, noise(40, 30), nil))
	require.NoError(f, gif.Encode(&animated, image.NewPaletted(image.Rect(0, 0, 9, 9), color.Palette{color.White, color.Black}), nil))
	for _, content := range [][]byte{flat(30, 20), photo.Bytes(), animated.Bytes(), scanned(f, 64, 4), []byte("RIFF\x1a\x00\x00\x00WEBPVP8L\x0d\x00\x00\x00\x2f\x00\x00\x00\x10\x07\x10\x11\x11\x88\x88\xfe\x07\x00")} {
		f.Add(content, recipe)
	}
	f.Fuzz(func(t *testing.T, content, recipe []byte) {
		var r retouch.Recipe
		if json.Unmarshal(recipe, &r) != nil {
			return
		}
		within(t, "fuzzed", content, []retouch.Recipe{r})
	})
}
