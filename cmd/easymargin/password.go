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
				password, err := typed(c.InOrStdin(), c.ErrOrStderr())
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

// typed is a password as a person types it, unseen and twice, or a line of what is
// piped in.
func typed(in io.Reader, out io.Writer) (string, error) {
	f, ok := in.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		line, err := bufio.NewReader(io.LimitReader(in, 4096)).ReadString('\n')
		if errors.Is(err, io.EOF) {
			err = nil
		}
		return strings.TrimRight(line, "\r\n"), err
	}
	ask := func(words string) (string, error) {
		_, _ = fmt.Fprint(out, words)
		text, err := term.ReadPassword(int(f.Fd()))
		_, _ = fmt.Fprintln(out)
		return string(text), err
	}
	first, err := ask(fmt.Sprintf("New password, %d characters or more: ", people.LeastPassword))
	if err != nil {
		return "", err
	}
	again, err := ask("Once more: ")
	if err == nil && first != again {
		err = errors.New("the two are not the same; nothing was changed")
	}
	return first, err
}
