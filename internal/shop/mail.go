package shop

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"easymargin/core/money"
	"easymargin/internal/place"
	"easymargin/internal/store"
)

// mailBuyer queues a mail to whoever bought, where mail can be sent.
func mailBuyer(tx store.Tx, now time.Time, o *place.Order, subject, body string) error {
	if o.Buyer.Mail == "" {
		return nil
	}
	set, err := tx.Setting("mail")
	if err != nil {
		return err
	}
	var server struct{ Host string }
	if set.Value != "" {
		if err := json.Unmarshal([]byte(set.Value), &server); err != nil {
			return fmt.Errorf("how mail is sent: %w", err)
		}
	}
	if server.Host == "" {
		return nil
	}
	if err := tx.Create(&store.Mail{Recipient: o.Buyer.Mail, Subject: oneLine(subject), Body: body, MadeAt: now}); err != nil {
		return err
	}
	return tx.Queue(&store.Run{Kind: store.RunMail, Lane: store.RunMail, Title: "Sending mail", Once: true, CreatedAt: now})
}

// oneLine keeps a text on the line it is on.
func oneLine(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, s)
}

// shown is an amount as buyers read it: £12.40.
func shown(minor int64, code string) string {
	digits := money.Of(minor, money.Currency(code)).String()
	unit, err := currency.ParseISO(code)
	if err != nil {
		return digits + " " + code
	}
	sign := message.NewPrinter(language.BritishEnglish).Sprint(currency.NarrowSymbol(unit))
	if strings.HasPrefix(digits, "-") {
		return "−" + sign + digits[1:]
	}
	return sign + digits
}
