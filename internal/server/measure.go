package server

import (
	"context"
	"fmt"
	"net"
	"strings"
	"sync"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/sweep"
	"reed/internal/device"
	"reed/internal/exchange"
	"reed/internal/standin"
)

// simulated is the analyser that ships, listening on loopback from its first use on.
type simulated struct {
	mu      sync.Mutex
	address string
}

// start begins to listen, once, and says where.
func (x *simulated) start(serve func(ctx context.Context, ln net.Listener) error) (string, error) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.address != "" {
		return x.address, nil
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", fmt.Errorf("starting a simulated instrument: %w", err)
	}
	go func() {
		if serve(context.Background(), ln) != nil {
			x.mu.Lock()
			x.address = "" // the next use starts it again
			x.mu.Unlock()
		}
	}()
	x.address = ln.Addr().String()
	return x.address, nil
}

// port names a set-up to the simulated analyser: the revision, where it is measured and the how many-th time.
func port(revision string, atRadio bool, take int) string {
	where := "feed"
	if atRadio {
		where = "radio"
	}
	return fmt.Sprintf("%s/%s/%d", revision, where, take)
}

// lookup finds what a port of the simulated analyser leads to.
func (s *Server) lookup(ctx context.Context, port string) (a standin.Analyser, b deployment.Built, atRadio bool, err error) {
	words := strings.Split(port, "/")
	take := 0
	if len(words) == 3 {
		_, err = fmt.Sscan(words[2], &take)
	}
	if len(words) != 3 || err != nil || take < 0 || take > 99 {
		return a, b, false, fmt.Errorf("%q leads to no set-up; a port is revision/feed/0", port)
	}
	rev, err := s.store.Revision(ctx, words[0])
	if err != nil {
		return a, b, false, err
	}
	setup, err := s.setup(ctx, ModelQuestion{RevisionId: rev.ID})
	if err != nil {
		return a, b, false, err
	}
	a = standin.Of(rev.DeploymentID, setup.Ground, &s.twin)
	a.Take = take
	return a, rev.Built, words[1] == "radio", nil
}

// ComputeSweep lets an analyser sweep a revision; the result is a file like any analyser's.
func (s *Server) ComputeSweep(ctx context.Context, r ComputeSweepRequestObject) (ComputeSweepResponseObject, error) {
	in := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	rev, err := s.store.Revision(ctx, in.RevisionId)
	if err != nil {
		return nil, err
	}
	var ask device.Ask
	ask.Lo, ask.Hi, ask.N = sweep.Everything()
	name := "overview"
	if !in.Wide {
		b, ok := band.Named(me.Region, in.Band)
		if !ok {
			return nil, invalid("band", fmt.Sprintf("%q is not a band", in.Band))
		}
		ask.Lo, ask.Hi, ask.N = sweep.Across(me.Region, b)
		name = b.Name
	}
	address, who := me.Analyser, "analyser"
	if in.Device == Simulated {
		if _, err := s.setup(ctx, ModelQuestion{RevisionId: rev.ID}); err != nil {
			return nil, err
		}
		if address, err = s.bench.start(func(ctx context.Context, ln net.Listener) error {
			return device.Serve(ctx, ln, standin.Bench{Lookup: s.lookup})
		}); err != nil {
			return nil, err
		}
		ask.Port, who = port(rev.ID, in.Where == SweepQuestionWhereRadio, in.Take), "simulated"
	} else if address == "" {
		return nil, invalid("device", "no analyser is set up; write its address in Settings")
	}
	name = fmt.Sprintf("%s-%s-r%d.s1p", who, name, rev.Seq)
	if in.Take > 0 {
		name = strings.Replace(name, ".s1p", fmt.Sprintf("-%d.s1p", in.Take+1), 1)
	}
	out, err := measure(ctx, s, asks{in.Id, in.Slot, in.WaitMs}, func(ctx context.Context, done func(step, of int)) (FileInput, error) {
		got, err := device.Client{}.Measure(ctx, address, ask, done)
		if err != nil {
			return FileInput{}, err
		}
		head := got.Name
		if got.Simulated {
			head = standin.Mark
		}
		return FileInput{Name: name, Content: []byte(exchange.WriteTouchstone(got.Sweep, head))}, nil
	})
	return ComputeSweep200JSONResponse(out), err
}

// ComputePractice plays a game of trimming. Moves come as what is done on each leg or wire.
func (s *Server) ComputePractice(ctx context.Context, r ComputePracticeRequestObject) (ComputePracticeResponseObject, error) {
	in := *r.Body
	me, err := s.store.Me(ctx)
	if err != nil {
		return nil, err
	}
	game := standin.Practice{Seed: uint64(in.Game.Seed), Region: me.Region, Segments: me.Segments, Limit: me.GoodSWR, Units: me.Units}
	legs, err := game.Legs(&s.twin)
	if err != nil {
		return nil, invalid("game", err.Error())
	}
	var folds []float64
	for i, m := range in.Game.Moves {
		path := fmt.Sprintf("game.moves.%d.length", i)
		if p := m.Length.Problem(); p != nil {
			return nil, invalid(path, p.Error())
		}
		if m.Length.M <= 0 {
			return nil, invalid(path, "how much is folded back? Write it like 12 cm")
		}
		fold := m.Length.M * float64(legs)
		if m.Add {
			fold = -fold
		}
		folds = append(folds, fold)
	}
	out, err := answer(ctx, s, asks{in.Id, in.Slot, in.WaitMs}, nil, func(ctx context.Context, done func(step, of int)) (standin.Played,
		error) {
		return game.Play(ctx, &s.twin, folds, in.Game.GiveUp, done)
	})
	return ComputePractice200JSONResponse(out), err
}
