package sources

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	_ "image/gif"  // kinds that are read
	_ "image/jpeg" // …
	"image/png"
	"net/url"
	"os"
	"time"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // …

	"easymargin/internal/fetch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// Limits on one picture; going over one is told with the limit.
const (
	maxPicture = 20 << 20 // bytes
	maxPixels  = 50_000_000
	thumbSide  = 160 // pixels of a thumbnail's longer side
	maxTries   = 3
)

// pause between two pictures of one host: a supplier's shop is no file server.
const hostPause = 40 * time.Millisecond

// queuePictures queues the fetching of pictures.
func (st *Stop) queuePictures(tx store.Tx) error {
	if st.NoPictures {
		return nil
	}
	r := stops.PicturesRun(st.Now())
	return tx.Queue(&r)
}

// doPictures notes the pictures of what is ours or kept, and fetches those that
// aren't here yet, one at a time. Each is kept before the next is asked for, so
// it may be cut short anywhere.
func (st *Stop) doPictures(ctx context.Context, t *work.Task) error {
	if st.NoPictures {
		return nil
	}
	if err := st.notePictures(ctx); err != nil {
		return err
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error { _, err := tx.NoteEntryPictures(); return err })
	if err != nil {
		return err
	}
	total, err := st.Store.CountWaitingPictures(ctx)
	if err != nil {
		return err
	}
	least, err := st.leastPicture(ctx)
	if err != nil {
		return err
	}
	done, kept, asked := int64(0), int64(0), map[string]time.Time{}
	for {
		list, err := st.Store.WaitingPictures(ctx, maxTries, st.Now().Add(-time.Hour), 50)
		if err == nil && len(list) == 0 && kept > 0 {
			err = st.Store.Do(ctx, func(tx store.Tx) error { tx.Changed("matches", "finds", "listings"); return nil })
		}
		if err != nil || len(list) == 0 {
			t.Note = fmt.Sprintf("%d of %s kept", kept, stops.Plural(done, "picture", "pictures"))
			return err
		}
		for i := range list {
			p := &list[i]
			u, err := url.Parse(p.URL)
			if err == nil {
				if wait := hostPause - time.Since(asked[u.Host]); wait > 0 {
					select {
					case <-ctx.Done():
						return ctx.Err()
					case <-time.After(wait):
					}
				}
				asked[u.Host] = time.Now()
			}
			now := st.Now()
			p.Tries, p.TriedAt = p.Tries+1, &now
			err = st.fetchPicture(ctx, p, least)
			if ctx.Err() != nil {
				return ctx.Err()
			}
			if p.State = store.PictureKept; err != nil {
				p.State, p.Why = store.PictureFailed, stops.Clip(err.Error(), 300)
			} else {
				kept++
			}
			if err := st.Store.Do(ctx, func(tx store.Tx) error { return tx.Save(p) }); err != nil {
				return err
			}
			done++
			t.At(done, max(total, done))
		}
	}
}

func (st *Stop) notePictures(ctx context.Context) error {
	for after := int64(0); ; {
		items, err := st.Store.UnpicturedItems(ctx, after, 500)
		if err != nil || len(items) == 0 {
			return err
		}
		after = items[len(items)-1].ID
		err = st.Store.Do(ctx, func(tx store.Tx) error {
			for i := range items {
				p, err := items[i].Product()
				if err != nil {
					return err
				}
				if len(p.Pictures) == 0 {
					continue
				}
				if err := tx.UsePictures(items[i].ID, p.Pictures[:min(len(p.Pictures), 20)]); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return fmt.Errorf("noting pictures: %w", err)
		}
	}
}

// leastPicture is what the most demanding site asks of a picture's longer side, in pixels.
func (st *Stop) leastPicture(ctx context.Context) (int64, error) {
	sites, err := st.Store.Sites(ctx)
	least := int64(0)
	for _, s := range sites {
		if !s.Lists {
			continue
		}
		least = max(least, s.LeastPicture)
	}
	return least, err
}

// fetchPicture gets one picture, checks it and keeps it with a thumbnail.
func (st *Stop) fetchPicture(ctx context.Context, p *store.Picture, least int64) error {
	var b bytes.Buffer
	w := &fetch.Limited{To: &b, What: "the picture", Most: maxPicture}
	if _, err := st.Fetcher.Get(ctx, fetch.Request{Address: p.URL}, w, nil); err != nil {
		return err
	}
	cfg, kind, err := image.DecodeConfig(bytes.NewReader(b.Bytes()))
	if err != nil {
		return errors.New("this is no picture in PNG, JPEG, GIF or WebP")
	}
	if int64(cfg.Width)*int64(cfg.Height) > maxPixels || cfg.Width < 1 || cfg.Height < 1 {
		return fmt.Errorf(
			"the picture has %d × %d pixels; %d million are the most that is read",
			cfg.Width,
			cfg.Height,
			maxPixels/1_000_000,
		)
	}
	img, _, err := image.Decode(bytes.NewReader(b.Bytes()))
	if err != nil {
		return fmt.Errorf("the picture is broken: %w", err)
	}
	sum := sha256.Sum256(b.Bytes())
	p.Digest, p.Kind, p.Width, p.Height, p.Bytes, p.Why = hex.EncodeToString(
		sum[:],
	), kind, int64(
		cfg.Width,
	), int64(
		cfg.Height,
	), int64(
		b.Len(),
	), ""
	if longer := max(p.Width, p.Height); longer < least {
		p.Why = fmt.Sprintf("%d pixels long; %d are asked for", longer, least)
	}
	if _, err := os.Stat(st.Store.PictureFile(p.Digest, true)); err == nil {
		return nil // the same picture, from another address
	}
	var small bytes.Buffer
	if err := png.Encode(&small, thumbnail(img)); err != nil {
		return err
	}
	return errors.Join(
		replace(st.Store.PictureFile(p.Digest, false), b.Bytes()),
		replace(st.Store.PictureFile(p.Digest, true), small.Bytes()),
	)
}

func thumbnail(img image.Image) image.Image {
	size := img.Bounds().Size()
	w, h := thumbSide, thumbSide
	if size.X > size.Y {
		h = max(1, size.Y*thumbSide/size.X)
	} else {
		w = max(1, size.X*thumbSide/size.Y)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.ApproxBiLinear.Scale(out, out.Bounds(), img, img.Bounds(), draw.Over, nil)
	return out
}

// replace writes a file whole or not at all.
func replace(path string, text []byte) error {
	next := path + ".next"
	if err := os.WriteFile(next, text, 0o600); err != nil {
		return err
	}
	return os.Rename(next, path)
}
