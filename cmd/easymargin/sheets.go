package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"easymargin/internal/blank"
)

// errSaid ends the program with 3: something was said of the rows.
var errSaid = errors.New("not everything could be written as the blank wants it")

func sheetCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "sheet FILE",
		Short: "Print what is recognised of a marketplace's own blank sheet: an object for each of its sheets that has a header",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			b, err := blank.Open(args[0])
			if err != nil {
				return err
			}
			list, err := b.Sheets()
			if err != nil {
				return err
			}
			out := json.NewEncoder(c.OutOrStdout())
			out.SetEscapeHTML(false)
			for i := range list {
				if err := out.Encode(&list[i]); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

type fillFlags struct {
	sheet, layout, rows, out string
	anyway                   bool
}

func fillCommand() *cobra.Command {
	var f fillFlags
	c := &cobra.Command{
		Use:   "fill --sheet BLANK --layout LAYOUT.json --rows ROWS.jsonl --out OUT",
		Short: "Fill a marketplace's own blank sheet; exits with 3 where something is wrong with a row, and writes nothing then",
		Args:  cobra.NoArgs,
		RunE:  func(c *cobra.Command, _ []string) error { return f.run(c) },
	}
	c.Flags().StringVar(&f.sheet, "sheet", "", "the blank: XLSX, XLSM, CSV or TSV")
	c.Flags().StringVar(&f.layout, "layout", "", "where what goes in it, as JSON")
	c.Flags().StringVar(&f.rows, "rows", "", "what it is filled with, a JSON object a line")
	c.Flags().StringVar(&f.out, "out", "", "the file to write")
	c.Flags().BoolVar(&f.anyway, "anyway", false, "write it also where a value isn't allowed or is missing")
	for _, name := range []string{"sheet", "layout", "rows", "out"} {
		if err := c.MarkFlagRequired(name); err != nil {
			panic(err) // it was just named
		}
	}
	return c
}

func (f *fillFlags) run(c *cobra.Command) error {
	raw, err := os.ReadFile(f.layout)
	if err != nil {
		return err
	}
	layout, err := blank.ReadLayout(raw)
	if err != nil {
		return fmt.Errorf("%s: %w", f.layout, err)
	}
	b, err := blank.Open(f.sheet)
	if err != nil {
		return fmt.Errorf("%s: %w", f.sheet, err)
	}
	rows, err := blank.OpenRows(f.rows)
	if err != nil {
		return fmt.Errorf("%s: %w", f.rows, err)
	}
	said := bufio.NewWriter(c.ErrOrStderr())
	problems := json.NewEncoder(said)
	problems.SetEscapeHTML(false)
	var failed error
	err = writeWhole(f.out, func(w *os.File) (bool, error) {
		res, err := b.Fill(layout, rows, w, blank.Options{Anyway: f.anyway, Problem: func(p blank.Problem) {
			failed = errors.Join(failed, problems.Encode(p))
		}})
		if res.Problems > 0 {
			failed = errors.Join(failed, errSaid)
		}
		return res.Written, err
	})
	return errors.Join(err, failed, said.Flush())
}

// writeWhole makes a file only once it is written whole: it is made beside and
// then put in its place. write says whether it is to stay.
func writeWhole(path string, write func(*os.File) (bool, error)) error {
	tmp, err := os.CreateTemp(filepath.Dir(path), ".easymargin-*")
	if err != nil {
		return err
	}
	defer os.Remove(tmp.Name()) // gone already, where it was put in its place
	stays, err := write(tmp)
	if err == nil && stays {
		err = tmp.Sync()
	}
	if err = errors.Join(err, tmp.Close()); err != nil || !stays {
		return err
	}
	if err := os.Chmod(tmp.Name(), 0o644); err != nil {
		return err
	}
	return os.Rename(tmp.Name(), path)
}
