package matching

import (
	"context"
	"fmt"
	"strings"

	"easymargin/core/ident"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// lowPool is from how few free numbers on a person is told.
const lowPool = 10

// Pool is how many numbers of the seller's own there are.
type Pool struct {
	Free  int64 `json:"free"`
	Taken int64 `json:"taken"`
	Low   bool  `json:"low" doc:"There were some, and few are left"`
}

// PoolAdded is what became of numbers that were given.
type PoolAdded struct {
	Added int64       `json:"added"`
	Known int64       `json:"known" doc:"In the pool before"`
	Bad   []BadNumber `json:"bad"`
}

// BadNumber is a number that can't be taken, and why.
type BadNumber struct {
	Line   int    `json:"line"`
	Number string `json:"number"`
	Why    string `json:"why"`
}

// mostPool is the most numbers that are taken at once.
const mostPool = 100_000

// AddNumbers puts numbers into the pool: one a line, or with anything but
// letters and digits between. Those that can't be sold under are said, and the
// others still taken.
func (st *Stop) AddNumbers(ctx context.Context, text string) (PoolAdded, error) {
	out := PoolAdded{Bad: []BadNumber{}}
	var good []string
	seen := map[string]bool{}
	lines := strings.Split(strings.ReplaceAll(text, "\r", ""), "\n")
	for i, line := range lines {
		for _, word := range strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' || r == '\t' || r == '|' }) {
			word = strings.TrimSpace(strings.Trim(strings.TrimSpace(word), `"`))
			if word == "" {
				continue
			}
			n := ident.Read(word)
			if i == 0 && !strings.ContainsAny(word, "0123456789") {
				continue // a heading
			}
			switch why := unfit(n); {
			case why != "":
				if len(out.Bad) < 200 {
					out.Bad = append(out.Bad, BadNumber{i + 1, stops.Clip(word, 60), why})
				}
			case seen[n.GTIN]:
				out.Known++
			default:
				seen[n.GTIN] = true
				good = append(good, n.GTIN)
			}
		}
		if len(good) > mostPool {
			return out, fault.At("numbers", "at most %d numbers at once", mostPool)
		}
	}
	if len(good) == 0 && len(out.Bad) == 0 && out.Known == 0 {
		return out, fault.At("numbers", "there is no number in it; paste one a line")
	}
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		added, err := tx.AddPool(st.Now(), good)
		if err != nil {
			return err
		}
		out.Added, out.Known = added, out.Known+int64(len(good))-added
		tx.Changed("pool", "counts")
		return tx.Note(st.Now(), "numbers added", fmt.Sprint(added), "")
	})
	return out, err
}

// unfit says why a number can't be one of the seller's own: identifiers.md.
func unfit(n ident.Number) string {
	switch {
	case n.Status == ident.Repaired && n.Why == ident.WhyLeadingZeros:
		return "zeros were eaten at its front; write it whole"
	case n.Status == ident.None:
		return "it is no number"
	case !n.Found():
		return n.Message()
	case n.Inside != "" || n.Kind == ident.GTIN14:
		return "it is of a case, not of a thing"
	case n.Use == ident.Internal:
		return "it is for use in one's own house and may not be listed"
	case n.Use == ident.Coupon:
		return "it is a coupon's"
	case n.Use == ident.Book || n.Use == ident.Serial:
		return "it is a book's or a journal's"
	}
	return ""
}

// PoolState counts the pool.
func (st *Stop) PoolState(ctx context.Context) (Pool, error) {
	free, taken, err := st.Store.PoolCounts(ctx)
	return Pool{free, taken, free+taken > 0 && free < lowPool}, err
}

// GiveNumber hands the next free number out for a new entry that was asked for.
func (st *Stop) GiveNumber(ctx context.Context, matchID int64) (string, error) {
	var given string
	err := st.Store.Do(ctx, func(tx store.Tx) error {
		m, _, p, err := st.matchOf(tx, matchID)
		if err != nil {
			return err
		}
		if m.State != store.MatchNewEntry {
			return fault.New(fault.Conflict, "only what a new entry is asked for gets a number; %s is not", p.Title)
		}
		if given, err = tx.NumberOf(m.ID); err != nil || given != "" {
			return err
		}
		if given, err = tx.TakeNumber(st.Now(), m.ID); err != nil {
			return err
		}
		if given == "" {
			return fault.New(fault.Conflict, "no number is left; add some under Match, Own numbers")
		}
		tx.Changed("pool", "matches")
		return tx.Note(st.Now(), "number handed out", p.Ref, given)
	})
	return given, err
}

// GiveBack puts a number that a new entry got back into the pool.
func (st *Stop) GiveBack(ctx context.Context, matchID int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		n, err := tx.ReturnNumber(matchID)
		if err != nil {
			return err
		}
		if n == 0 {
			return fault.New(fault.Missing, "it has no number of your own")
		}
		tx.Changed("pool", "matches")
		return nil
	})
}
