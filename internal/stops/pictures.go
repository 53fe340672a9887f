package stops

import (
	"context"
	"errors"
	"os"

	"easymargin/internal/retouch"
	"easymargin/internal/store"
)

// KeepPictureFiles writes a picture and its thumbnail where they are kept. The
// same picture is kept once.
func (d Deps) KeepPictureFiles(p *retouch.Picture) error {
	if _, err := os.Stat(d.Store.PictureFile(p.Digest, true)); err == nil {
		return nil
	}
	return errors.Join(replace(d.Store.PictureFile(p.Digest, false), p.Content), replace(d.Store.PictureFile(p.Digest, true), p.Thumb))
}

// KeepPicture keeps a picture that no address gives; made tells whether it was
// made of another.
func (d Deps) KeepPicture(ctx context.Context, p *retouch.Picture, made bool) (store.Picture, error) {
	row := store.Picture{Digest: p.Digest, Kind: p.Kind, Width: int64(p.Width), Height: int64(p.Height), Bytes: int64(len(p.Content))}
	if err := d.KeepPictureFiles(p); err != nil {
		return row, err
	}
	err := d.Store.Do(ctx, func(tx store.Tx) error { return tx.PutPicture(&row, made) })
	return row, err
}

// replace writes a file whole or not at all.
func replace(path string, text []byte) error {
	next := path + ".next"
	if err := os.WriteFile(next, text, 0o600); err != nil {
		return err
	}
	return os.Rename(next, path)
}
