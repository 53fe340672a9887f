// Package ident reads product numbers: GTINs in all their lengths and ISBNs,
// as suppliers write and damage them. It follows docs/definitions/identifiers.md, the
// GS1 General Specifications and ISO 2108. What can't be proved isn't repaired.
package ident

import "fmt"

// Kind is how a number is printed.
type Kind string

// The kinds of number.
const (
	EAN13  Kind = "ean13"
	UPCA   Kind = "upca"
	UPCE   Kind = "upce"
	EAN8   Kind = "ean8"
	GTIN14 Kind = "gtin14"
	ISBN13 Kind = "isbn13"
	ISBN10 Kind = "isbn10"
)

// Status says what became of a text.
type Status string

// The statuses of a text.
const (
	Good     Status = "good"
	Repaired Status = "repaired"
	Wrong    Status = "wrong"
	Lost     Status = "lost"
	None     Status = "none"
)

// Why is the reason of a status; empty for Good.
type Why string

// The reasons.
const (
	WhyEmpty        Why = "empty"
	WhyPlaceholder  Why = "placeholder"
	WhyDecimal      Why = "decimal"
	WhyExponent     Why = "exponent"
	WhyCharacters   Why = "characters"
	WhyLeadingZeros Why = "leading zeros"
	WhyLength       Why = "length"
	WhyCheckDigit   Why = "check digit"
)

// Use is what the number's prefix says of it.
type Use string

// The uses.
const (
	Trade    Use = "trade"
	Internal Use = "internal"
	Coupon   Use = "coupon"
	Example  Use = "example"
	Book     Use = "book"
	Serial   Use = "serial"
)

// Number is what a text was read as. Kind, GTIN, Shown and Use are empty
// unless Status is Good or Repaired.
type Number struct {
	Kind   Kind
	GTIN   string // 14 digits, zero-padded: what is stored and compared
	Shown  string // as its kind is printed
	Status Status
	Why    Why
	Use    Use
	Inside string // 14 digits of the item inside a case; GTIN14 only, and not for first digit 9
	Right  byte   // with WhyCheckDigit, the digit that would be right; else 0
}

// Found tells whether there is a number.
func (n Number) Found() bool { return n.Status == Good || n.Status == Repaired }

// Message says for people what was wrong or repaired; empty for a good number or none.
func (n Number) Message() string {
	switch {
	case n.Status == Good || n.Status == None:
		return ""
	case n.Status == Lost:
		return "a spreadsheet has rounded this number; its digits are gone"
	case n.Status == Repaired && n.Why == WhyDecimal:
		return "decimals added by a spreadsheet were taken off"
	case n.Status == Repaired && n.Why == WhyExponent:
		return "scientific notation was written out"
	case n.Status == Repaired:
		return "leading zeros eaten by a spreadsheet were put back; confirm it by other evidence"
	case n.Why == WhyCheckDigit:
		return fmt.Sprintf("the check digit is wrong; with these digits it would be %c", n.Right)
	case n.Why == WhyCharacters:
		return "holds characters that no product number has"
	}
	return "no product number has this many digits"
}

func none(why Why) Number  { return Number{Status: None, Why: why} }
func wrong(why Why) Number { return Number{Status: Wrong, Why: why} }

// judge is steps 5 and 6 on digits, with a final X where there are ten.
func judge(s string) Number {
	n, right := classify(s)
	if n.Kind != "" {
		return n
	}
	switch len(s) {
	case 6, 7, 9, 10, 11:
		if len(s) == 10 && s[9] == 'X' {
			return Number{Status: Wrong, Why: WhyCheckDigit, Right: right}
		}
		return padded(s)
	case 8, 12, 13, 14:
		return Number{Status: Wrong, Why: WhyCheckDigit, Right: right}
	}
	return wrong(WhyLength)
}

