package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"easymargin/internal/actor"
	"easymargin/internal/house"
	"easymargin/internal/stops/people"
	"easymargin/internal/store"
)

// errNotSound ends the program with 1: something of the data isn't as it must be.
var errNotSound = errors.New("not every invariant holds; each row says what is damaged and what to do")

// longest is how long the plan's command waits for a marketplace's answers.
const longest = 10 * time.Minute

// opened has a command work on the data of a folder.
func opened(c *cobra.Command, dir string, do func(ctx context.Context, s *store.Store) error) error {
	if dir == "" {
		return errors.New("--data: say in which folder the data is")
	}
	if _, err := os.Stat(dir); err != nil {
		return fmt.Errorf("--data: there is no folder %s", dir)
	}
	ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(do(actor.With(ctx, "command line"), s), s.Close())
}

func planCommand() *cobra.Command {
	var dir, lines string
	var send bool
	c := &cobra.Command{
		Use:   "plan",
		Short: "Work out what should change on the marketplaces; --send lets go what may",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return opened(c, dir, func(ctx context.Context, s *store.Store) error {
				h := house.New(house.Options{Store: s})
				out, err := h.Plan(ctx)
				if err != nil {
					return err
				}
				if lines != "" {
					if err := writeLines(ctx, s, lines); err != nil {
						return err
					}
				}
				if send {
					err = h.SendPlans(ctx, &out, longest)
				}
				return errors.Join(err, json.NewEncoder(c.OutOrStdout()).Encode(out))
			})
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the data")
	c.Flags().BoolVar(&send, "send", false, "send what may go without a person, and wait for the answers")
	c.Flags().StringVar(&lines, "lines", "", "file to write each line to, as JSON")
	return c
}

// planLine is a line of a plan as it is written for scripts; amounts are minor units.
type planLine struct {
	ID        int64    `json:"id"`
	Site      string   `json:"site"`
	SKU       string   `json:"sku"`
	Title     string   `json:"title"`
	Kind      string   `json:"kind"`
	Currency  string   `json:"currency"`
	FromPrice *int64   `json:"from_price"`
	ToPrice   *int64   `json:"to_price"`
	FromQty   *int64   `json:"from_quantity"`
	ToQty     *int64   `json:"to_quantity"`
	ProfitWas *int64   `json:"profit_was"`
	ProfitNew *int64   `json:"profit_new"`
	Reasons   []string `json:"reasons"`
	Verdict   string   `json:"verdict"`
	Why       string   `json:"why,omitempty"`
}

// writeLines writes the lines of all plans that wait, in the order they go.
func writeLines(ctx context.Context, s *store.Store, file string) (err error) {
	f, err := os.Create(file)
	if err != nil {
		return fmt.Errorf("--lines: %w", err)
	}
	out := bufio.NewWriter(f)
	defer func() { err = errors.Join(err, out.Flush(), f.Close()) }()
	e := json.NewEncoder(out)
	for cursor := ""; ; {
		page, err := s.PlanLines(ctx, store.PlanPart{}, store.Page{Limit: 500, Cursor: cursor})
		if err != nil {
			return err
		}
		for _, r := range page.Rows {
			if err := e.Encode(planLine{r.ID, r.Site, r.SKU, r.Title, r.Kind, r.Currency, r.FromPrice, r.ToPrice, r.FromQty, r.ToQty,
				r.ProfitWas, r.ProfitNew, r.Reasons, r.Verdict, r.VerdictWhy}); err != nil {
				return err
			}
		}
		if cursor = page.Next; cursor == "" {
			return nil
		}
	}
}

func checkCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "check",
		Short: "Look whether the data is sound: a JSON row for each thing that must hold",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return opened(c, dir, func(ctx context.Context, s *store.Store) error {
				list, err := s.Check(ctx)
				return errors.Join(err, printFindings(c.OutOrStdout(), list))
			})
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the data")
	return c
}

func printFindings(w io.Writer, list []store.Finding) error {
	e, sound := json.NewEncoder(w), true
	for _, f := range list {
		if err := e.Encode(f); err != nil {
			return err
		}
		sound = sound && f.OK
	}
	if !sound {
		return errNotSound
	}
	return nil
}

func backupCommand() *cobra.Command {
	var dir string
	var withKey, sealKey bool
	c := &cobra.Command{
		Use:   "backup FILE",
		Short: "Write a consistent copy of the data to a file, also while it is worked with",
		Long: "Write a consistent copy of the data to a file, also while it is worked with.\n" +
			"Kept passwords are in it sealed; the key that opens them isn't, unless you say so. Without it they are typed in again after a restore.",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return opened(c, dir, func(ctx context.Context, s *store.Store) error {
				began := time.Now()
				o := store.BackupOptions{WithKey: withKey}
				if sealKey {
					passphrase, err := typed(c.InOrStdin(), c.ErrOrStderr(), "Passphrase for the key: ")
					if err != nil {
						return err
					}
					if o.Passphrase = passphrase; len([]rune(passphrase)) < people.LeastPassword {
						return fmt.Errorf("--seal-key: a passphrase has %d characters or more", people.LeastPassword)
					}
				}
				if err := s.Backup(ctx, args[0], o); err != nil {
					return err
				}
				info, err := os.Stat(args[0])
				if err != nil {
					return err
				}
				return json.NewEncoder(c.OutOrStdout()).
					Encode(map[string]any{"file": args[0], "bytes": info.Size(), "seconds": time.Since(began).Seconds()})
			})
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the data")
	c.Flags().BoolVar(&withKey, "with-key", false, "put the key of kept passwords into the backup as it is: whoever has the file can read them")
	c.Flags().BoolVar(&sealKey, "seal-key", false, "put the key into the backup sealed with a passphrase, which is asked for or read from the input")
	c.MarkFlagsMutuallyExclusive("with-key", "seal-key")
	return c
}

func restoreCommand() *cobra.Command {
	var dir string
	var overwrite, anyway bool
	c := &cobra.Command{
		Use:   "restore FILE",
		Short: "Put a backup into a folder; data that is there is replaced only with --overwrite, and kept beside it",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if dir == "" {
				return errors.New("--data: say into which folder the backup goes")
			}
			out, err := store.Restore(c.Context(), dir, args[0], store.RestoreOptions{Overwrite: overwrite, Anyway: anyway, Passphrase: func() (string, error) {
				return typedOnce(c.InOrStdin(), c.ErrOrStderr(), "Passphrase of the backup's key, or nothing to go on without it: ")
			}})
			if err != nil {
				return err
			}
			for _, what := range out.Again {
				_, _ = fmt.Fprintln(c.ErrOrStderr(), "Type in again:", what)
			}
			return json.NewEncoder(c.OutOrStdout()).Encode(map[string]any{"data": dir, "restored": args[0], "kept": out.Kept, "type_again": append([]string{}, out.Again...)})
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder the data goes to; made if it isn't there")
	c.Flags().BoolVar(&overwrite, "overwrite", false, "replace the data that is there")
	c.Flags().BoolVar(&anyway, "anyway", false, "put a backup back though check finds something wrong with it")
	return c
}
