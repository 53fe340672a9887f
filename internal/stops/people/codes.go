package people

import (
	"bytes"
	"context"
	"encoding/base64"
	"image/png"
	"strings"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
	"github.com/pquerna/otp/totp"

	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// codeEvery is how long a code holds, in seconds, and codeSlack how many before
// and after count too, since clocks differ (RFC 6238 section 5.2).
const (
	codeEvery = 30
	codeSlack = 1
)

// Code is a new secret for one-time codes, as an authenticator takes it.
type Code struct {
	Secret  string `json:"secret" doc:"Base32, to type in"`
	Address string `json:"address" doc:"otpauth address"`
	Picture string `json:"picture" doc:"The address as a QR code: a data address of a PNG"`
}

// BeginCode makes a secret for whoever asks. It is asked for at the log-in once
// they have shown that their authenticator has it.
func (st *Stop) BeginCode(ctx context.Context) (Code, error) {
	_, p, err := st.myself(ctx)
	if err != nil {
		return Code{}, err
	}
	if p.CodeOn {
		return Code{}, fault.New(fault.Conflict, "a code is asked for already; turn it off first to begin anew")
	}
	if p.Password == "" {
		return Code{}, fault.New(fault.Conflict, "set a password of your own first: the code is asked for beside it")
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Easy Margin", AccountName: p.Name})
	if err != nil {
		return Code{}, err
	}
	sealed, err := st.Store.Seal(key.Secret())
	if err != nil {
		return Code{}, err
	}
	img, err := key.Image(232, 232)
	if err != nil {
		return Code{}, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		return Code{}, err
	}
	picture := "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes())
	return Code{key.Secret(), key.URL(), picture}, st.Store.Do(ctx, func(tx store.Tx) error {
		return tx.Update(&p, map[string]any{"code": sealed, "code_step": 0})
	})
}

// AskCode has codes asked for from now on, given one that is right.
func (st *Stop) AskCode(ctx context.Context, code string) error {
	_, p, err := st.myself(ctx)
	if err != nil {
		return err
	}
	if p.Code == "" || p.CodeOn {
		return fault.New(fault.Conflict, "begin with a new secret first")
	}
	step, err := st.codeStep(&p, code)
	if err != nil {
		return fault.At("code", "%v", err)
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		return stops.First(
			tx.Update(&p, map[string]any{"code_on": true, "code_step": step}),
			tx.Note(st.Now(), "codes asked for", p.Name, ""),
		)
	})
}

// DropCode asks for no codes any more, given the password.
func (st *Stop) DropCode(ctx context.Context, password string) error {
	_, p, err := st.myself(ctx)
	if err != nil {
		return err
	}
	if err := st.again(p, password); err != nil {
		return fault.At("password", "%v", err)
	}
	return st.Store.Do(ctx, func(tx store.Tx) error {
		return stops.First(
			tx.Update(&p, map[string]any{"code": "", "code_on": false}),
			tx.Note(st.Now(), "codes no longer asked for", p.Name, ""),
		)
	})
}

// codeStep is the time step of a code that is right and was not used yet.
func (st *Stop) codeStep(p *store.Person, code string) (int64, error) {
	secret, err := st.Store.Unseal(p.Code)
	if err != nil {
		return 0, err
	}
	code = strings.ReplaceAll(strings.TrimSpace(code), " ", "")
	now := st.Clock().Unix() / codeEvery
	for step := now - codeSlack; step <= now+codeSlack; step++ {
		if step <= p.CodeStep || step < 0 {
			continue
		}
		fits, err := hotp.ValidateCustom(code, uint64(step), secret, hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err == nil && fits {
			return step, nil
		}
	}
	return 0, fault.New(fault.Held, "this is not the code that holds now, or it was used already: wait for the next one")
}
