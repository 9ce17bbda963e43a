package exchange

import (
	"fmt"
	"math"
	"math/cmplx"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/quantity"
	"reed/core/sweep"
)

// ReadingOptions say what typed readings are of: the band plan's region, the frequencies in hertz that the antenna was made for, and
// answers: what a single reading of a band is, where its line does not say so, under "role" one of the roles.
type ReadingOptions struct {
	Region  band.Region
	Wanted  []float64
	Choices map[string]string
}

// everyBand is a line that is meant of all bands of the antenna.
var everyBand = regexp.MustCompile(`(?i)\b(?:on|at)?\s*(?:every|each|all)\s+(?:the\s+)?bands?\b|\beverywhere\b`)

// mostEchoed is how many lines are echoed.
const mostEchoed = 60

// withFrequencies lists a typed line once for each frequency that it is meant of: as it is where it names one, at all wanted
// frequencies where it says so, and at the only wanted one where it is an SWR alone.
func withFrequencies(line string, wanted []float64) []string {
	if everyBand.MatchString(line) && len(wanted) > 0 {
		rest := everyBand.ReplaceAllString(line, " ")
		out := make([]string, 0, len(wanted))
		for _, f := range wanted {
			out = append(out, quantity.ToKHz(f)+" "+rest)
		}
		return out
	}
	if words := readingWords(line); len(words) == 1 && len(wanted) == 1 {
		swr, err := strconv.ParseFloat(strings.Replace(strings.TrimPrefix(words[0], beyondScale), ",", ".", 1), 64)
		if words[0] == beyondScale || err == nil && swr >= 1 && swr < leastMistyped/5 {
			return []string{quantity.ToKHz(wanted[0]) + " " + words[0]}
		}
	}
	return []string{line}
}

// ParseReadings reads readings typed by hand, one a line: frequency and SWR, frequency, R and X, or frequency, SWR, R and X. The
// frequency is in MHz, or a band's name for the middle of the band. SWR is written as people write it: 1.3, 1.3:1, 1:1.3, SWR 1.3,
// >10, over 10, 10+, inf, off the scale. Every line is echoed as it was understood.
func ParseReadings(text string, o ReadingOptions) (*Preview, error) {
	p := &Preview{Kind: "typed", Name: "typed readings", Encoding: "UTF-8", Guesses: []Guess{}, Notes: []Note{}}
	o.Region = max(o.Region, 1)
	var rows []row
	var gamma []complex128
	var known int
	var lowest, over []float64
	n := 0
	for text := range strings.Lines(text) {
		n++
		for _, line := range withFrequencies(text, o.Wanted) {
			words := readingWords(line)
			if len(words) == 0 {
				continue
			}
			f, ok := p.typedFrequency(n, words[0], o.Region)
			if !ok {
				continue
			}
			f = math.Round(f)
			beyond := len(words) == 2 && strings.HasPrefix(words[1], beyondScale)
			if beyond {
				over = append(over, f)
			}
			if len(words) == 2 {
				words[1] = p.typedSWR(n, f, words[1])
			}
			isLowest := lowestWord.MatchString(strings.ToLower(line))
			if isLowest {
				lowest = append(lowest, f)
			}
			g, phase, field, err := typedReading(words[1:])
			if err != nil {
				p.note("error", n, 0, field, "%v", err)
				continue
			}
			if phase {
				known++
			}
			p.echo(f, g, phase, beyond, isLowest)
			rows = append(rows, row{line: n, f: f, words: words})
			gamma = append(gamma, g)
		}
	}
	kind := sweep.Magnitude
	switch known {
	case 0:
	case len(rows):
		kind = sweep.Complex
	default:
		// R and X of some lines alone give no curve: all are read as SWR.
		p.note("note", 0, 0, "", "%d of %d lines have R and X: all are read as SWR", known, len(rows))
		for i, g := range gamma {
			gamma[i] = complex(cmplx.Abs(g), 0)
		}
	}
	if len(rows) == 0 {
		if len(p.Notes) > 0 {
			return nil, &FileError{fmt.Sprintf("line %d: %s", p.Notes[0].Line, p.Notes[0].Text), "one reading per line, like 7.05 1.4"}
		}
		return nil, &FileError{"nothing was typed", "one reading per line, like 7.05 1.4"}
	}
	if err := p.setSweep(kind, rows, 1, gamma); err != nil {
		return nil, err
	}
	if p.Sweep != nil {
		p.Sweep.Lowest, p.Sweep.Over = lowest, over
		p.askRole(o)
	}
	p.count()
	return p, nil
}

