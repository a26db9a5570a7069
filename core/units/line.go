package units

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// mostMarks is how many accents may stand on one letter: no script wants more, and a tower of them hides the lines
// around it (our own engineering choice).
const mostMarks = 3

// Line is a name, or another line of text, as it is kept: without blanks at its ends, at least one sign where must is
// set and at most so many, none of them unseen. Signs that turn the direction of reading, that take no room or that
// control a printer are refused, since what is read would be another than what is kept. The error is an *OutOfRange.
func Line(field, text string, must bool, most int) (string, error) {
	kept := strings.TrimSpace(text)
	allowed := fmt.Sprintf("at most %d signs in one line, all of them seen", most)
	if must {
		allowed = fmt.Sprintf("1 to %d signs in one line, all of them seen", most)
	}
	bad := func(value string) error { return &OutOfRange{Field: field, Value: value, Allowed: allowed} }
	switch n := utf8.RuneCountInString(kept); {
	case !utf8.ValidString(kept):
		return "", bad("not text")
	case n == 0 && must:
		return "", bad(text)
	case n > most:
		return "", bad(fmt.Sprintf("%d signs", n))
	}
	marks := 0
	for _, r := range kept {
		if !seen(r) {
			return "", bad(fmt.Sprintf("text with the sign U+%04X", r))
		}
		if marks++; !unicode.Is(unicode.Mn, r) && !unicode.Is(unicode.Me, r) {
			marks = 0
		}
		if marks > mostMarks {
			return "", bad("a letter under a tower of accents")
		}
	}
	return kept, nil
}

// Text is Line over several lines.
func Text(field, text string, must bool, most int) (string, error) {
	kept := strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if _, err := Line(field, strings.ReplaceAll(kept, "\n", " "), must, most); err != nil {
		return "", err
	}
	return kept, nil
}

// joiners hold letters together in some scripts and pictures; they take no room of their own, and turn nothing.
const joiners = "\u200c\u200d"

// seen says whether a sign shows, or shapes what shows.
func seen(r rune) bool {
	return r == ' ' || strings.ContainsRune(joiners, r) ||
		unicode.IsPrint(r) && !unicode.Is(unicode.Cf, r) && !unicode.Is(unicode.Zs, r)
}
