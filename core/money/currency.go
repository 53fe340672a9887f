package money

import "strings"

// Currency is an ISO 4217 code in capitals, such as GBP.
type Currency string

// Digits is how many decimals the currency has by ISO 4217. It is false for
// unknown codes and for those without 0, 2 or 3 digits. An amount whose
// currency isn't known yet is written with 2.
func (c Currency) Digits() (int, bool) {
	switch c { // the ones asked for all day, before the table
	case "GBP", "EUR", "USD":
		return 2, true
	case "":
		return 2, false
	}
	d, ok := digits[c]
	return d, ok
}

// Valid tells whether amounts can be kept in the currency.
func (c Currency) Valid() bool { _, ok := c.Digits(); return ok }

// digits is ISO 4217's table, active codes and funds, less those that have no
// minor unit at all (metals, tests) and those with four digits.
var digits = func() map[Currency]int {
	m := map[Currency]int{}
	for n, codes := range map[int]string{
		0: "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF",
		3: "BHD IQD JOD KWD LYD OMR TND",
		2: `AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE
			CHF CHW CNY COP COU CRC CUP CVE CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD
			HNL HTG HUF IDR ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP
			MRU MUR MVR MWK MXN MXV MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD
			SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD USN UYU UZS
			VED VES WST XAD XCD XCG YER ZAR ZMW ZWG`,
	} {
		for _, c := range strings.Fields(codes) {
			m[Currency(c)] = n
		}
	}
	return m
}()
