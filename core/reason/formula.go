package reason

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Formula is an expression that computes a number and is shown beside it, so that text and
// number cannot part. It is written as Worked says, without betainv: + − × ÷ ^, parentheses,
// and the functions min, max, exp, ln, floor and ceil, over symbols and numbers.
type Formula struct {
	text    string
	symbols []string
	value   term
}

// term is a part of a formula as a function of its symbols' values.
type term func(values []float64) float64

// MustFormula is a formula that a package declares once; like regexp.MustCompile it panics on
// one that cannot be read.
func MustFormula(text string) Formula {
	f, err := ParseFormula(text)
	if err != nil {
		panic(err)
	}
	return f
}

// ParseFormula reads a formula; the error says what is wrong and where.
func ParseFormula(text string) (f Formula, err error) {
	r := reader{text: []rune(strings.ReplaceAll(text, " ", ""))}
	value, err := r.sum()
	if err == nil && r.at < len(r.text) {
		err = fmt.Errorf("stray %q", string(r.text[r.at:]))
	}
	if err != nil {
		return Formula{}, fmt.Errorf("formula %q, at %d: %w", text, r.at, err)
	}
	return Formula{text, r.symbols, value}, nil
}

// Of is what the formula gives over the inputs, Low and High from the corners of what they may be:
// a formula must rise or fall throughout with each input that has a range. It panics where an
// input is missing, which no data can bring about.
func (f Formula) Of(name, unit string, source Source, inputs []Input, wouldChange ...string) Worked {
	low, likely, high := make([]float64, len(f.symbols)), make([]float64, len(f.symbols)), make([]float64, len(f.symbols))
	w := Worked{Name: name, Unit: unit, Formula: f.text, Inputs: inputs, Source: source, WouldChange: wouldChange}
	var ranged []int
	for i, symbol := range f.symbols {
		at := slices.IndexFunc(inputs, func(in Input) bool { return in.Symbol == symbol })
		if at < 0 {
			panic(fmt.Sprintf("%s: %q has no input %q", name, f.text, symbol))
		}
		in := inputs[at]
		var spread Spread
		low[i], likely[i], high[i], spread = in.reach()
		if low[i] < high[i] {
			ranged = append(ranged, i)
			w.Spread = w.Spread.Wider(spread)
		}
	}
	w.Value = f.value(likely)
	w.Low, w.High = w.Value, w.Value
	corner := slices.Clone(likely)
	for bits := range 1 << len(ranged) {
		for k, i := range ranged {
			corner[i] = low[i]
			if bits>>k&1 == 1 {
				corner[i] = high[i]
			}
		}
		v := f.value(corner)
		w.Low, w.High = math.Min(w.Low, v), math.Max(w.High, v)
	}
	if w.Low == w.High {
		w.Spread = ""
	}
	return w
}

// reach is an input's value with how far it may lie from it, and what that means.
func (i Input) reach() (low, likely, high float64, spread Spread) {
	switch {
	case i.Range != nil:
		return i.Range.Low, i.Value, i.Range.High, Bounds
	case i.Worked != nil && i.Worked.Low < i.Worked.High:
		return i.Worked.Low, i.Value, i.Worked.High, i.Worked.Spread
	}
	return i.Value, i.Value, i.Value, ""
}

// reader reads a formula by descent: a sum of products of powers of atoms.
type reader struct {
	text    []rune
	at      int
	symbols []string
}

// took moves past the next sign where it is one of the options, and tells which; 0 where it is none.
func (r *reader) took(options string) rune {
	if r.at < len(r.text) && strings.ContainsRune(options, r.text[r.at]) {
		r.at++
		return r.text[r.at-1]
	}
	return 0
}

func (r *reader) sum() (term, error)     { return r.chain("+−", r.product) }
func (r *reader) product() (term, error) { return r.chain("×÷", r.power) }

// chain reads parts joined by signs of one rank, from left to right.
func (r *reader) chain(signs string, part func() (term, error)) (term, error) {
	left, err := part()
	for err == nil {
		sign := r.took(signs)
		if sign == 0 {
			break
		}
		var right term
		if right, err = part(); err == nil {
			left = joined(sign, left, right)
		}
	}
	return left, err
}

func joined(sign rune, a, b term) term {
	switch sign {
	case '+':
		return func(v []float64) float64 { return a(v) + b(v) }
	case '−':
		return func(v []float64) float64 { return a(v) - b(v) }
	case '×':
		return func(v []float64) float64 { return a(v) * b(v) }
	case '÷':
		return func(v []float64) float64 { return a(v) / b(v) }
	}
	return func(v []float64) float64 { return math.Pow(a(v), b(v)) }
}

func (r *reader) power() (term, error) {
	if r.took("−") != 0 {
		of, err := r.power()
		return func(v []float64) float64 { return -of(v) }, err
	}
	base, err := r.atom()
	if err != nil || r.took("^") == 0 {
		return base, err
	}
	to, err := r.power()
	return joined('^', base, to), err
}

func (r *reader) atom() (term, error) {
	if r.took("(") != 0 {
		inner, err := r.sum()
		if err == nil && r.took(")") == 0 {
			err = fmt.Errorf("a ) is missing")
		}
		return inner, err
	}
	word := r.word()
	switch {
	case word == "":
		return nil, fmt.Errorf("a value is missing")
	case unicode.IsDigit([]rune(word)[0]):
		number, err := strconv.ParseFloat(word, 64)
		return func([]float64) float64 { return number }, err
	case r.took("(") != 0:
		return r.call(word)
	}
	at := slices.Index(r.symbols, word)
	if at < 0 {
		at = len(r.symbols)
		r.symbols = append(r.symbols, word)
	}
	return func(v []float64) float64 { return v[at] }, nil
}

func (r *reader) word() string {
	from := r.at
	for r.at < len(r.text) {
		if c := r.text[r.at]; !unicode.IsLetter(c) && !unicode.IsDigit(c) && c != '_' && c != '.' {
			break
		}
		r.at++
	}
	return string(r.text[from:r.at])
}

// The functions of one value, and of two or more.
var (
	ofOne = map[string]func(float64) float64{"exp": math.Exp, "ln": math.Log, "floor": math.Floor, "ceil": math.Ceil}
	ofTwo = map[string]func(a, b float64) float64{"min": math.Min, "max": math.Max}
)

func (r *reader) call(name string) (term, error) {
	var args []term
	for {
		arg, err := r.sum()
		if err != nil {
			return nil, err
		}
		args = append(args, arg)
		if r.took(",") == 0 {
			break
		}
	}
	if r.took(")") == 0 {
		return nil, fmt.Errorf("%s: a ) is missing", name)
	}
	if of, any := ofOne[name]; any && len(args) == 1 {
		return func(v []float64) float64 { return of(args[0](v)) }, nil
	}
	of, any := ofTwo[name]
	if !any || len(args) < 2 {
		return nil, fmt.Errorf("no function %s of %d values", name, len(args))
	}
	return func(v []float64) float64 {
		all := args[0](v)
		for _, a := range args[1:] {
			all = of(all, a(v))
		}
		return all
	}, nil
}
