package core

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// stumbles is how many sentences may still make a reader stumble: it only goes down. What stumbles is a relative clause
// as the subject ("What is …", "Whoever has …"), or more than 28 words.
const stumbles = 218

var (
	clauseFirst = regexp.MustCompile(`^(What|Who|Whoever|Whatever|Where nobody|That which|Of what|By what|How it) [a-z]`)
	asksAfter   = regexp.MustCompile(`^\S+ (do |does |did |is it|are |was it|should |can |may you|about)`)
	quoted      = regexp.MustCompile(`"((?:[^"\\\n]|\\.){12,})"`)
	commented   = regexp.MustCompile(`(?m)(?:^\s*//.*\n)+`)
	between     = regexp.MustCompile(`>([^<>{}]{12,})<`)
	paragraphs  = regexp.MustCompile(`(?m)\n\s*\n|^\s*[-*#|].*$`)
	ends        = regexp.MustCompile(`[.!;:?]\s+`)
)

// texts are what a file says to people, each a run of sentences.
func texts(path, body string) (list []string) {
	each := func(found [][]string) {
		for _, m := range found {
			list = append(list, m[1])
		}
	}
	switch filepath.Ext(path) {
	case ".go":
		each(quoted.FindAllStringSubmatch(body, -1))
		for _, block := range commented.FindAllString(body, -1) {
			var lines []string
			for line := range strings.Lines(block) {
				lines = append(lines, strings.Trim(line, "/ \t\n"))
			}
			list = append(list, strings.Join(lines, " "))
		}
	case ".svelte":
		each(between.FindAllStringSubmatch(body, -1))
	default:
		for _, p := range paragraphs.Split(body, -1) {
			list = append(list, strings.Join(strings.Fields(p), " "))
		}
	}
	return list
}

// sentences parts a text where a sentence ends.
func sentences(text string) (list []string) {
	text = strings.TrimSpace(text)
	for at := ends.FindStringIndex(text); at != nil; at = ends.FindStringIndex(text) {
		list = append(list, text[:at[0]+1])
		text = text[at[1]:]
	}
	return append(list, text)
}

// Screens, sheets, docs and comments are plain English. The list of what is not only gets shorter.
func TestSentencesArePlain(t *testing.T) {
	var files []string
	for _, pattern := range []string{"../README.md", "../docs/*.md", "../docs/plans/*.txt"} {
		found, err := filepath.Glob(pattern)
		if err != nil {
			t.Fatal(err)
		}
		files = append(files, found...)
	}
	for _, root := range []string{".", "../web/src"} {
		err := filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
			ext := filepath.Ext(path)
			if err == nil && (ext == ".go" && !strings.HasSuffix(path, "_test.go") || ext == ".svelte") {
				files = append(files, path)
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	slices.Sort(files)
	var found []string
	for _, path := range files {
		body, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		for _, text := range texts(path, string(body)) {
			for _, s := range sentences(text) {
				words := len(strings.Fields(s))
				clause := clauseFirst.MatchString(s) && !asksAfter.MatchString(s) && !strings.HasSuffix(s, "?")
				if words >= 4 && (clause || words > 28) {
					found = append(found, path+": "+s)
				}
			}
		}
	}
	switch {
	case len(found) > stumbles:
		t.Errorf("%d sentences make a reader stumble, %d may:\n%s", len(found), stumbles, strings.Join(found, "\n"))
	case len(found) < stumbles:
		t.Errorf("%d sentences make a reader stumble: write that down in place of %d", len(found), stumbles)
	}
}
