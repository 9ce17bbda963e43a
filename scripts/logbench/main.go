// Logbench measures what a key press, a logged line, the first screen of Work, the map of who heard and the shelf cost, with
// 1,000, 10,000 and 100,000 contacts, in one outing (with ten times as many reception reports) and spread over 300: p50 and p99 in
// milliseconds, and the program's memory.
package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/internal/store"
)

func id(kind, n int) string { return fmt.Sprintf("00000000-0000-7000-8%03d-%012d", kind, n) }

// fill writes contacts, one every half minute up to now, over outings with an antenna each.
func fill(dir string, contacts, outings int) error {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	defer st.Close()
	begun := time.Now().UTC().Add(-time.Duration(contacts) * 30 * time.Second)
	plan := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6, Wire: "pvc"}}
	shape := family.Design(plan).Shape
	for o := range outings {
		day := begun.Add(time.Duration(o*contacts/outings) * 30 * time.Second).Format(time.DateOnly)
		if _, err := st.PutOuting(ctx, store.Outing{ID: id(1, o), Name: fmt.Sprint("outing ", o), Date: day, Place: "IN36",
			Scheme: "ten-a-day"}, 0); err != nil {
			return err
		}
		if _, err := st.PutDeployment(ctx, deployment.Deployment{ID: id(2, o), OutingID: id(1, o), Name: "Heron", Plan: plan}, 0); err != nil {
			return err
		}
		if _, err := st.AddRevision(ctx, deployment.Revision{ID: id(3, o), DeploymentID: id(2, o),
			Built: deployment.Built{Shape: shape}}); err != nil {
			return err
		}
	}
	list := make([]onair.Contact, 0, contacts)
	for i := range contacts {
		o := i * outings / contacts
		call := fmt.Sprintf("Q%d%c%c%c", i%10, 'A'+i/10%26, 'A'+i/260%26, 'A'+i/6760%26)
		list = append(list, onair.Contact{ID: id(4, i), OutingID: id(1, o), DeploymentID: id(2, o),
			At: begun.Add(time.Duration(i) * 30 * time.Second), Seconds: true, Call: call,
			Band: "40m", Mode: "CW", Sent: "599", Received: "579", Locator: "IN46", PowerW: 5, Line: call + " 599 579"})
	}
	_, err = st.AddContacts(ctx, list)
	return err
}

// receivers is how many hear each slot; hears when the first of so many reports stands.
const receivers = 400

func hears(n int) time.Time {
	return time.Now().UTC().Truncate(2 * time.Minute).Add(-time.Duration(n/receivers+1) * 2 * time.Minute)
}

func slotOf(begun time.Time, j int) onair.PlannedSlot {
	return onair.PlannedSlot{At: begun.Add(time.Duration(j) * 2 * time.Minute), Band: []string{"40m", "20m"}[j/10%2],
		Letter: []string{"A", "B"}[j%2]}
}

// inTurn puts a second antenna beside the first of an outing, and a run of both that the reports are of.
func inTurn(dir string, o int, begun time.Time, reports int) error {
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	defer st.Close()
	plan := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6, Wire: "pvc"}}
	if _, err := st.PutDeployment(ctx, deployment.Deployment{ID: id(2, 9000), OutingID: id(1, o), Name: "Stilt", Plan: plan}, 0); err != nil {
		return err
	}
	if _, err := st.AddRevision(ctx, deployment.Revision{ID: id(3, 9000), DeploymentID: id(2, 9000),
		Built: deployment.Built{Shape: family.Design(plan).Shape}}); err != nil {
		return err
	}
	run := onair.Run{ID: id(6, 0), OutingID: id(1, o), Begin: begun, Mode: "WSPR", PowerW: 0.2, Bands: []string{"40m", "20m"},
		Aerials: []onair.Aerial{{Letter: "A", DeploymentID: id(2, o), Name: "Heron"}, {Letter: "B", DeploymentID: id(2, 9000), Name: "Stilt"}}}
	for j := range reports / receivers {
		run.Slots = append(run.Slots, slotOf(begun, j))
	}
	_, err = st.PutRun(ctx, run, 0)
	return err
}

// reports writes a file of so many reception reports from a time on, in slots of two minutes: A is 2 dB stronger.
func reports(path string, n int, begun time.Time) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	_, _ = w.WriteString("timestamp,sender,receiver,locator,frequency,mode,snr,power\n")
	for i := range n {
		k, s := i%receivers, slotOf(begun, i/receivers)
		_, _ = fmt.Fprintf(w, "%s,Q1REED,Q%d%c%c%c,%c%c%d%d,%s,WSPR,%d,23\n", s.At.Format(time.DateTime), k%10, 'A'+k%26, 'A'+k/26, 'A'+k%7,
			'A'+k%18, 'F'+k%8, k%10, k/10%10, map[string]string{"40m": "7.0386", "20m": "14.0956"}[s.Band],
			-24+(i*7+i/receivers*11)%13+k%9+map[string]int{"A": 2}[s.Letter])
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Close()
}

// imports takes reports in through the program, and says how fast and with how much memory.
func imports(binary, dir, outing string, n int, from time.Time) error {
	file := filepath.Join(dir, "heard.csv")
	if err := reports(file, n, from); err != nil {
		return err
	}
	c := exec.Command(binary, "import", file, "--data", dir, "--outing", outing)
	begun := time.Now()
	out, err := c.CombinedOutput()
	if err != nil {
		return fmt.Errorf("%w: %s", err, out)
	}
	took := time.Since(begun).Seconds()
	peak := 0
	if u, ok := c.ProcessState.SysUsage().(*syscall.Rusage); ok {
		peak = int(u.Maxrss >> 10)
	}
	fmt.Printf("%7d reports imported in %.0f s, %.0f a second, at most %d MB\n", n, took, float64(n)/took, peak)
	return os.Remove(file)
}

