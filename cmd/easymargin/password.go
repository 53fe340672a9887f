package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"easymargin/internal/house"
	"easymargin/internal/stops/people"
	"easymargin/internal/store"
)

func passwordCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "password [NAME]",
		Short: "Give somebody who works here a new password; it is asked for, or read from the input",
		Long: "Give somebody who works here a new password: whoever is named, or the one person who works here.\n" +
			"Their log-ins end, and no one-time code is asked for any more, since whoever lost one may have lost both.",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return opened(c, dir, func(ctx context.Context, s *store.Store) error {
				password, err := typed(c.InOrStdin(), c.ErrOrStderr(), fmt.Sprintf("New password, %d characters or more: ", people.LeastPassword))
				if err != nil {
					return err
				}
				name, err := house.New(house.Options{Store: s}).People.Reset(ctx, strings.Join(args, ""), password)
				if err != nil {
					return err
				}
				_, err = fmt.Fprintf(c.OutOrStdout(), "%s has a new password; their log-ins have ended\n", name)
				return err
			})
		},
	}
	c.Flags().StringVar(&dir, "data", "", "folder of the data")
	return c
}

// typed is a new password as a person types it, unseen and twice, or a line of what is
// piped in.
func typed(in io.Reader, out io.Writer, words string) (string, error) {
	first, err := typedOnce(in, out, words)
	if err != nil || !terminal(in) {
		return first, err
	}
	again, err := typedOnce(in, out, "Once more: ")
	if err == nil && first != again {
		err = errors.New("the two are not the same; nothing was changed")
	}
	return first, err
}

// typedOnce is a password as a person types it, unseen, or a line of what is piped in.
func typedOnce(in io.Reader, out io.Writer, words string) (string, error) {
	if !terminal(in) {
		line, err := bufio.NewReader(io.LimitReader(in, 4096)).ReadString('\n')
		if errors.Is(err, io.EOF) {
			err = nil
		}
		return strings.TrimRight(line, "\r\n"), err
	}
	_, _ = fmt.Fprint(out, words)
	text, err := term.ReadPassword(int(in.(*os.File).Fd()))
	_, _ = fmt.Fprintln(out)
	return string(text), err
}

// terminal tells whether somebody types what is read.
func terminal(in io.Reader) bool {
	f, ok := in.(*os.File)
	return ok && term.IsTerminal(int(f.Fd()))
}
