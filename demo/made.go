package demo

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
)

// made has past.zip, the sixty days as make build packed them; a binary built
// without has to live them first.
//
//go:embed all:made
var made embed.FS

const packed = "made/past.zip"

// Pack writes a demo's folder into a file.
func Pack(dir, file string) (err error) {
	out, err := os.Create(file + ".next")
	if err != nil {
		return err
	}
	z := zip.NewWriter(out)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestCompression) })
	if err := errors.Join(z.AddFS(os.DirFS(dir)), z.Close(), out.Close()); err != nil {
		return fmt.Errorf("packing the demo: %w", err)
	}
	return os.Rename(file+".next", file)
}

// Unpack puts the sixty days into an empty folder, and tells whether this binary
// has them.
func Unpack(dir string) (bool, error) {
	text, err := made.ReadFile(packed)
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	z, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
	if err != nil {
		return false, fmt.Errorf("unpacking the demo: %w", err)
	}
	if err := os.CopyFS(dir, z); err != nil {
		return false, fmt.Errorf("unpacking the demo: %w", err)
	}
	return true, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		return os.Chmod(path, 0o600) // the owner's only, as the application makes them
	})
}
