package shop

import (
	"strings"
	"time"

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
	_, err := tx.QueueMail(store.Mail{Recipient: o.Buyer.Mail, Subject: place.OneLine(subject), Body: body, About: store.AboutShopOrder(o.Ref), MadeAt: now})
	return err
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
