// Mutants shows which small faults the tests miss. Each line of faults.txt names one: file, function, the how many-th
// operator in it, and what it becomes. The fault is laid over the source (go test -overlay), never written into it, and
// the tests of its package are run.
//
//	go run ./scripts/mutants                 # try all, list the survivors
//	go run ./scripts/mutants -only core/kit  # those of one folder
//	go run ./scripts/mutants -most 5         # the first five
//	go run ./scripts/mutants -pick 100       # choose a new list, evenly over the rooms
package main

import (
	"bufio"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"hash/fnv"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"sync"
	"time"
)

const list = "scripts/mutants/faults.txt"

// rooms are those whose tests take seconds; what needs the solver for minutes is left to its own long tests.
var rooms = []string{"core/numeric", "core/quantity", "core/band", "core/place", "core/entry", "core/phrase", "core/circuit",
	"core/moment/earth", "core/antenna/family", "core/kit", "core/bench", "core/deployment", "core/sweep", "core/marks", "core/rigging",
	"core/onair", "core/weigh", "internal/store", "internal/access", "internal/exchange", "internal/device", "internal/server"}

// becomes is the fault that an operator is turned into.
var becomes = map[token.Token]token.Token{
	token.LSS: token.GEQ, token.LEQ: token.GTR, token.GTR: token.LEQ, token.GEQ: token.LSS, token.EQL: token.NEQ, token.NEQ: token.EQL,
	token.LAND: token.LOR, token.LOR: token.LAND, token.ADD: token.SUB, token.SUB: token.ADD, token.MUL: token.QUO, token.QUO: token.MUL,
}

// fault is one operator of a function: the nth, counted from 0, of file and function.
type fault struct {
	file, function string
	nth            int
	from, to       string
}

func (f fault) String() string {
	return fmt.Sprintf("%s\t%s\t%d\t%s\t%s", f.file, f.function, f.nth, f.from, f.to)
}

// place is where a fault lies in the source.
type place struct {
	fault
	at int
}

// places lists the operators of a file.
func places(file string) ([]place, error) {
	fs := token.NewFileSet()
	tree, err := parser.ParseFile(fs, file, nil, 0)
	if err != nil {
		return nil, err
	}
	var out []place
	for _, d := range tree.Decls {
		fn, ok := d.(*ast.FuncDecl)
		if !ok || fn.Body == nil {
			continue
		}
		name := fn.Name.Name
		if fn.Recv != nil {
			name = receiver(fn.Recv.List[0].Type) + "." + name
		}
		n := 0
		ast.Inspect(fn.Body, func(node ast.Node) bool {
			b, ok := node.(*ast.BinaryExpr)
			if !ok {
				return true
			}
			if to, ok := becomes[b.Op]; ok {
				out = append(out, place{fault{file, name, n, b.Op.String(), to.String()}, fs.Position(b.OpPos).Offset})
				n++
			}
			return true
		})
	}
	return out, nil
}

func receiver(e ast.Expr) string {
	switch e := e.(type) {
	case *ast.StarExpr:
		return receiver(e.X)
	case *ast.IndexExpr:
		return receiver(e.X)
	case *ast.Ident:
		return e.Name
	}
	return "?"
}

// run lays a fault over its file and runs a go command on its package; the output is kept for who asks.
func run(p place, command ...string) error {
	src, err := os.ReadFile(p.file)
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "mutant")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	faulty := filepath.Join(dir, "faulty.go")
	text := string(src[:p.at]) + p.to + string(src[p.at+len(p.from):])
	if err := os.WriteFile(faulty, []byte(text), 0o644); err != nil {
		return err
	}
	whole, err := filepath.Abs(p.file)
	if err != nil {
		return err
	}
	overlay, err := json.Marshal(map[string]map[string]string{"Replace": {whole: faulty}})
	if err != nil {
		return err
	}
	over := filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(over, overlay, 0o644); err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), 4*time.Minute)
	defer cancel()
	args := append(append(command, "-overlay", over), "./"+filepath.Dir(p.file))
	return exec.CommandContext(ctx, "go", args...).Run()
}

