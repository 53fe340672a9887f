package demo_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"

	"easymargin/demo"
	"easymargin/internal/sim"
)

func TestTheSameSeedGivesTheSameBytes(t *testing.T) {
	a, b := demo.Fernhollow(), demo.Fernhollow()
	assert.Equal(t, a, b)
	assert.Equal(t, 1199, bytes.Count(a[0], []byte("\n"))) // a header, 1 194 products and four slips
	m := demo.Quaymarket(sim.NewClock(demo.Start, 0))
	assert.InDelta(t, 3000, len(m.Entries), 10)
}
