// Antennas writes the tables of docs/portable-antennas.md from the solver, between the marks in that file:
// make antennas. What is said of them is written by hand.
package main

import (
	"context"
	"flag"
	"fmt"
	"math"
	"os"
	"regexp"
	"strings"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/twin"
)

const file = "docs/portable-antennas.md"

type kind struct {
	name    string
	request antenna.Request
	heights []float64 // of the feed or the far end, in metres
	raise   func(*antenna.Shape, float64)
}

func of(family, variant string, mhz float64, set func(*antenna.Shape)) antenna.Request {
	r := antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant, FrequencyHz: mhz * 1e6, Wire: "pvc"}, Ground: "average"}
	if set != nil {
		set(&r.Shape)
	}
	return r
}

func feed(s *antenna.Shape, m float64) {
	s.Put(antenna.FeedHeight, quantity.Metres(m))
	s.Put(antenna.PoleHeight, quantity.Metres(m))
}

func far(s *antenna.Shape, m float64) {
	s.Put(antenna.FarHeight, quantity.Metres(m))
	s.Put(antenna.PoleHeight, quantity.Metres(m))
}

func kinds() []kind {
	return []kind{
		{"Half-wave dipole, flat, 6 m up, 7.1 MHz", of("dipole", "flat", 7.1, func(s *antenna.Shape) { feed(s, 6) }),
			[]float64{2, 4, 6, 10, 15}, feed},
		{"Half-wave dipole, flat, 6 m up, 14.1 MHz", of("dipole", "flat", 14.1, func(s *antenna.Shape) { feed(s, 6) }), []float64{2, 4, 6, 10},
			feed},
		{"Inverted V of 120 degrees, 7 m, 7.1 MHz", of("dipole", "inverted-v", 7.1, func(s *antenna.Shape) {
			feed(s,
				7)
			s.PutNumber(antenna.ApexAngle, 120)
		}), []float64{6, 7, 10}, feed},
		{"Dipole as a sloper, 14.1 MHz", of("dipole", "sloper", 14.1, func(s *antenna.Shape) { feed(s, 5) }), []float64{4, 5, 7}, feed},
		{"End-fed half-wave, sloper to 6 m, 7.1 MHz", of("end-fed", "sloper", 7.1, func(s *antenna.Shape) {
			s.Put(antenna.FeedHeight,
				quantity.Metres(1))
			far(s, 6)
		}), []float64{3, 6, 10}, far},
		{"End-fed half-wave, upright, 14.1 MHz", of("end-fed", "upright", 14.1, func(s *antenna.Shape) {
			s.Put(antenna.FeedHeight,
				quantity.Metres(1))
		}), nil, nil},
		{"Quarter-wave, 8 radials on the ground, 14.1 MHz", of("vertical", "ground-radials", 14.1,
			func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, 8) }), nil, nil},
		{"Quarter-wave, 4 raised radials, feed 2 m up, 14.1 MHz", of("vertical", "raised-radials", 14.1, nil), []float64{1.2, 2, 4},
			func(s *antenna.Shape, m float64) {
				s.Put(antenna.FeedHeight, quantity.Metres(m))
				s.Put(antenna.RadialsHeight, quantity.Metres(math.Max(0.5, m-1)))
			}},
		{"Loaded whip of 2.5 m, coil at its foot, 8 radials, 7.1 MHz", of("loaded-whip", "ground-radials", 7.1,
			func(s *antenna.Shape) { s.PutNumber(antenna.RadialsCount, 8) }), nil, nil},
		{"J with 300 ohm line, upright, 14.1 MHz", of("j-pole", "upright", 14.1, nil), nil, nil},
	}
}

var soils = []string{"sea", "average", "dry-sand", "rock"}

// cut is a set-up with its lengths as the solver makes them over average soil: cut once, hung over each.
func cut(ctx context.Context, e *twin.Engine, r antenna.Request) (deployment.Built, error) {
	p := family.Design(r)
	got, err := e.Refine(ctx, twin.Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: "average"}, nil)
	if err != nil {
		return deployment.Built{}, err
	}
	r.Solved = got.Solved
	return deployment.Built{Shape: family.Design(r).Shape}, nil
}

