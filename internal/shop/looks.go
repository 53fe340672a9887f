package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"easymargin/internal/fault"
	"easymargin/internal/store"
)

// Looks are how the shop looks, and what it says of itself.
type Looks struct {
	Name    string `json:"name" maxLength:"60"`
	Motto   string `json:"motto,omitempty" maxLength:"120" doc:"A line below the name"`
	Colour  string `json:"colour" doc:"Of its head and its buttons, #RRGGBB"`
	Ground  string `json:"ground" doc:"Of the page, #RRGGBB"`
	Picture string `json:"picture,omitempty" doc:"Digest of the picture on its first page"`
	About   string `json:"about,omitempty" maxLength:"4000" doc:"Who sells here: name, address, how they are reached. Plain text"`
	Terms   string `json:"terms,omitempty" maxLength:"4000" doc:"Delivery and returns. Plain text"`
}

// firstLooks are those of a shop of which nobody said anything yet.
func firstLooks(site *store.Site) Looks {
	return Looks{Name: site.Name, Colour: "#2F6B5E", Ground: "#FBF9F4"}
}

// looksSetting is the setting of the looks, JSON.
const looksSetting = "shop"

// LooksOf is how the shop looks, and the version of that.
func LooksOf(tx store.Tx, site *store.Site) (Looks, int64, error) {
	out := firstLooks(site)
	set, err := tx.Setting(looksSetting)
	if err != nil || set.Value == "" {
		return out, set.Version, err
	}
	if err := json.Unmarshal([]byte(set.Value), &out); err != nil {
		return out, set.Version, fmt.Errorf("how the shop looks: %w", err)
	}
	return out, set.Version, nil
}

var rgb = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// PutLooks keeps how the shop looks.
func PutLooks(tx store.Tx, l Looks) error {
	l.Name = strings.TrimSpace(l.Name)
	switch {
	case l.Name == "":
		return fault.At("name", "a shop needs a name")
	case !rgb.MatchString(l.Colour):
		return fault.At("colour", "%q is no colour such as #2F6B5E", l.Colour)
	case !rgb.MatchString(l.Ground):
		return fault.At("ground", "%q is no colour such as #FBF9F4", l.Ground)
	case contrast(l.Ground, ink) < 4.5 && contrast(l.Ground, paper) < 4.5:
		return fault.At("ground", "neither dark nor light text can be read on %s; choose a lighter or a darker one", l.Ground)
	}
	raw, err := json.Marshal(l)
	if err != nil {
		return err
	}
	return tx.PutSetting(looksSetting, string(raw))
}

// KeepPicture keeps a picture for the shop's first page.
func KeepPicture(ctx context.Context, s *store.Store, digest string, content []byte) error {
	if err := keepPicture(ctx, s, digest, content); err != nil {
		return fault.At("picture", "this is no picture that can be read: %v", err)
	}
	return nil
}

// Text is written in one of two colours, whichever is read better.
const (
	ink   = "#1D2733"
	paper = "#FFFFFF"
)

// on is the colour of text on a ground.
func on(ground string) string {
	if contrast(ground, ink) >= contrast(ground, paper) {
		return ink
	}
	return paper
}

// contrast is the ratio of two colours, as WCAG 2.2 has it: 1 to 21.
func contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

func luminance(colour string) float64 {
	part := func(from int) float64 {
		n, _ := strconv.ParseUint(colour[from:from+2], 16, 8)
		v := float64(n) / 255
		if v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*part(1) + 0.7152*part(3) + 0.0722*part(5)
}
