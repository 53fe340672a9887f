// Command make lives the demo's sixty days and packs what came of them into a
// file, which the program is then built with.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"time"

	"easymargin/demo"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	debug.SetGCPercent(400) // memory is there for the minute that it takes
	if err := run(ctx, os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "making the demo's sixty days:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, file string) error {
	dir, err := os.MkdirTemp("", "easymargin-past-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	begun := time.Now()
	if err := demo.Past(ctx, dir, func(day time.Time) { fmt.Fprintf(os.Stderr, "\r%s", day.Format("Mon 2 January")+"   ") }); err != nil {
		return err
	}
	fmt.Fprintf(os.Stderr, "\rsixty days lived in %s\n", time.Since(begun).Round(time.Second))
	return demo.Pack(dir, file)
}
