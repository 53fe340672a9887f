package demo

import (
	"archive/zip"
	"bytes"
	"cmp"
	"compress/flate"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
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

// Made tells whether this binary was built with the sixty days.
func Made() bool {
	_, err := fs.Stat(made, packed)
	return err == nil
}

// Unpack puts the sixty days that this binary was built with into a folder. Cut
// short, it is done again: the stand-ins, by which a folder is known, come last.
func Unpack(dir string) error {
	text, err := made.ReadFile(packed)
	if err != nil {
		return err
	}
	return unpack(dir, text)
}

// UnpackFile is Unpack from a file that Pack wrote.
func UnpackFile(dir, file string) error {
	text, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	return unpack(dir, text)
}

func unpack(dir string, text []byte) error {
	z, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
	if err != nil {
		return fmt.Errorf("unpacking the demo: %w", err)
	}
	slices.SortStableFunc(z.File, func(a, b *zip.File) int {
		return cmp.Compare(strings.Count(a.Name, StandIns), strings.Count(b.Name, StandIns))
	})
	for _, f := range z.File {
		if err := extract(f, filepath.Join(dir, filepath.FromSlash(f.Name))); err != nil {
			return fmt.Errorf("unpacking the demo: %w", err)
		}
	}
	return nil
}

// extract puts one file in its place, the owner's only, as the application makes them.
func extract(f *zip.File, to string) error {
	if !filepath.IsLocal(filepath.FromSlash(f.Name)) {
		return fmt.Errorf("%q leads out of the folder", f.Name)
	}
	if f.FileInfo().IsDir() {
		return os.MkdirAll(to, 0o700)
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return err
	}
	from, err := f.Open()
	if err != nil {
		return err
	}
	defer from.Close()
	next := to + ".next"
	out, err := os.OpenFile(next, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, from)
	if err := errors.Join(err, out.Close()); err != nil {
		return err
	}
	return os.Rename(next, to)
}
