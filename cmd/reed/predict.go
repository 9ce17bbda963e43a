package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"time"

	"reed/core/moment"
)

// maxCase is the largest case file in bytes.
const maxCase = 8 << 20

// predict solves a case of wires, from a file or standard input, and writes one answer for each frequency.
func predict(ctx context.Context, c *call) error {
	name := c.flags.String("in", "", "file with the case as JSON, - for standard input")
	if err := c.parse(c.args); err != nil {
		return err
	}
	if *name == "" && len(c.args) == 1 {
		*name = c.args[0]
	}
	in := io.Reader(os.Stdin)
	switch *name {
	case "":
		return usagef("say which case: -in FILE, or -in - for standard input")
	case "-":
	default:
		f, err := os.Open(*name)
		if err != nil {
			return fmt.Errorf("opening the case: %w", err)
		}
		defer f.Close()
		in = f
	}
	d := json.NewDecoder(io.LimitReader(in, maxCase))
	d.DisallowUnknownFields()
	var wanted moment.Case
	if err := d.Decode(&wanted); err != nil {
		return usagef("the case was not understood: %w", err)
	}
	if len(wanted.Frequencies) == 0 {
		return usagef("frequencies_mhz is empty; write it like [14.1]")
	}
	out := json.NewEncoder(c.out)
	for _, mhz := range wanted.Frequencies {
		begun := time.Now()
		p, err := wanted.Predict(ctx, mhz)
		switch {
		case errors.Is(err, context.Canceled):
			return err
		case err != nil:
			return usagef("at %g MHz: %w", mhz, err)
		}
		p.Seconds = time.Since(begun).Seconds()
		if err := out.Encode(p); err != nil {
			return err
		}
	}
	return nil
}
