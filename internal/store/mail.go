package store

import (
	"encoding/json"
	"fmt"
)

// MailSetting is the setting of how mail is sent, JSON.
const MailSetting = "mail"

// AboutPurchase is what a mail says it is about that a purchase asked for.
func AboutPurchase(id int64) string { return fmt.Sprint("purchase ", id) }

// AboutShopOrder is what a mail says it is about that an order of the own shop asked for.
func AboutShopOrder(ref string) string { return "shop order " + ref }

// MailsAbout are the mails that something asked for, oldest first.
func (tx Tx) MailsAbout(about string) ([]Mail, error) {
	var out []Mail
	err := tx.db.Where("about = ?", about).Order("id").Find(&out).Error
	return out, err
}

// QueueMail has a mail sent; false where no mail server is set.
func (tx Tx) QueueMail(m Mail) (bool, error) {
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
	if err := tx.Create(&m); err != nil {
		return false, err
	}
	return true, tx.Queue(&Run{Kind: RunMail, Lane: RunMail, Title: "Sending mail", Once: true, CreatedAt: m.MadeAt})
}