// classify is step 5 for a number as it stands; without a Kind it does not check.
func classify(s string) (n Number, right byte) {
	switch len(s) {
	case 12, 13, 14:
		full := "00"[:14-len(s)] + s
		if right = checkDigit(full[:13]); right != full[13] {
			return n, right
		}
		return ofFull(full), right
	case 10:
		if right = isbn10Digit(s[:9]); right != s[9] {
			return n, right
		}
		body := "0978" + s[:9]
		return Number{Kind: ISBN10, GTIN: body + string(checkDigit(body)), Shown: s, Status: Good, Use: Book}, right
	case 8:
		right = checkDigit(s[:7])
		full := expand(s)
		short := s[0] <= '1' && checkDigit(full[:13]) == full[13]
		if short && (s[0] == '0' || right != s[7]) {
			return Number{Kind: UPCE, GTIN: full, Shown: s, Status: Good, Use: use13(full[1:])}, right
		}
		if right == s[7] {
			return Number{Kind: EAN8, GTIN: "000000" + s, Shown: s, Status: Good, Use: use8(s)}, right
		}
	}
	return n, right
}

// ofFull names a number of 14 digits whose check digit is right.
func ofFull(full string) Number {
	n := Number{GTIN: full, Status: Good, Use: use13(full[1:])}
	switch {
	case full[:6] == "000000":
		n.Kind, n.Shown, n.Use = EAN8, full[6:], use8(full[6:])
	case full[0] != '0':
		n.Kind, n.Shown = GTIN14, full
		if full[0] != '9' {
			n.Inside = "0" + full[1:13] + string(checkDigit("0"+full[1:13]))
		}
	case full[1] == '0':
		n.Kind, n.Shown = UPCA, full[2:]
	case full[1:4] == "978" || full[1:4] == "979" && full[4] != '0':
		n.Kind, n.Shown = ISBN13, full[1:]
	default:
		n.Kind, n.Shown = EAN13, full[1:]
	}
	return n
}

// padded puts back one or two zeros that a spreadsheet may have eaten, shortest first.
func padded(s string) Number {
	for _, length := range []int{8, 10, 12, 13} {
		pad := length - len(s)
		if pad < 1 || pad > 2 {
			continue
		}
		n, _ := classify("00"[:pad] + s)
		if n.Kind == "" || length == 8 && n.Kind != UPCE {
			continue
		}
		n.Status, n.Why = Repaired, WhyLeadingZeros
		return n
	}
	return wrong(WhyLength)
}

// checkDigit is GS1's, of any body: weights 3 and 1 from the right.
func checkDigit(body string) byte {
	sum := 0
	for i := 0; i < len(body); i++ {
		d := int(body[len(body)-1-i] - '0')
		if i%2 == 0 {
			d *= 3
		}
		sum += d
	}
	return byte('0' + (10-sum%10)%10)
}

// isbn10Digit is ISO 2108's modulo 11.
func isbn10Digit(body string) byte {
	sum := 0
	for i := 0; i < len(body); i++ {
		sum += (10 - i) * int(body[i]-'0')
	}
	d := (11 - sum%11) % 11
	if d == 10 {
		return 'X'
	}
	return byte('0' + d)
}

// expand writes a UPC-E of 8 digits out as its UPC-A, padded to 14.
func expand(s string) string {
	var body string
	switch last := s[6]; last {
	case '0', '1', '2':
		body = s[:3] + s[6:7] + "0000" + s[3:6]
	case '3':
		body = s[:4] + "00000" + s[4:6]
	case '4':
		body = s[:5] + "00000" + s[5:6]
	default:
		body = s[:6] + "0000" + s[6:7]
	}
	return "00" + body + s[7:]
}

// use13 reads the prefix of a 13-digit number.
func use13(s string) Use {
	p := s[:3]
	switch {
	case p >= "020" && p <= "029", p >= "040" && p <= "049", p >= "200" && p <= "299", p == "980":
		return Internal
	case p >= "050" && p <= "059", p >= "981" && p <= "984", p >= "990":
		return Coupon
	case p == "952":
		return Example
	case p == "977":
		return Serial
	case p == "978", p == "979" && s[3] != '0':
		return Book
	}
	return Trade
}

func use8(s string) Use {
	switch {
	case s[:3] == "952":
		return Example
	case s[0] == '0' || s[0] == '2':
		return Internal
	}
	return Trade
}
