package feed

import (
	"regexp"
	"strconv"
	"strings"
	"time"
)

var dayMonth = regexp.MustCompile(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4})$`)

// layouts are the ways of writing a day that leave no doubt.
var layouts = []string{
	time.DateOnly,
	"2006/01/02",
	"2006.01.02",
	"20060102",
	"2 January 2006",
	"2 Jan 2006",
	"January 2, 2006",
	"Jan 2, 2006",
	"02-Jan-2006",
	"2-Jan-06",
	"02 Jan 06",
}

// day reads a day; guessed says that day and month could be the other way round.
func day(s string, number, from1904 bool) (iso string, guessed, ok bool) {
	s = strings.TrimSpace(s)
	if number {
		whole, _, _ := strings.Cut(s, ".")
		n, err := strconv.Atoi(whole)
		if from1904 {
			n += 1462
		}
		if err == nil && n > 1 && n < 200_000 && len(whole) < 7 { // a sheet counts days from 1899-12-30
			return time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format(time.DateOnly), false, true
		}
	}
	if at := strings.IndexAny(s, "T"); at == 10 && len(s) > 10 {
		s = s[:10]
	} else if at := strings.IndexByte(s, ' '); at == 10 && len(s) >= 15 && s[13] == ':' {
		s = s[:10]
	}
	for _, l := range layouts {
		if t, err := time.Parse(l, s); err == nil {
			return t.Format(time.DateOnly), false, true
		}
	}
	m := dayMonth.FindStringSubmatch(s)
	if m == nil {
		return "", false, false
	}
	d, _ := strconv.Atoi(m[1])
	month, _ := strconv.Atoi(m[3])
	year, _ := strconv.Atoi(m[4])
	if month > 12 && d <= 12 {
		d, month = month, d
	} else {
		guessed = m[2] == "/" && d <= 12 && month <= 12 && d != month
	}
	t := time.Date(year, time.Month(month), d, 0, 0, 0, 0, time.UTC)
	if month < 1 || month > 12 || t.Day() != d {
		return "", false, false
	}
	return t.Format(time.DateOnly), guessed, true
}

func (p *parser) available(r *Record, row *Row) {
	s := strings.TrimSpace(p.cell(r, fAvailableFrom))
	if s == "" {
		return
	}
	iso, guessed, ok := day(s, r.number(p.index[fAvailableFrom]), p.look.from1904)
	if !ok {
		p.warn(row, fAvailableFrom, s, "is no day such as 2027-05-01 and was left out")
		return
	}
	if row.Product.AvailableFrom = iso; guessed {
		p.warn(row, fAvailableFrom, s, "was read with the day before the month")
	}
}
