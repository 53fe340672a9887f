package ident_test

import (
	"testing"

	"easymargin/core/ident"
)

// FuzzRead gives any text at all: a number that is found is whole, its check
// digit right, and reading it again gives the same.
func FuzzRead(f *testing.F) {
	for _, s := range []string{"9520000314002", "952-000033434-5", "GTIN-13 9520000364854", "9.520000395360E+12", `="9520000476724"`, "’9520000486891", "９５２００００８８１２３８", "080442957X", "01234565", "N / A", "EAN 8 95244174", "9,520000881245E+12", "—"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		n := ident.Read(s)
		if !n.Found() {
			if n.GTIN != "" || n.Kind != "" || n.Why == "" && n.Status != ident.None {
				t.Fatalf("%q: not found, and yet %+v", s, n)
			}
			return
		}
		if len(n.GTIN) != 14 {
			t.Fatalf("%q: a number of %d digits", s, len(n.GTIN))
		}
		again := ident.Read(n.GTIN)
		if again.GTIN != n.GTIN || again.Status != ident.Good {
			t.Fatalf("%q became %s, which reads as %+v", s, n.GTIN, again)
		}
		ident.Answer(s)
	})
}
