package shop

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image/jpeg"
	"os"
	"path/filepath"

	"easymargin/internal/retouch"
	"easymargin/internal/store"
)

// The sides in pixels at which the shop shows pictures: among others, and by itself.
const (
	smallSide = 240
	largeSide = 960
)

var sides = map[string]int{"small": smallSide, "large": largeSide}

// pictureFile is where the shop has a picture, in one size.
func pictureFile(s *store.Store, digest, size string) string {
	return s.ShopPicture(filepath.Base(digest) + "." + size + ".jpg")
}

// keepPicture keeps a picture for the shop, small and large, in JPEG.
func keepPicture(ctx context.Context, s *store.Store, digest string, content []byte) error {
	from := &retouch.Picture{Content: content}
	for _, size := range []string{"large", "small"} { // the small one is made of the large one
		made, err := from.Make(ctx, &retouch.Recipe{Kind: "jpeg"}, sides[size])
		if err != nil {
			return fmt.Errorf("a picture for the shop: %w", err)
		}
		from = made
		light, err := lighter(made.Content)
		if err != nil {
			return err
		}
		if err := writeWhole(pictureFile(s, digest, size), light); err != nil {
			return err
		}
	}
	return nil
}

// lighter is a JPEG at a quality for looking around: half the bytes of one that is
// handed to a marketplace.
func lighter(content []byte) ([]byte, error) {
	img, err := jpeg.Decode(bytes.NewReader(content))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 78})
	return out.Bytes(), err
}

// hasPicture tells whether the shop has a picture.
func hasPicture(s *store.Store, digest string) bool {
	_, err := os.Stat(pictureFile(s, digest, "large"))
	return err == nil
}

// copyPicture copies one that was kept of a supplier; false where it can't be.
func copyPicture(ctx context.Context, s *store.Store, digest string) bool {
	content, err := os.ReadFile(s.PictureFile(digest, false))
	return err == nil && keepPicture(ctx, s, digest, content) == nil
}

// writeWhole writes a file whole or not at all.
func writeWhole(name string, content []byte) error {
	dir := filepath.Dir(name)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, "new-*")
	if err != nil {
		return err
	}
	_, err = f.Write(content)
	if err = errors.Join(err, f.Close()); err == nil {
		err = os.Rename(f.Name(), name)
	}
	if err != nil {
		err = errors.Join(err, os.Remove(f.Name()))
	}
	return err
}
