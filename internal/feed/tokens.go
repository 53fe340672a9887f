package feed

import (
	"encoding/json"
	"encoding/xml"
	"io"
)

// tokens ends a stream in which one token goes on for too long: decoders hold a
// token whole before they give it, whoever sent it. It counts what is read
// between two of them; a decoder reads a little ahead, which doesn't matter here.
type tokens struct {
	r    io.Reader
	left int
	over error
}

func (t *tokens) Read(p []byte) (int, error) {
	if t.left <= 0 {
		return 0, t.over
	}
	n, err := t.r.Read(p[:min(len(p), t.left)])
	t.left -= n
	return n, err
}

// xmlTokens is an XML decoder of which no tag, text or comment is too long.
type xmlTokens struct {
	*xml.Decoder
	in *tokens
}

func newXMLTokens(r io.Reader, what string) *xmlTokens {
	in := &tokens{
		r: r,
		over: wrong(
			"%s has a tag, a text or a comment of more than %d MiB, which is the most that is read of one; ask the supplier to send it again without it",
			what,
			MaxToken>>20,
		),
	}
	d := xml.NewDecoder(in)
	d.Entity = xml.HTMLEntity                                                          // as pages have them; a document's own are an error
	d.CharsetReader = func(_ string, r io.Reader) (io.Reader, error) { return r, nil } // decoded already
	return &xmlTokens{d, in}
}

// Token is the next token.
func (d *xmlTokens) Token() (xml.Token, error) {
	d.in.left = MaxToken
	return d.Decoder.Token()
}

// Skip passes over what is inside the element whose start was read.
func (d *xmlTokens) Skip() error {
	for depth := 1; depth > 0; {
		t, err := d.Token()
		if err != nil {
			return err
		}
		switch t.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			depth--
		}
	}
	return nil
}

// jsonTokens is a JSON decoder of which no text and no row is too long.
type jsonTokens struct {
	*json.Decoder
	in *tokens
}

func newJSONTokens(r io.Reader) *jsonTokens {
	in := &tokens{
		r: r,
		over: wrong(
			"the JSON has a row or a text of more than %d MiB, which is the most that is read of one; ask the supplier to send it again without it",
			MaxToken>>20,
		),
	}
	d := json.NewDecoder(in)
	d.UseNumber()
	return &jsonTokens{d, in}
}

// Token is the next token.
func (d *jsonTokens) Token() (json.Token, error) {
	d.in.left = MaxToken
	return d.Decoder.Token()
}

// Decode reads a whole value.
func (d *jsonTokens) Decode(v any) error {
	d.in.left = MaxToken
	return d.Decoder.Decode(v)
}
