package stops

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Suppliers' files are read from folders of this machine, and price-and-stock files
// put into them, only where a folder was named: as the program was started, or by the
// owner. The folder of the data is never one, nor one that a link leads to it from.

// foldersSetting is the setting of the folders that the owner named, JSON.
const foldersSetting = "folders"

// ParseFolders reads folders named at the start, NAME=PATH each.
func ParseFolders(list []string) (map[string]string, error) {
	out := map[string]string{}
	for _, text := range list {
		name, path, ok := strings.Cut(text, "=")
		name, path = strings.TrimSpace(name), strings.TrimSpace(path)
		if !ok || name == "" || strings.ContainsAny(name, `/\:`) {
			return nil, fmt.Errorf("--folder: %q is not NAME=PATH, such as prices=/srv/prices", text)
		}
		full, err := filepath.Abs(path)
		if err != nil {
			return nil, fmt.Errorf("--folder: %w", err)
		}
		if info, err := os.Stat(full); err != nil || !info.IsDir() {
			return nil, fmt.Errorf("--folder %s: there is no folder %s", name, full)
		}
		out[name] = full
	}
	return out, nil
}

// IsFolder tells whether what was typed is meant to be a folder: a path, or the name of one.
func (d Deps) IsFolder(typed string) bool {
	_, named := d.Folders[typed]
	return named || filepath.IsAbs(typed)
}

// NameFolder is the path of the folder that somebody typed, by its name or its path,
// for a field of a request. Where it isn't named and it is the owner who asks, it is from now on.
func (d Deps) NameFolder(tx store.Tx, field, typed string) (string, error) {
	path := filepath.Clean(typed)
	if named, ok := d.Folders[typed]; ok {
		path = named
	}
	known, err := d.folders(tx)
	if err != nil {
		return "", err
	}
	if !within(path, known) {
		if !actor.Asking(tx.Context()).May.Has(actor.Settings) {
			return "", fault.At(field, "%s is no folder that was named: the owner names folders, by giving one here or with --folder NAME=PATH at the start%s", typed, d.list(known))
		}
		own, err := ownFolders(tx)
		if err != nil {
			return "", err
		}
		text, err := json.Marshal(append(own, path))
		if err != nil {
			return "", err
		}
		if err := First(tx.PutSetting(foldersSetting, string(text)), tx.Note(d.Now(), "folder named", path, "")); err != nil {
			return "", err
		}
	}
	info, err := os.Stat(path)
	switch {
	case err != nil || !info.IsDir():
		return "", fault.At(field, "there is no folder %s on this machine", path)
	case d.Store.Holds(path):
		return "", fault.At(field, "%s is the folder of the data; choose another", path)
	}
	return path, nil
}

// OpenFolder opens a folder that was named, so that nothing outside of it is reached
// through it, by a link or by a name.
func (d Deps) OpenFolder(ctx context.Context, path string) (*os.Root, error) {
	known, err := d.folders(d.Store.Reading(ctx))
	if err != nil {
		return nil, err
	}
	if !within(path, known) {
		return nil, fault.New(fault.Forbidden, "%s is no folder that was named; start the program with --folder NAME=%s, or have the owner give it once more", path, path)
	}
	if d.Store.Holds(path) {
		return nil, fault.New(fault.Forbidden, "%s leads to the folder of the data, which is never read or written this way", path)
	}
	root, err := os.OpenRoot(path)
	if err != nil {
		return nil, fault.New(fault.Unavailable, "the folder %s can't be opened (%v)", path, cause(err))
	}
	return root, nil
}

// folders are all that were named.
func (d Deps) folders(tx store.Tx) ([]string, error) {
	out, err := ownFolders(tx)
	for _, path := range d.Folders {
		out = append(out, path)
	}
	return out, err
}

func ownFolders(tx store.Tx) ([]string, error) {
	set, err := tx.Setting(foldersSetting)
	if err != nil || set.Value == "" {
		return nil, err
	}
	var out []string
	if err := json.Unmarshal([]byte(set.Value), &out); err != nil {
		return nil, fmt.Errorf("the folders that were named: %w", err)
	}
	return out, nil
}

// list says which folders there are.
func (d Deps) list(known []string) string {
	if len(known) == 0 {
		return ""
	}
	slices.Sort(known)
	return "; named are " + strings.Join(slices.Compact(known), ", ")
}

// within tells whether a path is one of some folders or lies in one, links followed.
func within(path string, folders []string) bool {
	at, err := filepath.EvalSymlinks(path)
	if err != nil {
		at = path
	}
	return slices.ContainsFunc(folders, func(f string) bool {
		if real, err := filepath.EvalSymlinks(f); err == nil {
			f = real
		}
		rel, err := filepath.Rel(f, at)
		return err == nil && filepath.IsLocal(rel)
	})
}

// cause is what an error of a path says beside the path.
func cause(err error) error {
	var p *fs.PathError
	if errors.As(err, &p) {
		return p.Err
	}
	return err
}