// echo adds a line as it was understood.
func (p *Preview) echo(f float64, g complex128, phase, beyond, lowest bool) {
	if len(p.Echo) >= mostEchoed {
		return
	}
	swr := quantity.SWR(circuit.SWR(cmplx.Abs(g)))
	text := fmt.Sprintf("%s MHz: SWR %s", quantity.MHz(f), swr)
	switch {
	case phase:
		z := complex(sweep.Reference, 0) * (1 + g) / (1 - g)
		text = fmt.Sprintf("%s MHz: R %.4g, X %.4g ohm, SWR %s", quantity.MHz(f), real(z), imag(z), swr)
	case beyond:
		text = fmt.Sprintf("%s MHz: SWR over %s", quantity.MHz(f), swr)
	case lowest:
		text += ", the lowest"
	}
	p.Echo = append(p.Echo, text)
}

// What a single reading of a band is, as it is asked.
const (
	lowestFound = "the lowest I found"
	justThere   = "just there"
	notSure     = "not sure"
)

// askRole asks what single readings of a band are that are not said to be the lowest, and takes the answer.
func (p *Preview) askRole(o ReadingOptions) {
	answer := o.Choices["role"]
	alone := map[string][]float64{}
	for _, f := range p.Sweep.F {
		b := band.Nearest(o.Region, f)
		alone[b.Name] = append(alone[b.Name], f)
	}
	var open []float64
	var bands []string
	for _, b := range band.All(o.Region) {
		f := alone[b.Name]
		if len(f) == 1 && !slices.Contains(p.Sweep.Lowest, f[0]) && !slices.Contains(p.Sweep.Over, f[0]) {
			open, bands = append(open, f[0]), append(bands, band.Said(b.Name))
		}
	}
	if len(open) == 0 || p.Sweep.Kind != sweep.Magnitude {
		return
	}
	switch answer {
	case lowestFound:
		p.Sweep.Lowest = append(p.Sweep.Lowest, open...)
	case justThere:
		p.Sweep.Here = true
	default:
		answer = notSure
	}
	p.guess("role", answer, "The one reading on "+strings.Join(bands, ", ")+" is", notSure, lowestFound, justThere)
}

var (
	lowestWord = regexp.MustCompile(`\b(?:lowest|min|minimum|dip|resonan(?:t|ce))\b`)
	ratioToOne = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\s*:\s*1(?:[.,]0+)?(\s|;|$)`)
	oneToRatio = regexp.MustCompile(`(\s)1(?:[.,]0+)?\s*:\s*(\d+(?:[.,]\d+)?)`)
	unitWord   = regexp.MustCompile(`(\d)\s*(?:mhz|ohms?|\x{2126}|\x{3a9})(\s|;|:|$)`)
	// swrFirst is "1.3 at 7.088": what was read, then where.
	swrFirst   = regexp.MustCompile(`^\D*?([\d>][^@]*?)\s*(?:\bat\b|@)\s*(\d\S*)\s*$`)
	swrWord    = regexp.MustCompile(`\b(?:v?swr|is|at|was|lowest|min|minimum|dip|resonance|resonant)\b\s*[=:]?`)
	overScale  = regexp.MustCompile(`\boff\s+(?:the\s+)?scale\b.*|\binfinite\b|\binfinity\b|\binf\b|\x{221e}`)
	overNumber = regexp.MustCompile(`(?:>|\bover|\babove|\bmore than)\s*=?\s*(\d+(?:[.,]\d+)?)`)
	plusNumber = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\+(\s|;|$)`)
)

// beyondScale marks an SWR of which only a lower bound was read.
const beyondScale = ">"

