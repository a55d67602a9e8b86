package array

import "slices"

// constructed are the rows of an array known by construction, nil where none fits. There must be no constraint.
func constructed(levels []int, t int) []Row {
	most := slices.Max(levels)
	if t == 2 && most <= 2 {
		return binary(len(levels))
	}
	for q := max(2, most); q <= maxField; q++ {
		f := newField(q)
		if f == nil {
			continue
		}
		columns := q + 1
		if t == 3 && q%2 == 0 {
			columns++
		}
		if len(levels) > columns || t < 2 || power(q, t) > maxConstructed {
			return nil // a larger field has more rows still
		}
		return orthogonal(f, len(levels), t)
	}
	return nil
}

const (
	maxField       = 32
	maxConstructed = 20_000 // rows
)

// binary is the smallest array of strength 2 of factors with two levels: the first row is all 0, and the columns below it are
// different sets of one size, more than half of the rows, so that any two meet and neither holds the other (Kleitman and Spencer
// 1973; Katona 1973).
func binary(factors int) []Row {
	n := 4
	for choose(n-1, (n+1)/2) < factors {
		n++
	}
	rows := make([]Row, n)
	for i := range rows {
		rows[i] = make(Row, factors)
	}
	column := 0
	set := make([]int, 0, n)
	var each func(from int)
	each = func(from int) {
		if column == factors {
			return
		}
		if len(set) == (n+1)/2 {
			for _, i := range set {
				rows[i][column] = 1
			}
			column++
			return
		}
		for i := from; i < n; i++ {
			set = append(set, i)
			each(i + 1)
			set = set[:len(set)-1]
		}
	}
	each(1)
	return rows
}

func choose(n, k int) int {
	out := 1
	for i := range k {
		out = out * (n - i) / (i + 1)
	}
	return out
}

func power(q, t int) int {
	out := 1
	for range t {
		out *= q
	}
	return out
}

// orthogonal is Bush's array (1952): a row for each polynomial of degree below t over a field, its value at each point a column,
// and the leading coefficient one more. For t = 3 and an even field the middle coefficient is another.
func orthogonal(f *field, columns, t int) []Row {
	rows := make([]Row, power(f.q, t))
	coefficients := make([]int, t)
	for i := range rows {
		rest := i
		for k := range coefficients {
			coefficients[k] = rest % f.q
			rest /= f.q
		}
		row := make(Row, columns)
		for c := range row {
			switch {
			case c < f.q:
				v := 0
				for k := t - 1; k >= 0; k-- {
					v = f.add[f.times[v][c]][coefficients[k]]
				}
				row[c] = v
			case c == f.q:
				row[c] = coefficients[t-1]
			default:
				row[c] = coefficients[1]
			}
		}
		rows[i] = row
	}
	return rows
}

// field is a finite field of q elements by its tables.
type field struct {
	q          int
	add, times [][]int
}

// newField returns nil where q is no power of a prime. Elements are polynomials over the prime field, their coefficients the digits
// of the element's number; the modulus is the first monic polynomial that leaves no divisors of zero.
func newField(q int) *field {
	p := 2
	for q%p != 0 {
		p++
	}
	degree := 0
	for n := q; n > 1; n /= p {
		if n%p != 0 {
			return nil
		}
		degree++
	}
	digits := func(n int) []int {
		out := make([]int, degree)
		for i := range out {
			out[i] = n % p
			n /= p
		}
		return out
	}
	number := func(d []int) int {
		n := 0
		for i := degree - 1; i >= 0; i-- {
			n = n*p + d[i]
		}
		return n
	}
	f := &field{q: q, add: make([][]int, q), times: make([][]int, q)}
	for a := range q {
		f.add[a], f.times[a] = make([]int, q), make([]int, q)
		for b := range q {
			x, y := digits(a), digits(b)
			for i := range x {
				x[i] = (x[i] + y[i]) % p
			}
			f.add[a][b] = number(x)
		}
	}
	for modulus := range q {
		if f.multiply(digits, number, digits(modulus), p, degree) {
			return f
		}
	}
	return nil
}

// multiply fills the table of products modulo x^degree + modulus, and tells whether it is a field's.
func (f *field) multiply(digits func(int) []int, number func([]int) int, modulus []int, p, degree int) bool {
	for a := range f.q {
		for b := range f.q {
			x, y := digits(a), digits(b)
			product := make([]int, 2*degree)
			for i := range x {
				for j := range y {
					product[i+j] = (product[i+j] + x[i]*y[j]) % p
				}
			}
			for i := 2*degree - 1; i >= degree; i-- {
				for j := range modulus {
					product[i-degree+j] = (product[i-degree+j] + (p-1)*product[i]*modulus[j]) % p
				}
				product[i] = 0
			}
			n := number(product[:degree])
			if n == 0 && a != 0 && b != 0 {
				return false
			}
			f.times[a][b] = n
		}
	}
	return true
}
