package sources

import (
	"bytes"
	"context"
	"fmt"
	"net/url"
	"time"

	"easymargin/internal/fault"
	"easymargin/internal/fetch"
	"easymargin/internal/retouch"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/work"
)

// maxTries is how often a picture that failed is asked for.
const maxTries = 3

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
			if fault.KindOf(err) == fault.Full {
				return err // it is tried again once there is room
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
	w := &fetch.Limited{To: &b, What: "the picture", Most: retouch.MostBytes}
	if _, err := st.Fetcher.Get(ctx, fetch.Request{Address: p.URL}, w, nil); err != nil {
		return err
	}
	x, err := retouch.Read(ctx, b.Bytes())
	if err != nil {
		return err
	}
	p.Digest, p.Kind, p.Width, p.Height, p.Bytes, p.Why = x.Digest, x.Kind, int64(x.Width), int64(x.Height), int64(b.Len()), ""
	if longer := max(p.Width, p.Height); longer < least {
		p.Why = fmt.Sprintf("%d pixels long; %d are asked for", longer, least)
	}
	return st.KeepPictureFiles(x)
}
