// Package crash tells whether the program ended by its own doing the last time it
// worked on a folder: by a panic or an error of the Go runtime, such as no memory
// left, or stopped by the system because it took too much memory. A machine that lost
// its power, or a person who ended the program, is no such end.
package crash

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
)

// The files that are kept beside the data.
const (
	report = "crash.txt"        // what the Go runtime says of a crash, as it happens
	kept   = "crash-before.txt" // the last such, for a report of the fault
	going  = "running"          // there while the program works
)

// Begin tells how the program ended last time, and watches it from now on. end is
// called when it ends in good order.
func Begin(dir string) (fell bool, end func(), err error) {
	fell, err = before(dir)
	if err != nil {
		return fell, nil, err
	}
	out, err := os.OpenFile(filepath.Join(dir, report), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return fell, nil, fmt.Errorf("the crash report: %w", err)
	}
	if err := errors.Join(debug.SetCrashOutput(out, debug.CrashOptions{}), out.Close()); err != nil { // the runtime has a copy
		return fell, nil, fmt.Errorf("the crash report: %w", err)
	}
	if err := os.WriteFile(filepath.Join(dir, going), []byte(machine()), 0o600); err != nil {
		return fell, nil, fmt.Errorf("noting that the program works: %w", err)
	}
	return fell, func() {
		_ = debug.SetCrashOutput(nil, debug.CrashOptions{})
		_ = errors.Join(os.Remove(filepath.Join(dir, going)), os.Remove(filepath.Join(dir, report)))
	}, nil
}

// before tells how the program ended last time.
func before(dir string) (bool, error) {
	fell := false
	switch info, err := os.Stat(filepath.Join(dir, report)); {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return false, err
	case info.Size() > 0:
		fell = true
		if err := os.Rename(filepath.Join(dir, report), filepath.Join(dir, kept)); err != nil {
			return true, err
		}
	}
	was, err := os.ReadFile(filepath.Join(dir, going))
	if errors.Is(err, fs.ErrNotExist) {
		return fell, nil
	}
	return fell || killed(string(was), machine()), err
}

// killed tells whether the system ended programs for want of memory between two looks
// at it: it was not started anew between them, and counts more of them.
func killed(was, is string) bool {
	boot, count, ok := strings.Cut(was, " ")
	nowBoot, nowCount, nowOK := strings.Cut(is, " ")
	return ok && nowOK && boot == nowBoot && count != nowCount
}

// machine is which start of the system this is, and how many programs it has ended
// since for want of memory; "" where it doesn't say (proc(5)).
func machine() string {
	boot, err := os.ReadFile("/proc/sys/kernel/random/boot_id")
	if err != nil {
		return ""
	}
	stat, err := os.ReadFile("/proc/vmstat")
	if err != nil {
		return ""
	}
	for line := range bytes.Lines(stat) {
		if count, ok := bytes.CutPrefix(line, []byte("oom_kill ")); ok {
			return string(bytes.TrimSpace(boot)) + " " + string(bytes.TrimSpace(count))
		}
	}
	return ""
}