// readingWords splits a typed line into frequency and figures. An SWR beyond the meter's scale becomes one word: ">10", or ">" where
// no figure was read.
func readingWords(line string) []string {
	line = strings.ToLower(line)
	line = unitWord.ReplaceAllString(line, "$1 $2")
	line = swrFirst.ReplaceAllString(strings.TrimSpace(line), "$2 $1")
	line = swrWord.ReplaceAllString(line, " ")
	line = overScale.ReplaceAllString(line, " "+beyondScale+" ")
	line = overNumber.ReplaceAllString(line, " "+beyondScale+"$1 ")
	line = plusNumber.ReplaceAllString(line, " "+beyondScale+"$1 ")
	line = oneToRatio.ReplaceAllString(line, "$1$2")
	line = ratioToOne.ReplaceAllString(line, "$1$2")
	return strings.Fields(strings.NewReplacer(";", " ", ":", " ", "=", " ", "\t", " ").Replace(line))
}

// typedSWR says what is not plain of an SWR, and returns it as a number. A value beyond the meter's scale is kept as the end of the
// scale: it is at least that.
func (p *Preview) typedSWR(line int, hz float64, word string) string {
	at := quantity.ToKHz(hz) + " MHz"
	if rest, beyond := strings.CutPrefix(word, beyondScale); beyond {
		if rest == "" {
			rest = strconv.FormatFloat(offScale, 'f', -1, 64)
		}
		p.note("note", line, 0, "swr", "SWR over %s at %s: kept as %s, it may be more", rest, at, rest)
		return rest
	}
	if swr, err := strconv.ParseFloat(word, 64); err == nil && swr >= leastMistyped && swr < 1000 {
		p.note("warning", line, 0, "swr", "SWR %s at %s: is %.2f meant?", word, at, swr/100)
	}
	return word
}

// offScale stands for an SWR of which nothing was read but that it is off the meter's scale, leastMistyped is from where a whole
// number may have lost its point.
const (
	offScale      = 20
	leastMistyped = 100
)

// typedFrequency reads the frequency of a typed reading in megahertz, or in kilohertz where it cannot be anything else.
func (p *Preview) typedFrequency(line int, word string, region band.Region) (hz float64, ok bool) {
	if b, named := band.Named(region, strings.ToLower(word)); named {
		p.note("note", line, 0, "f", "%s read as %s MHz, the middle of the band", word, quantity.ToKHz(b.Centre()))
		return b.Centre(), true
	}
	f, err := quantity.ParseFrequency(word, "MHz")
	switch {
	case err != nil:
		p.note("error", line, 0, "f", "%v", err)
		return 0, false
	case f.Value >= 1e9 && f.Value < 60e9:
		p.note("note", line, 0, "f", "%s read as kHz", word)
		return f.Value / 1e3, true
	case f.Value < 1e6 || f.Value > 60e6:
		p.note("error", line, 0, "f", "%s MHz is outside 1 to 60 MHz", quantity.MHz(f.Value))
		return 0, false
	}
	return f.Value, true
}

// typedReading is the reflection of what stands behind a frequency: SWR, R and X, or SWR, R and X; phase says that R and
// X are known. field is where it is wrong.
func typedReading(words []string) (g complex128, phase bool, field string, err error) {
	number := func(word string) (float64, error) {
		return strconv.ParseFloat(strings.Replace(strings.NewReplacer("j", "", "J", "", "\u2212", "-").Replace(word), ",", ".", 1), 64)
	}
	switch len(words) {
	case 1:
		swr, err := number(words[0])
		if err != nil || swr < 1 || swr > circuit.MaxSWR {
			return 0, false, "swr", fmt.Errorf("%q is not an SWR; it is a number of 1 or more, like 1.4", words[0])
		}
		return complex(circuit.Magnitude(swr), 0), false, "", nil
	case 2, 3:
		at := words[len(words)-2:]
		r, err1 := number(at[0])
		x, err2 := number(at[1])
		if err1 != nil || err2 != nil || r < 0 || math.IsNaN(r+x) || math.IsInf(r+x, 0) {
			return 0, false, "r", fmt.Errorf("%q is not R and X in ohms, like 42 -12", strings.Join(at, " "))
		}
		return circuit.Gamma(complex(r, x), sweep.Reference), true, "", nil
	}
	return 0, false, "", fmt.Errorf("%d words found; expected frequency and SWR, like 7.05 1.4, or frequency, R and X", len(words)+1)
}
