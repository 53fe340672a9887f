package reckon

import (
	"encoding/json"
	"fmt"
	"strings"

	"easymargin/core/listing"
	"easymargin/internal/place"
	"easymargin/internal/retouch"
	"easymargin/internal/store"
)

// Chosen is one picture of a listing: its original, what is done to it, and what
// came out.
type Chosen struct {
	Original string         `json:"original"`          // digest
	Recipe   retouch.Recipe `json:"recipe"`            // nothing: the original goes out
	Text     string         `json:"text,omitempty"`    // what is to be seen on it; "": the title and its number
	Address  string         `json:"address,omitempty"` // where the original can be had by anybody; "": nowhere
	Digest   string         `json:"digest"`            // of what goes out, with its figures
	Kind     string         `json:"kind"`
	Width    int64          `json:"width"`
	Height   int64          `json:"height"`
	Bytes    int64          `json:"bytes"`
	Small    bool           `json:"small,omitempty"` // smaller than the recipe wants
}

// PicturesField is what a person's choice of pictures is said of.
const PicturesField = "pictures"

// ChosenPictures are a person's choice of pictures; none where nobody chose.
func ChosenPictures(m *store.Material) ([]Chosen, bool) {
	var out []Chosen
	s, said := m.Said[PicturesField]
	if !said || json.Unmarshal([]byte(s.Value), &out) != nil {
		return nil, false
	}
	return out, true
}

// fillPictures takes the pictures that a person chose, else the supplier's.
func (f *Filled) fillPictures(m *store.Material) {
	var own bool
	if f.Pictures, own = ChosenPictures(m); own {
		f.From[PicturesField] = From{Kind: FromPerson, Name: m.Said[PicturesField].Actor, Without: fmt.Sprintf("%d of the supplier's", len(m.Pictures))}
	} else if len(m.Pictures) > 0 {
		for i := range m.Pictures {
			f.Pictures = append(f.Pictures, SuppliersPicture(&m.Pictures[i]))
		}
		f.From[PicturesField] = From{Kind: FromSupplier, Name: m.Supplier}
	}
	for _, p := range f.Pictures {
		f.Values.Pictures = append(f.Values.Pictures, listing.Picture{Width: p.Width, Height: p.Height, Kind: p.Kind, Bytes: p.Bytes})
	}
}

// SuppliersPicture is a kept picture as it is.
func SuppliersPicture(p *store.Picture) Chosen {
	x := Chosen{Original: p.Digest, Digest: p.Digest, Kind: p.Kind, Width: p.Width, Height: p.Height, Bytes: p.Bytes}
	if strings.HasPrefix(p.URL, "http") {
		x.Address = p.URL
	}
	return x
}

// named is a picture as a place is given it: by its address where anybody can
// have it there, else as it was uploaded.
func (c *Chosen) named() string {
	if c.Address != "" && c.Recipe.Nothing() {
		return c.Address
	}
	return place.UploadedPicture(c.Digest)
}

// Seen says what is to be seen on the picture at a place from 0, for those who
// can't see it: a person's words, else the title.
func (p *Prepared) Seen(i int) string {
	switch {
	case p.Pictures[i].Text != "":
		return p.Pictures[i].Text
	case i == 0:
		return p.Report.Title
	}
	return fmt.Sprintf("%s, view %d", p.Report.Title, i+1)
}
