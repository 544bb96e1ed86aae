package stated

import (
	"regexp"
	"strings"
)

var wideSpace = regexp.MustCompile(` {3,}`)

// cell is a piece of a line that wide space parts from others.
type cell struct {
	text string
	at   int // bytes from the begin of the line
}

func cellsOf(line string) []cell {
	var out []cell
	from := 0
	for _, gap := range append(wideSpace.FindAllStringIndex(line, -1), []int{len(line), len(line)}) {
		if text := strings.TrimSpace(line[from:gap[0]]); text != "" {
			out = append(out, cell{text, from})
		}
		from = gap[1]
	}
	return out
}

var onlyWords = regexp.MustCompile(`^[\p{L} ./()#°-]{3,30}$`)

// columns reads heads that stand side by side, with what belongs to each in the line below, as
// lines of their own at the end of the text, and takes them away where they stand.
func (r *termReader) columns() {
	lines := strings.Split(r.lower, "\n")
	var more strings.Builder
	at := 0
	lower := []byte(r.lower)
	for i := 0; i+1 < len(lines); i++ {
		heads, values := cellsOf(lines[i]), cellsOf(lines[i+1])
		fit := len(heads) >= 2 && len(heads) == len(values)
		for k := 0; fit && k < len(heads); k++ {
			fit = onlyWords.MatchString(heads[k].text) && max(heads[k].at-values[k].at, values[k].at-heads[k].at) <= 2
		}
		if fit {
			end := at + len(lines[i]) + 1
			for k, h := range heads {
				to := end + len(lines[i+1])
				if k+1 < len(values) {
					to = end + values[k+1].at
				}
				value := strings.TrimSpace(r.body[end+values[k].at : to])
				more.WriteString("\n" + h.text + ": " + value)
			}
			for k := at; k < end+len(lines[i+1]); k++ {
				if lower[k] != '\n' {
					lower[k] = ' '
				}
			}
		}
		at += len(lines[i]) + 1
	}
	if more.Len() > 0 {
		r.body += "\n" + more.String() + "\n"
		r.lower = string(lower) + "\n" + foldCase(more.String()) + "\n"
	}
}

// foldCase returns a text in small letters with the bytes where they were, so that a place in
// one is the place in the other.
func foldCase(body string) string {
	b := []byte(body)
	for i, c := range b {
		if c >= 'A' && c <= 'Z' {
			b[i] = c + 'a' - 'A'
		} else if c == '\t' {
			b[i] = ' '
		} else if c == '\r' {
			b[i] = '\n'
		} else if c == 0xc3 && i+1 < len(b) && b[i+1] >= 0x80 && b[i+1] <= 0x9e && b[i+1] != 0x97 {
			b[i+1] += 0x20 // À to Þ in UTF-8
		}
	}
	return string(b)
}

// unruled returns a text with the rules of its tables taken away: | a | b | reads a : b.
func unruled(text string) string {
	b := []byte(text)
	for start := 0; start < len(b); {
		end := start + strings.IndexByte(text[start:]+"\n", '\n')
		inside := false
		for i := start; i < end; i++ {
			switch {
			case b[i] == '|' && inside:
				b[i], inside = ':', false
				for j := i + 1; j < end; j++ {
					if b[j] == '|' {
						b[j] = ' '
					}
				}
			case b[i] == '|':
				b[i] = ' '
			case b[i] != ' ':
				inside = true
			}
		}
		start = end + 1
	}
	return string(b)
}

// flowing returns a text with the breaks of lines within its paragraphs as spaces, so that
// sentences are whole; those behind short lines and before points of a list stay.
func flowing(text string) string {
	const paragraph = 50 // bytes of a line that may go on
	b := []byte(text)
	start := 0
	for i, c := range b {
		if c != '\n' {
			continue
		}
		line, next := text[start:i], strings.TrimLeft(text[i+1:], " ")
		goes := len(line) >= paragraph && !strings.Contains(strings.TrimSpace(line), "   ") && next != "" && !strings.ContainsAny(next[:1], "\n-*•–[|#") && !pointOfList.MatchString(next)
		if goes {
			b[i] = ' '
		}
		start = i + 1
	}
	return string(b)
}

var pointOfList = regexp.MustCompile(`^\(?(?:\d{1,2}|[a-z])[.)] `)