// width is the span in kHz under SWR 2, and the resonance in MHz: where X vanishes nearest to the wanted
// frequency, or the SWR is least where it does so nowhere.
func width(b twin.Band) (string, string) {
	resonance, at := b.BestF, math.Inf(1)
	for i := 1; i < len(b.Curve); i++ {
		p, q := b.Curve[i-1], b.Curve[i]
		if p.X*q.X > 0 {
			continue
		}
		f := p.F + (q.F-p.F)*p.X/(p.X-q.X)
		if off := math.Abs(f - b.F); off < at {
			resonance, at = f, off
		}
	}
	over := ""
	if b.Curve[0].SWR < 2 || b.Curve[len(b.Curve)-1].SWR < 2 {
		over = "over "
	}
	if b.Width == 0 {
		return fmt.Sprintf("%.2f", resonance/1e6), "none"
	}
	return fmt.Sprintf("%.2f", resonance/1e6), fmt.Sprintf("%s%.0f", over, b.Width/1e3)
}

func row(ctx context.Context, e *twin.Engine, b deployment.Built, soil string) (string, error) {
	f, err := e.Forecast(ctx, twin.Setup{Built: b, Planned: true, Ground: soil, PowerW: 10}, twin.Options{Region: 1}, nil)
	if err != nil {
		return "", err
	}
	x := f.Bands[0]
	resonance, wide := width(x)
	z := x.Z
	return fmt.Sprintf("%.3g | %+.0f | %s | %s | %.0f %% | %.0f | %+.1f", real(z), imag(z), resonance, wide, 100*x.Sky, x.Pattern.TakeOff,
		x.Pattern.Gain), nil
}

// tables writes the tables of the first n kinds.
func tables(ctx context.Context, n int) (string, error) {
	var e twin.Engine
	var out strings.Builder
	for i, k := range kinds()[:n] {
		b, err := cut(ctx, &e, k.request)
		if err != nil {
			return "", fmt.Errorf("%s: %w", k.name, err)
		}
		fmt.Fprintf(&out, "\n### %d. %s\n\n| over | R, ohm | X, ohm | resonance, MHz | under SWR 2, kHz | to the sky | take-off, degrees | "+
			"dBi there |\n|---|---|---|---|---|---|---|---|\n", i+1, k.name)
		for _, soil := range soils {
			text, err := row(ctx, &e, b, soil)
			if err != nil {
				return "", fmt.Errorf("%s over %s: %w", k.name, soil, err)
			}
			fmt.Fprintf(&out, "| %s | %s |\n", soil, text)
		}
		for _, h := range k.heights {
			higher := b
			k.raise(&higher.Shape, h)
			text, err := row(ctx, &e, higher, "average")
			if err != nil {
				return "", fmt.Errorf("%s at %g m: %w", k.name, h, err)
			}
			fmt.Fprintf(&out, "| average, %g m | %s |\n", h, text)
		}
	}
	return out.String(), nil
}

func main() {
	most := flag.Int("only", len(kinds()), "how many kinds, from the first")
	path := flag.String("out", "", "a file for the tables alone; without one they go into "+file)
	flag.Parse()
	text, err := tables(context.Background(), min(*most, len(kinds())))
	if err == nil && *path != "" {
		err = os.WriteFile(*path, []byte(text), 0o644)
	} else if err == nil {
		err = replaceTables(text)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "antennas:", err)
		os.Exit(1)
	}
}

// replaceTables puts the tables into the document, between its marks.
func replaceTables(text string) error {
	old, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	marks := regexp.MustCompile(`(?s)(<!-- from here made by make antennas -->).*(<!-- to here -->)`)
	return os.WriteFile(file, []byte(marks.ReplaceAllString(string(old), "${1}\n"+strings.ReplaceAll(text, "$", "$$")+"\n${2}")), 0o644)
}
