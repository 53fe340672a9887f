package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"easymargin/core/ident"
	"easymargin/core/pricing"
	"easymargin/internal/web"
)

func root() *cobra.Command {
	c := &cobra.Command{Use: "easymargin", Short: "Sell what you don't hold, and know what is left of every price", SilenceUsage: true, SilenceErrors: true}
	c.AddCommand(serveCommand(), demoCommand(), readCommand(), intakeCommand(),
		&cobra.Command{Use: "quote", Short: "Answer pricing cases: a JSON object a line in, an answer a line out", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
			return eachLine(c.InOrStdin(), c.OutOrStdout(), pricing.AnswerLineOf)
		}},
		&cobra.Command{Use: "identify", Short: `Read product numbers: {"in":"…"} a line in, an answer a line out`, Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
			return eachLine(c.InOrStdin(), c.OutOrStdout(), identify)
		}},
		&cobra.Command{Use: "openapi", Short: "Print the description of the API", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
			_, api := web.New(web.Options{})
			e := json.NewEncoder(c.OutOrStdout())
			e.SetIndent("", "  ")
			return e.Encode(api)
		}})
	return c
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

// eachLine answers every line that isn't empty. One that is too long is
// answered like any other that can't be read, and the rest still done.
func eachLine(r io.Reader, w io.Writer, answer func([]byte) []byte) error {
	in, out := bufio.NewReaderSize(r, 1<<16), bufio.NewWriterSize(w, 1<<16)
	var line []byte
	long := false
	for {
		part, err := in.ReadSlice('\n')
		if long = long || len(line)+len(part) > maxLine; !long {
			line = append(line, part...)
		}
		if errors.Is(err, bufio.ErrBufferFull) {
			continue
		}
		if err != nil && err != io.EOF {
			return errors.Join(fmt.Errorf("reading the input: %w", err), out.Flush())
		}
		switch text := bytes.TrimSpace(line); {
		case long:
			_, werr := fmt.Fprintf(out, `{"id":null,"error":"case: a line has at most %d MiB"}`+"\n", maxLine>>20)
			err = errors.Join(err, werr)
		case len(text) > 0:
			if _, werr := out.Write(append(answer(text), '\n')); werr != nil {
				return werr
			}
		}
		if line, long = line[:0], false; err != nil {
			break
		}
	}
	return out.Flush()
}
