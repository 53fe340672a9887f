package store

import (
	"encoding/json"
	"fmt"
	"time"
)

// MailSetting is the setting of how mail is sent, JSON.
const MailSetting = "mail"

// QueueMail has a mail sent; false where no mail server is set.
func (tx Tx) QueueMail(now time.Time, to, subject, body string) (bool, error) {
	set, err := tx.Setting(MailSetting)
	if err != nil {
		return false, err
	}
	var server struct{ Host string }
	if set.Value != "" {
		if err := json.Unmarshal([]byte(set.Value), &server); err != nil {
			return false, fmt.Errorf("how mail is sent: %w", err)
		}
	}
	if server.Host == "" {
		return false, nil
	}
	if err := tx.Create(&Mail{Recipient: to, Subject: subject, Body: body, MadeAt: now}); err != nil {
		return false, err
	}
	return true, tx.Queue(&Run{Kind: RunMail, Lane: RunMail, Title: "Sending mail", Once: true, CreatedAt: now})
}
