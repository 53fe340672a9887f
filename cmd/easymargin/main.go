// Command easymargin is the whole application: the server, its demo, and the
// same work without a browser. It only reads flags and wires parts together.
package main

import (
	"fmt"
	"os"
)

func main() {
	if err := root().Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "easymargin:", err)
		os.Exit(1)
	}
}
