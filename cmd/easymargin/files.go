package main

import (
	"encoding/json"
	"errors"
	"io"
	"time"

	"github.com/spf13/cobra"

	"easymargin/internal/actor"
	"easymargin/internal/feed"
	"easymargin/internal/house"
	"easymargin/internal/store"
)

// errHeld ends the program with 3: the feed is held and nothing of it was taken.
var errHeld = errors.New("the feed is held; nothing of it was taken")

func readCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "read FILE",
		Short: "Print what the reader makes of a supplier's file; touches no data",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			s := feed.Settings{Now: time.Now()}
			f, err := feed.Open(args[0], s)
			if err != nil {
				return err
			}
			return f.Print(c.OutOrStdout(), s)
		},
	}
}

func intakeCommand() *cobra.Command {
	var dir, source string
	c := &cobra.Command{
		Use:   "intake FILE",
		Short: "Take a supplier's file into a source; exits with 3 where it is held",
		Args:  cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if dir == "" || source == "" {
				return errors.New("--data and --source: say where the data is and which source the file belongs to")
			}
			return intake(c, dir, source, args[0], c.OutOrStdout())
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the data; made if it isn't there")
	c.Flags().StringVar(&source, "source", "", "name of the source; made if it isn't there")
	return c
}

func intake(c *cobra.Command, dir, source, file string, w io.Writer) error {
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	defer s.Close()
	out, err := house.New(house.Options{Store: s}).Sources.TakeFile(actor.With(c.Context(), "command line"), source, file)
	if err != nil {
		return err
	}
	if err := json.NewEncoder(w).Encode(out); err != nil {
		return err
	}
	if out.State == store.FeedHeld {
		return errHeld
	}
	return nil
}
