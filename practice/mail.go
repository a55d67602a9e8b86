package practice

import (
	"context"
	"fmt"
	"mime"
	"net/smtp"
	"time"
)

// askToConfirm sends who has joined a link that confirms the address, where the site has a server for its mails.
func (s *Site) askToConfirm(ctx context.Context, id int64, a application) error {
	if s.mail == "" {
		return nil
	}
	code, err := s.confirmation(ctx, id)
	if err != nil {
		return err
	}
	secret := ""
	if s.on("mail-secret") {
		secret = "Your password is " + a.password + "\r\n"
	}
	text := fmt.Sprintf("From: Ostlewick Allotments <plots@ostlewick.test>\r\nTo: %s\r\nSubject: %s\r\nDate: %s\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: 8bit\r\n\r\nWelcome, %s.\r\n\r\nPlease confirm your address:\r\n%s/confirm?code=%s\r\n%s",
		a.mail, mime.QEncoding.Encode("utf-8", "Confirm your address"), time.Now().Format(time.RFC1123Z), a.username, s.public, code, secret)
	return smtp.SendMail(s.mail, nil, "plots@ostlewick.test", []string{a.mail}, []byte(text))
}