// pick chooses faults evenly over the rooms, by a hash of what they are, of those that compile.
func pick(want int) error {
	var chosen []fault
	for i, room := range rooms {
		files, _ := filepath.Glob(room + "/*.go")
		var all []place
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") || strings.Contains(f, ".gen.") {
				continue
			}
			found, err := places(f)
			if err != nil {
				return err
			}
			all = append(all, found...)
		}
		slices.SortFunc(all, func(a, b place) int { return strings.Compare(hash(a.fault), hash(b.fault)) })
		share := want*(i+1)/len(rooms) - len(chosen)
		for _, p := range all {
			if share == 0 {
				break
			}
			if run(p, "build", "-o", os.DevNull) == nil {
				chosen = append(chosen, p.fault)
				share--
			}
		}
	}
	var out strings.Builder
	for _, f := range chosen {
		fmt.Fprintln(&out, f)
	}
	return os.WriteFile(list, []byte(out.String()), 0o644)
}

func hash(f fault) string {
	h := fnv.New64a()
	fmt.Fprint(h, f)
	return fmt.Sprintf("%016x", h.Sum64())
}

func read() (out []fault, err error) {
	f, err := os.Open(list)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	for s := bufio.NewScanner(f); s.Scan(); {
		var x fault
		parts := strings.Split(s.Text(), "\t")
		if len(parts) != 5 {
			return nil, fmt.Errorf("%s: %q is no fault", list, s.Text())
		}
		x.file, x.function, x.from, x.to = parts[0], parts[1], parts[3], parts[4]
		if _, err := fmt.Sscan(parts[2], &x.nth); err != nil {
			return nil, fmt.Errorf("%s: %q: %w", list, s.Text(), err)
		}
		out = append(out, x)
	}
	return out, nil
}

// try runs the tests against every fault, two at a time, and says which are not caught.
func try(faults []fault) {
	var mu sync.Mutex
	var caught, gone int
	var alive []string
	turn := make(chan struct{}, 2)
	var wg sync.WaitGroup
	for _, f := range faults {
		wg.Add(1)
		turn <- struct{}{}
		go func() {
			defer func() { <-turn; wg.Done() }()
			all, err := places(f.file)
			at := slices.IndexFunc(all, func(p place) bool { return p.fault == f })
			if err != nil || at < 0 || run(all[at], "build", "-o", os.DevNull) != nil {
				mu.Lock()
				defer mu.Unlock()
				gone++
				fmt.Println("gone    ", f)
				return
			}
			failed := run(all[at], "test", "-short", "-count=1") != nil
			mu.Lock()
			defer mu.Unlock()
			if failed {
				caught++
				return
			}
			alive = append(alive, f.String())
			fmt.Println("survived", f)
		}()
	}
	wg.Wait()
	sort.Strings(alive)
	fmt.Printf("%d caught, %d survived, %d no longer there\n", caught, len(alive), gone)
}

func main() {
	n := flag.Int("pick", 0, "choose so many faults anew")
	only := flag.String("only", "", "try those below this folder")
	most := flag.Int("most", 0, "try at most so many; 0 for all")
	flag.Parse()
	if err := do(*n, *only, *most); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func do(n int, only string, most int) error {
	if n > 0 {
		return pick(n)
	}
	faults, err := read()
	if err != nil {
		return err
	}
	faults = slices.DeleteFunc(faults, func(f fault) bool { return !strings.HasPrefix(f.file, only) })
	if most > 0 && most < len(faults) {
		faults = faults[:most]
	}
	// Tests that fail as it is would catch everything.
	args := []string{"test", "-short"}
	for _, f := range faults {
		if at := "./" + filepath.Dir(f.file); !slices.Contains(args, at) {
			args = append(args, at)
		}
	}
	if out, err := exec.Command("go", args...).CombinedOutput(); err != nil {
		return fmt.Errorf("the tests fail without any fault:\n%s", out)
	}
	try(faults)
	return nil
}
