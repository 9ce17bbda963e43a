// Command reed is the whole program: the server with its interface, and the parts of it that scripts
// want. Every command that reads writes JSON to standard output; errors go to standard error.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"
)

// version is set at build time.
var version = "0.1.0-dev"

// usageError is an error of the call or of what was typed: exit code 2.
type usageError struct{ error }

func usagef(format string, args ...any) error { return usageError{fmt.Errorf(format, args...)} }

type command struct {
	name, args, about string
	run               func(ctx context.Context, c *call) error
}

// call is one call of a command.
type call struct {
	flags    *flag.FlagSet
	args     []string
	out, err io.Writer
}

// parse reads flags that may stand before, between and behind the other words.
func (c *call) parse(words []string) error {
	for {
		if err := c.flags.Parse(words); err != nil {
			return usageError{err}
		}
		if c.flags.NArg() == 0 {
			return nil
		}
		c.args = append(c.args, c.flags.Arg(0))
		words = c.flags.Args()[1:]
	}
}

func commands() []command {
	return []command{
		{"serve", "--data DIR [--listen ADDRESS] [--lan [--plain]] [--tls-cert FILE --tls-key FILE] [--allow-host NAME]",
			"start the application", serve},
		{"passphrase", "--data DIR [--revoke]",
			"set the passphrase by which devices on the network may come in; read from standard input", passphrase},
		{"demo", "[--data DIR] [--listen ADDRESS] [--lan]", "start the application with demo data", demonstrate},
		{"preview", "FILE", "say what an import would do, as JSON; writes nothing", previewFile},
		{"import", "FILE --data DIR [--outing NAME] [--deployment NAME] [--where feed|radio]", "import a log or a sweep", importFile},
		{"export", "--data DIR --outing NAME", "write an outing's log as ADIF", exportLog},
		{"convert", "TEXT [--json] [--unit UNIT]", "print a typed length or frequency in SI and both systems", convertText},
		{"predict", "-in FILE|-", "solve wires given as JSON: impedance, gain, efficiency, near field; one line for each frequency", predict},
		{"plan", "-in FILE|-", "the cut list of a set-up given as JSON", planCase},
		{"forecast", "-in FILE|-", "forecast a set-up given as JSON on its bands", forecastCase},
		{"advise", "-in FILE|-", "advise what to change after the sweeps given as JSON, and list likely causes", adviseCase},
		{"scout", "-in FILE|-", "rank what fits a site, given as JSON with goal, bag and recipes", scoutSite},
		{"weigh", "-in FILE|-", "compare antennas by slots and reports given as JSON, one per line", weighLines},
		{"bundle", "FILE --data DIR --outing NAME|--all",
			"write an outing with its sweeps, log, runs and reports as one file for another notebook", bundleOuting},
		{"merge", "FILE --data DIR [--preview] | --undo NUMBER --data DIR",
			"merge such a file: changes are joined, conflicts listed; twice changes nothing", mergeBundle},
		{"backup", "--data DIR FILE", "write a copy, also while the server runs", backup},
		{"restore", "--data DIR FILE", "replace everything by a verified backup, also while the server runs", restore},
		{"version", "", "print the version", func(_ context.Context, c *call) error {
			_, err := fmt.Fprintln(c.out, version)
			return err
		}},
	}
}

func usage(w io.Writer) {
	fmt.Fprintln(w, "Itinerant Reed: a field notebook that computes.")
	for _, c := range commands() {
		fmt.Fprintf(w, "  reed %s\n      %s\n", strings.TrimSpace(c.name+" "+c.args), c.about)
	}
}

// run is the program; it returns the exit code.
func run(ctx context.Context, words []string, out, errs io.Writer) int {
	if len(words) == 0 || words[0] == "help" || words[0] == "-h" || words[0] == "--help" {
		usage(errs)
		return 2
	}
	for _, cmd := range commands() {
		if cmd.name != words[0] {
			continue
		}
		c := &call{flags: flag.NewFlagSet("reed "+cmd.name, flag.ContinueOnError), out: out, err: errs}
		c.flags.SetOutput(errs)
		c.args = words[1:]
		err := cmd.run(ctx, c)
		var u usageError
		switch {
		case err == nil:
			return 0
		case errors.Is(err, flag.ErrHelp):
			return 2
		case errors.As(err, &u):
			fmt.Fprintln(errs, "reed "+cmd.name+": "+err.Error())
			return 2
		}
		fmt.Fprintln(errs, "reed "+cmd.name+": "+err.Error())
		return 1
	}
	fmt.Fprintf(errs, "reed: %q is not a command\n", words[0])
	usage(errs)
	return 2
}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	code := run(ctx, os.Args[1:], os.Stdout, os.Stderr)
	stop()
	os.Exit(code)
}
