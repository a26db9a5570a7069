// Package speak says lengths of time, how often, and first letters as people do. It decides nothing.
package speak

import (
	"fmt"
	"math"
	"unicode"
	"unicode/utf8"
)

// Upper is a text with its first letter a capital.
func Upper(s string) string { return first(s, unicode.ToUpper) }

// Lower is a text with its first letter small.
func Lower(s string) string { return first(s, unicode.ToLower) }

func first(s string, to func(rune) rune) string {
	if s == "" {
		return s
	}
	r, size := utf8.DecodeRuneInString(s)
	return string(to(r)) + s[size:]
}

// Minutes is a length of time in minutes, no finer than it is good for: from an hour and a half on by five minutes.
func Minutes(minutes float64) string {
	m := int(math.Round(minutes))
	switch {
	case m < 1:
		return "less than a minute"
	case m < 90:
		return fmt.Sprintf("%d min", m)
	}
	m = (m + 2) / 5 * 5
	return fmt.Sprintf("%d h %02d min", m/60, m%60)
}

// Times says how often, as a sentence begins.
func Times(n int) string {
	if n == 1 {
		return "Once"
	}
	return fmt.Sprintf("%d times", n)
}
