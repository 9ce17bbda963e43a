package main

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"reed/core/moment"
)

// maxCase is the largest case file in bytes.
const maxCase = 8 << 20

// predict solves a case of wires, from a file or standard input, and writes one answer for each frequency.
func predict(ctx context.Context, c *call) error {
	var wanted moment.Case
	if err := decode(c, &wanted); err != nil {
		return err
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
