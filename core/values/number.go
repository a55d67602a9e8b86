package values

import (
	"fmt"
	"math/big"
	"regexp"
	"strings"
)

// Decimal is an exact decimal number.
type Decimal struct {
	unscaled *big.Int
	scale    int // digits after the point, at least 0
}

var decimalForm = regexp.MustCompile(`^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,4})?$`)

// ParseDecimal reads digits with an optional sign, point and exponent. It is HTML's floating-point number, with a leading plus
// and a trailing point let through.
func ParseDecimal(text string) (Decimal, error) {
	if !decimalForm.MatchString(text) {
		return Decimal{}, fmt.Errorf("%q is not a number", text)
	}
	mantissa, exponent := text, 0
	if i := strings.IndexAny(text, "eE"); i >= 0 {
		mantissa = text[:i]
		if _, err := fmt.Sscanf(text[i+1:], "%d", &exponent); err != nil {
			return Decimal{}, fmt.Errorf("%q is not a number", text)
		}
	}
	whole, fraction, _ := strings.Cut(mantissa, ".")
	n, ok := new(big.Int).SetString(strings.TrimPrefix(whole+fraction, "+"), 10)
	if !ok {
		return Decimal{}, fmt.Errorf("%q is not a number", text)
	}
	scale := len(fraction) - exponent
	if scale < 0 {
		n.Mul(n, pow10(-scale))
		scale = 0
	}
	return Decimal{n, scale}, nil
}

func pow10(n int) *big.Int { return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(n)), nil) }

func align(a, b Decimal) (x, y *big.Int, scale int) {
	scale = max(a.scale, b.scale)
	x = new(big.Int).Mul(a.unscaled, pow10(scale-a.scale))
	y = new(big.Int).Mul(b.unscaled, pow10(scale-b.scale))
	return x, y, scale
}

// Cmp compares by value: -1, 0, 1.
func (d Decimal) Cmp(o Decimal) int {
	x, y, _ := align(d, o)
	return x.Cmp(y)
}

// Add returns the sum.
func (d Decimal) Add(o Decimal) Decimal {
	x, y, scale := align(d, o)
	return Decimal{x.Add(x, y), scale}
}

// Sub returns the difference.
func (d Decimal) Sub(o Decimal) Decimal {
	x, y, scale := align(d, o)
	return Decimal{x.Sub(x, y), scale}
}

// Half returns half the number, exactly.
func (d Decimal) Half() Decimal {
	return Decimal{new(big.Int).Mul(d.unscaled, big.NewInt(5)), d.scale + 1}
}

// Fits reports whether the number lies on a whole count of steps from base.
func (d Decimal) Fits(base, step Decimal) bool {
	x, y, _ := align(d.Sub(base), step)
	return y.Sign() != 0 && new(big.Int).Rem(x, y).Sign() == 0
}

// Scale is the number of digits after the point, trailing zeros dropped.
func (d Decimal) Scale() int {
	n, scale := new(big.Int).Set(d.unscaled), d.scale
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

// Float is the nearest floating-point number, for drawing.
func (d Decimal) Float() float64 {
	f, _ := new(big.Rat).SetFrac(d.unscaled, pow10(d.scale)).Float64()
	return f
}

// String writes the number without an exponent and without trailing zeros.
func (d Decimal) String() string {
	if d.unscaled == nil {
		return "0"
	}
	digits := new(big.Int).Abs(d.unscaled).String()
	if d.scale > 0 {
		if missing := d.scale + 1 - len(digits); missing > 0 {
			digits = strings.Repeat("0", missing) + digits
		}
		at := len(digits) - d.scale
		digits = strings.TrimRight(strings.TrimRight(digits[:at]+"."+digits[at:], "0"), ".")
	}
	if d.unscaled.Sign() < 0 {
		return "-" + digits
	}
	return digits
}

// Whole makes a decimal of a whole number.
func Whole(n int64) Decimal { return Decimal{big.NewInt(n), 0} }