type bench struct {
	base   string
	client http.Client
}

func (b *bench) ask(method, path string, body any) error {
	text, _ := json.Marshal(body)
	r, err := http.NewRequest(method, b.base+path, bytes.NewReader(text))
	if err != nil {
		return err
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := b.client.Do(r)
	if err != nil {
		return err
	}
	defer resp.Body.Close()
	data, err := io.ReadAll(resp.Body)
	if err == nil && resp.StatusCode != 200 {
		err = fmt.Errorf("%s %s: %d %s", method, path, resp.StatusCode, data)
	}
	return err
}

// times is the median and the 99th part in milliseconds of n calls.
func times(n int, call func(i int) error) (p50, p99 float64, err error) {
	var took []float64
	for i := range n {
		begun := time.Now()
		if err := call(i); err != nil {
			return 0, 0, err
		}
		took = append(took, float64(time.Since(begun).Microseconds())/1e3)
	}
	slices.Sort(took)
	return took[n/2], took[n*99/100], nil
}

func one(binary string, contacts, outings, heard int) error {
	dir, err := os.MkdirTemp("", "reed-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := fill(dir, contacts, outings); err != nil {
		return err
	}
	if heard > 0 {
		begun := hears(heard)
		if err := imports(binary, dir, id(1, outings-1), heard, begun); err != nil {
			return err
		}
		if err := inTurn(dir, outings-1, begun, heard); err != nil {
			return err
		}
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	address := l.Addr().String()
	l.Close()
	c := exec.Command(binary, "serve", "--data", dir, "--listen", address)
	if err := c.Start(); err != nil {
		return err
	}
	defer func() { _ = c.Process.Kill(); _ = c.Wait() }()
	b := &bench{base: "http://" + address}
	for b.ask("GET", "/api/health", nil) != nil {
		time.Sleep(20 * time.Millisecond)
	}
	last := id(1, outings-1)
	fmt.Printf("%7d contacts in %3d outings:", contacts, outings)
	if heard > 0 {
		pair := "?a=" + id(2, outings-1) + "&b=" + id(2, 9000)
		for _, name := range []string{"weighed cold", "again"} {
			begun := time.Now()
			if err := b.ask("GET", "/api/weigh"+pair, nil); err != nil {
				return err
			}
			fmt.Printf("  %s %.0f", name, float64(time.Since(begun).Microseconds())/1e3)
		}
	}
	for _, m := range []struct {
		name string
		n    int
		call func(i int) error
	}{
		{"key press", 300, func(i int) error {
			return b.ask("POST", "/api/line", map[string]any{"outing_id": last, "line": fmt.Sprintf("Q%dAB 599 5", i%10)})
		}},
		{"logged", 300, func(i int) error {
			return b.ask("PUT", "/api/contacts/"+id(5, i)+"/line", map[string]any{"outing_id": last,
				"line": fmt.Sprintf("Q%dZZ 599 579 40m CW", i%10)})
		}},
		{"Work", 100, func(int) error {
			if err := b.ask("GET", "/api/outings/"+last, nil); err != nil {
				return err
			}
			return b.ask("GET", "/api/outings/"+last+"/log", nil)
		}},
		{"map", 20, func(int) error { return b.ask("GET", "/api/outings/"+last+"/heard", nil) }},
		{"map of a band", 20, func(int) error { return b.ask("GET", "/api/outings/"+last+"/heard?band=40m", nil) }},
		{"reports", 50, func(int) error { return b.ask("GET", "/api/outings/"+last+"/reports", nil) }},
		{"over all outings", 5, func(int) error { return b.ask("GET", "/api/record", nil) }},
		{"shelf", 100, func(int) error { return b.ask("GET", "/api/outings", nil) }},
		{"search", 30, func(i int) error {
			return b.ask("GET", "/api/outings/"+last+"/log?words=q"+fmt.Sprint(i%10)+"nobody", nil)
		}},
	} {
		p50, p99, err := times(m.n, m.call)
		if err != nil {
			return err
		}
		fmt.Printf("  %s %.1f/%.1f", m.name, p50, p99)
	}
	data, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", c.Process.Pid))
	if err != nil {
		return err
	}
	pages, _ := strconv.Atoi(strings.Fields(string(data))[1])
	fmt.Printf("  memory %d MB\n", pages*os.Getpagesize()>>20)
	return nil
}

func main() {
	binary := flag.String("bin", "bin/reed", "the program")
	most := flag.Int("most", 100000, "contacts in the largest notebook")
	flag.Parse()
	path, err := filepath.Abs(*binary)
	if err != nil {
		panic(err)
	}
	fmt.Println("milliseconds, p50/p99:")
	for _, n := range []int{1000, 10000, 100000} {
		if n > *most {
			continue
		}
		for _, outings := range []int{1, 300} {
			heard := 0
			if outings == 1 { // ten times as many reports, with one outing
				heard = 10 * n
			}
			if err := one(path, n, outings, heard); err != nil {
				fmt.Println("\nfailed:", err)
				os.Exit(1)
			}
		}
	}
}
