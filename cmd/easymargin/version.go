package main

import (
	"cmp"
	"fmt"
	"runtime"
	"runtime/debug"

	"easymargin/internal/store"
)

// version says which program this is: its version, the commit it was built of and when
// that was made, the schema of its data, and what it was built for.
func version() string {
	number, commit, day, changed := "unreleased", "unknown", "", ""
	if info, ok := debug.ReadBuildInfo(); ok {
		if v := info.Main.Version; v != "" && v != "(devel)" {
			number = v
		}
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				commit = s.Value[:min(len(s.Value), 12)]
			case "vcs.time":
				day = s.Value
			case "vcs.modified":
				if s.Value == "true" {
					changed = ", with changes"
				}
			}
		}
	}
	return fmt.Sprintf("%s\ncommit %s%s\nmade   %s\nschema %d\nfor    %s/%s, %s", number, commit, changed, cmp.Or(day, "unknown"), store.Schema(), runtime.GOOS, runtime.GOARCH, runtime.Version())
}
