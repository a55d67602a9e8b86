package values

import (
	"fmt"
	"math"
	"math/big"
	"strings"
)

// Decimal is an exact decimal number: units shifted by scale digits after the point. Numbers that do not fit 64 bits are held in
// big; most do, and are much faster.
type Decimal struct {
	units int64
	big   *big.Int // nil when units holds the number
	scale int      // at least 0
}

const (
	maxDigits   = 18 // that 64 bits surely hold
	maxExponent = 9999
)

// ParseDecimal reads digits with an optional sign, point and exponent. It is HTML's floating-point number, with a leading plus
// and a trailing point let through.
func ParseDecimal(text string) (Decimal, error) {
	i, negative := 0, false
	if i < len(text) && (text[i] == '+' || text[i] == '-') {
		negative = text[i] == '-'
		i++
	}
	digits, scale, point := 0, 0, false
	var units int64
	start := i
	for ; i < len(text); i++ {
		c := text[i]
		if c == '.' && !point {
			point = true
			continue
		}
		if c < '0' || c > '9' {
			break
		}
		digits++
		if digits <= maxDigits {
			units = units*10 + int64(c-'0')
		}
		if point {
			scale++
		}
	}
	end := i
	exponent := 0
	if i < len(text) && (text[i] == 'e' || text[i] == 'E') {
		n, ok := parseExponent(text[i+1:])
		if !ok {
			return Decimal{}, fmt.Errorf("%q is not a number", text)
		}
		exponent, i = n, len(text)
	}
	if digits == 0 || i < len(text) {
		return Decimal{}, fmt.Errorf("%q is not a number", text)
	}
	if negative {
		units = -units
	}
	if digits <= maxDigits && exponent == 0 {
		return Decimal{units: units, scale: scale}, nil
	}
	n, _ := new(big.Int).SetString(strings.Replace(text[start:end], ".", "", 1), 10)
	if negative {
		n.Neg(n)
	}
	scale -= exponent
	if scale < 0 {
		n.Mul(n, pow10(-scale))
		scale = 0
	}
	return ofBig(n, scale), nil
}

func parseExponent(text string) (n int, ok bool) {
	negative := false
	if text != "" && (text[0] == '+' || text[0] == '-') {
		negative = text[0] == '-'
		text = text[1:]
	}
	if text == "" {
		return 0, false
	}
	for i := range len(text) {
		if text[i] < '0' || text[i] > '9' {
			return 0, false
		}
		if n = n*10 + int(text[i]-'0'); n > maxExponent {
			return 0, false
		}
	}
	if negative {
		n = -n
	}
	return n, true
}

func ofBig(n *big.Int, scale int) Decimal {
	if n.IsInt64() && n.BitLen() < 60 {
		return Decimal{units: n.Int64(), scale: scale}
	}
	return Decimal{big: n, scale: scale}
}

func (d Decimal) unscaled() *big.Int {
	if d.big != nil {
		return d.big
	}
	return big.NewInt(d.units)
}

func pow10(n int) *big.Int { return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil) }

// sameScale: both are small and of one scale, so that their units can be computed with as they are.
func sameScale(a, b Decimal) bool { return a.big == nil && b.big == nil && a.scale == b.scale }

func align(a, b Decimal) (x, y *big.Int, scale int) {
	scale = max(a.scale, b.scale)
	x = new(big.Int).Mul(a.unscaled(), pow10(scale-a.scale))
	y = new(big.Int).Mul(b.unscaled(), pow10(scale-b.scale))
	return x, y, scale
}

// Cmp compares by value: -1, 0, 1.
func (d Decimal) Cmp(o Decimal) int {
	if sameScale(d, o) {
		switch {
		case d.units < o.units:
			return -1
		case d.units > o.units:
			return 1
		}
		return 0
	}
	x, y, _ := align(d, o)
	return x.Cmp(y)
}

// Add returns the sum.
func (d Decimal) Add(o Decimal) Decimal {
	x, y, scale := align(d, o)
	return ofBig(x.Add(x, y), scale)
}

// Sub returns the difference.
func (d Decimal) Sub(o Decimal) Decimal {
	x, y, scale := align(d, o)
	return ofBig(x.Sub(x, y), scale)
}

// Times is the decimal n times.
func (d Decimal) Times(n int64) Decimal {
	return ofBig(new(big.Int).Mul(d.unscaled(), big.NewInt(n)), d.scale)
}

// Half returns half the number, exactly.
func (d Decimal) Half() Decimal {
	return ofBig(new(big.Int).Mul(d.unscaled(), big.NewInt(5)), d.scale+1)
}

// Fits reports whether the number lies on a whole count of steps from base.
func (d Decimal) Fits(base, step Decimal) bool {
	if sameScale(d, base) && sameScale(d, step) && step.units != 0 {
		return (d.units-base.units)%step.units == 0
	}
	x, y, _ := align(d.Sub(base), step)
	return y.Sign() != 0 && new(big.Int).Rem(x, y).Sign() == 0
}

// Scale is the number of digits after the point, trailing zeros dropped.
func (d Decimal) Scale() int {
	if d.scale == 0 {
		return 0
	}
	n, scale := new(big.Int).Set(d.unscaled()), d.scale
	rest := new(big.Int)
	for scale > 0 {
		q, r := new(big.Int).QuoRem(n, big.NewInt(10), rest)
		if r.Sign() != 0 {
			break
		}
		n, scale = q, scale-1
	}
	return scale
}

// exactPowers are the powers of ten that a floating-point number holds exactly.
const exactPowers = 22

// Float is the nearest floating-point number, for drawing and for expressions.
func (d Decimal) Float() float64 {
	if d.big == nil && d.scale == 0 {
		return float64(d.units)
	}
	if d.big == nil && d.scale <= exactPowers && d.units < 1<<53 && d.units > -1<<53 {
		return float64(d.units) / math.Pow10(d.scale) // both exact, so the quotient is rounded once
	}
	f, _ := new(big.Rat).SetFrac(d.unscaled(), pow10(d.scale)).Float64()
	return f
}

// String writes the number without an exponent and without trailing zeros.
func (d Decimal) String() string {
	n := d.unscaled()
	digits := new(big.Int).Abs(n).String()
	if d.scale > 0 {
		if missing := d.scale + 1 - len(digits); missing > 0 {
			digits = strings.Repeat("0", missing) + digits
		}
		at := len(digits) - d.scale
		digits = strings.TrimRight(strings.TrimRight(digits[:at]+"."+digits[at:], "0"), ".")
	}
	if n.Sign() < 0 {
		return "-" + digits
	}
	return digits
}

// Whole makes a decimal of a whole number.
func Whole(n int64) Decimal { return Decimal{units: n} }
