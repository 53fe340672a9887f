package main

import (
	"bufio"
	"encoding/json"
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

func eachLine(r io.Reader, w io.Writer, answer func([]byte) []byte) error {
	in, out := bufio.NewScanner(r), bufio.NewWriterSize(w, 1<<16)
	in.Buffer(make([]byte, 1<<16), maxLine)
	for in.Scan() {
		if len(in.Bytes()) == 0 {
			continue
		}
		if _, err := out.Write(append(answer(in.Bytes()), '\n')); err != nil {
			return err
		}
	}
	if err := in.Err(); err != nil {
		_ = out.Flush()
		return fmt.Errorf("reading the input (a line has at most %d MiB): %w", maxLine>>20, err)
	}
	return out.Flush()
}
