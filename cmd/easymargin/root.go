package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	buying "easymargin/core/buying/written"
	"easymargin/core/ident"
	listing "easymargin/core/listing/written"
	matching "easymargin/core/match/written"
	following "easymargin/core/plan/written"
	"easymargin/core/pricing/written"
	tally "easymargin/core/tally/written"
	"easymargin/internal/fault"
	"easymargin/internal/house"
	"easymargin/internal/web"
)

func root() *cobra.Command {
	c := &cobra.Command{
		Use:           "easymargin",
		Short:         "Sell what you don't hold, and know what is left of every price",
		SilenceUsage:  true,
		SilenceErrors: true,
		Version:       version(),
	}
	c.AddCommand(
		serveCommand(),
		demoCommand(),
		readCommand(),
		intakeCommand(),
		planCommand(),
		checkCommand(),
		backupCommand(),
		restoreCommand(),
		passwordCommand(),
		sheetCommand(),
		fillCommand(),
		answers("quote", "Answer pricing cases: a JSON object a line in, an answer a line out", written.AnswerLineOf),
		answers("identify", `Read product numbers: {"in":"…"} a line in, an answer a line out`, identify),
		answers("match", "Judge matching cases: a JSON object a line in, an answer a line out", matching.AnswerLineOf),
		answers("follow", "Work out what to offer, from whom, and what to change: a JSON object a line in, an answer a line out", following.AnswerLineOf),
		answers("listing", "Check listings against what a category asks for, and make their titles: a JSON object a line in, an answer a line out", new(listing.Reader).AnswerLineOf),
		answers("buy", "Divide purchases among suppliers so that they cost least: a JSON object a line in, an answer a line out", buy),
		answers("tally", "Work out what orders come to, with tax and refunds: a JSON object a line in, an answer a line out", tally.AnswerLineOf),
		&cobra.Command{
			Use:   "openapi",
			Short: "Print the description of the API",
			Args:  cobra.NoArgs,
			RunE: func(c *cobra.Command, _ []string) error {
				_, api := web.New(web.Options{Stops: house.New(house.Options{}).Stops()})
				e := json.NewEncoder(c.OutOrStdout())
				e.SetIndent("", "  ")
				return e.Encode(api)
			},
		},
	)
	return c
}

// answers is a command that answers each line of its input.
func answers(use, short string, answer func(line []byte) []byte) *cobra.Command {
	return &cobra.Command{Use: use, Short: short, Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return eachLine(c.InOrStdin(), c.OutOrStdout(), answer)
	}}
}

// longestBuy is how long the best split of one purchase is looked for.
const longestBuy = 5 * time.Second

func buy(line []byte) []byte {
	return buying.AnswerLineOf(line, func() func() bool {
		end := time.Now().Add(longestBuy)
		return func() bool { return time.Now().After(end) }
	})
}

func identify(line []byte) []byte {
	var in struct{ In *string }
	if err := json.Unmarshal(line, &in); err != nil || in.In == nil {
		return []byte(`{"error":"in: a line must be a JSON object with a text \"in\""}`)
	}
	return ident.Answer(*in.In)
}

// maxLine is the most that one line of input may have, in bytes.
const maxLine = 16 << 20

// eachLine answers every line that isn't empty, in order, on all cores. One
// that is too long is answered like any other that can't be read, and the rest
// still done. At most a batch of lines is held at once.
func eachLine(r io.Reader, w io.Writer, answer func([]byte) []byte) error {
	in, out := bufio.NewReaderSize(r, 1<<16), bufio.NewWriterSize(w, 1<<16)
	for {
		batch, err := readLines(in)
		if err != nil && err != io.EOF {
			return errors.Join(fmt.Errorf("reading the input: %w", err), out.Flush())
		}
		answers := make([][]byte, len(batch))
		var next atomic.Int64
		var all sync.WaitGroup
		for range runtime.GOMAXPROCS(0) {
			all.Go(func() {
				for i := next.Add(1) - 1; i < int64(len(batch)); i = next.Add(1) - 1 {
					if batch[i] == nil {
						answers[i] = fmt.Appendf(nil, `{"id":null,"error":"case: a line has at most %d MiB"}`, maxLine>>20)
					} else if err := fault.Caught(func() error { answers[i] = answer(batch[i]); return nil }); err != nil {
						answers[i] = []byte(`{"id":null,"error":"case: the program made a mistake with this line; please report it"}`)
					}
				}
			})
		}
		all.Wait()
		for _, text := range answers {
			if _, err := out.Write(append(text, '\n')); err != nil {
				return err
			}
		}
		if err == io.EOF {
			return out.Flush()
		}
	}
}

// readLines reads lines until they come to a batch, with io.EOF at the end. A
// line that is too long is nil; empty ones are left out.
func readLines(in *bufio.Reader) (batch [][]byte, err error) {
	for size := 0; size < 1<<20 && len(batch) < 4096; {
		var line []byte
		long := false
		for {
			part, rerr := in.ReadSlice('\n')
			if long = long || len(line)+len(part) > maxLine; !long {
				line = append(line, part...)
			}
			if err = rerr; !errors.Is(err, bufio.ErrBufferFull) {
				break
			}
		}
		if line = bytes.TrimSpace(line); long {
			batch = append(batch, nil)
		} else if len(line) > 0 {
			batch = append(batch, line)
		}
		if size += len(line); err != nil {
			break
		}
	}
	return batch, err
}
