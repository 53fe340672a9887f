package feed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/internal/feed"
)

// Where no column is known as the cost, the one that could be it is proposed
// and not taken; where several could, none is.
func TestTheCostIsProposedAndNotTaken(t *testing.T) {
	for text, want := range map[string]string{
		"ref,title,dealer,rrp\nA,Mug,4.10,9.99\nB,Pot,12,24.50\n":                "dealer",
		"ref,title,dealer\nA,Mug,4.10\nB,Pot,12.00\n":                            "dealer",
		"ref,title,dealer,rrp\nA,Mug,4.10,9.99\nB,Pot,30.00,24.50\n":             "", // not below the list price
		"ref,title,dealer,partner,rrp\nA,Mug,4.10,4.00,9.99\n":                   "", // two could be
		"ref,title,left\nA,Mug,4\nB,Pot,12\n":                                    "", // figures, and no money
		"ref,title,note\nA,Mug,4.10\nB,Pot,ask\n":                                "",
		"ref,title,dealer,cost\nA,Mug,4.10,3.00\n":                               "",
		"ref;title;dealer\nA;Mug;4,10 EUR\nB;Pot;1.200,00 EUR\nC;Peg;0,50 EUR\n": "dealer",
	} {
		f, err := feed.Open(file(t, []byte(text)), feed.Settings{})
		if !assert.NoError(t, err, text) {
			continue
		}
		got := ""
		for _, c := range f.Look().Columns {
			if c.Proposed == "cost" {
				got = c.Name
				assert.Empty(t, c.Field, "it isn't read as it")
			}
		}
		assert.Equal(t, want, got, text)
	}
	chosen := feed.Settings{Columns: map[string]string{"dealer": ""}}
	f, err := feed.Open(file(t, []byte("ref,title,dealer\nA,Mug,4.10\n")), chosen)
	assert.NoError(t, err)
	look := f.Look()
	assert.Empty(t, look.Columns[2].Proposed, "a person said that it isn't")
	assert.Equal(t, []string{"cost"}, look.Missing())
}
