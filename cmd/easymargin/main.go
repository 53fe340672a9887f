// Command easymargin is the whole application: the server, its demo, and the
// same work without a browser. It only reads flags and wires parts together.
package main

import (
	"errors"
	"fmt"
	"os"
	"runtime/debug"
)

func main() {
	debug.SetGCPercent(30) // a million rows pass through; keep what has passed from piling up
	if err := root().Execute(); err != nil {
		if errors.Is(err, errSaid) {
			os.Exit(3) // it was said, a line of JSON each
		}
		fmt.Fprintln(os.Stderr, "easymargin:", err)
		if errors.Is(err, errHeld) {
			os.Exit(3)
		}
		os.Exit(1)
	}
}
