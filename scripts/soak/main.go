// Soak runs the program under everything at once for a while: six writers, two readers, computations begun and left,
// imports, backups and restores, bundles to and from a second notebook, kills every few seconds, and a disk that is full
// once; then without kills, to see whether memory and goroutines stay. It prints what it saw, and ends with 1 when an
// acknowledged write is not there once, the notebooks do not agree, memory grows or a goroutine is left.
package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sys/unix"
	_ "modernc.org/sqlite"
)

const (
	writers   = 6
	readers   = 2
	outings   = 5
	perWriter = 200 * time.Millisecond
)

// soak is one run.
type soak struct {
	binary, data, address, otherAddress string
	client                              *http.Client

	mu        sync.Mutex
	told      map[string]bool // ids of contacts whose write was acknowledged
	kept      map[string]bool // ids that were set aside by a restore
	keptTexts map[string]bool // texts of the shared outing that were set aside by a restore
	failed    []string
	child     *exec.Cmd
	other     *other

	writes, repeats, edits, reads, left, imports, kills, restores, backups, full, refusedFull atomic.Int64
	stop                                                                                      chan struct{}
}

func (s *soak) fault(format string, args ...any) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.failed) < 20 {
		s.failed = append(s.failed, fmt.Sprintf(format, args...))
	}
}

func (s *soak) over() bool {
	select {
	case <-s.stop:
		return true
	default:
		return false
	}
}

// start starts the program on its address and waits until it answers.
func (s *soak) start() error {
	c := exec.Command(s.binary, "serve", "--data", s.data, "--listen", s.address)
	log, err := os.OpenFile(s.data+".log", os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	c.Stderr = log
	if err := c.Start(); err != nil {
		return err
	}
	s.mu.Lock()
	s.child = c
	s.mu.Unlock()
	return s.answers(s.url(""))
}

// answers waits until a program answers at an address.
func (s *soak) answers(url string) error {
	for range 600 {
		if r, err := s.client.Get(url + "/api/health"); err == nil {
			r.Body.Close()
			return nil
		}
		time.Sleep(50 * time.Millisecond)
	}
	return errors.New("the program does not answer within half a minute of its start")
}

func (s *soak) kill() {
	s.mu.Lock()
	c := s.child
	s.mu.Unlock()
	_ = c.Process.Kill()
	_ = c.Wait()
}

func (s *soak) url(path string) string { return "http://" + s.address + path }

// pause waits, and ends early with the run.
func (s *soak) pause(d time.Duration) {
	select {
	case <-s.stop:
	case <-time.After(d):
	}
}

// ask sends a request; status 0 is no answer.
func (s *soak) ask(ctx context.Context, method, path string, body any, into any) int {
	return s.askURL(ctx, method, s.url(path), body, into)
}

func (s *soak) askURL(ctx context.Context, method, url string, body any, into any) int {
	var in io.Reader
	if body != nil {
		text, _ := json.Marshal(body)
		in = bytes.NewReader(text)
	}
	r, err := http.NewRequestWithContext(ctx, method, url, in)
	if err != nil {
		return 0
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := s.client.Do(r)
	if err != nil {
		return 0
	}
	defer resp.Body.Close()
	data, err := io.ReadAll(resp.Body)
	if err != nil {
		return 0
	}
	if into != nil && resp.StatusCode == 200 && json.Unmarshal(data, into) != nil {
		return 0
	}
	if resp.StatusCode == 500 && !strings.Contains(string(data), "changed") {
		s.fault("%s %s: %s", method, url, data)
	}
	return resp.StatusCode
}

func outingID(n int) string { return fmt.Sprintf("00000000-0000-7000-8000-%012d", n+1) }

// write logs contacts, now and then again, and corrects some.
func (s *soak) write(w int) {
	ctx := context.Background()
	for i := 0; !s.over(); i++ {
		s.pause(perWriter)
		id := uuid.Must(uuid.NewV7()).String()
		line := map[string]any{"outing_id": outingID(w % outings), "line": fmt.Sprintf("Q%d%c%cAB 599 579 40m CW", i%10, 'A'+i/10%26,
			'A'+i/260%26)}
		path := "/api/contacts/" + id + "/line"
		var c struct {
			Version int `json:"version"`
		}
		for range 3 { // as the browser does: the same write again until it is answered
			code := s.ask(ctx, "PUT", path, line, &c)
			if code == 200 {
				s.mu.Lock()
				s.told[id] = true
				s.mu.Unlock()
				s.writes.Add(1)
				break
			}
			if code >= 500 {
				s.refusedFull.Add(1)
			}
			time.Sleep(200 * time.Millisecond)
		}
		if c.Version == 0 {
			continue
		}
		if i%7 == 0 {
			s.repeats.Add(1)
			s.ask(ctx, "PUT", path, line, nil)
		}
		if i%5 == 0 {
			fix := map[string]any{"outing_id": outingID(w % outings), "call": "Q9FIX", "at": time.Now().UTC().Add(-time.Minute), "seconds": false,
				"band": "40m", "mode": "CW"}
			if code := s.ask(ctx, "PUT", "/api/contacts/"+id+"?version=1", fix, &c); code == 200 {
				s.edits.Add(1)
				// A restore may have taken the contact away meanwhile: then the correction brings it in anew, as version 1.
				if c.Version != 2 && (c.Version != 1 || s.backups.Load() == 0) {
					s.fault("a correction of version 1 is version %d", c.Version)
				}
			}
		}
	}
}

func (s *soak) read(n int) {
	for i := 0; !s.over(); i++ {
		path := []string{"/api/outings", "/api/outings/" + outingID(i%outings) + "/log",
			"/api/outings/" + outingID(i%outings) + "/log?words=q1a", "/api/tags", "/api/outings/" + outingID(i%outings)}[i%5]
		if s.ask(context.Background(), "GET", path, nil, nil) == 200 {
			s.reads.Add(1)
		}
		s.pause(100 * time.Millisecond)
	}
}

// leave begins computations and goes away in the middle.
func (s *soak) leave() {
	for i := 0; !s.over(); i++ {
		ctx, cancel := context.WithTimeout(context.Background(), time.Duration(20+rand.IntN(400))*time.Millisecond)
		plan := map[string]any{"family": "end-fed", "variant": "sloper", "frequency_hz": 7e6 + float64(rand.IntN(100))*1e3,
			"more_hz": []float64{14.1e6, 21.1e6}}
		s.ask(ctx, "POST", "/api/compute/"+[]string{"forecast", "lengths"}[i%2],
			map[string]any{"id": uuid.Must(uuid.NewV7()).String(), "slot": fmt.Sprint("soak ", i%4), "plan": plan, "wait_ms": 3000}, nil)
		cancel()
		s.left.Add(1)
		s.pause(1500 * time.Millisecond)
	}
}

func (s *soak) bring() {
	for !s.over() {
		s.pause(3 * time.Second)
		var adi strings.Builder
		adi.WriteString("<EOH>")
		for i := range 20 {
			fmt.Fprintf(&adi, "<CALL:5>Q%dIMP<QSO_DATE:8>20260510<TIME_ON:6>%06d<BAND:3>20m<MODE:2>CW<EOR>", i%10,
				rand.IntN(24)*10000+rand.IntN(60)*100+rand.IntN(60))
		}
		var done struct {
			Added int `json:"added"`
		}
		batch := uuid.Must(uuid.NewV7()).String()
		if s.ask(context.Background(), "PUT", "/api/imports/"+batch, map[string]any{"name": "soak.adi", "outing_id": outingID(0),
			"content": base64.StdEncoding.EncodeToString([]byte(adi.String()))}, &done) == 200 {
			s.imports.Add(1)
		}
	}
}

// set aside and put back: a backup, and a restore from it a moment later.
func (s *soak) restore() {
	for !s.over() {
		s.pause(40 * time.Second)
		if s.over() {
			return
		}
		to := filepath.Join(filepath.Dir(s.data), "soak-backup.db")
		_ = os.Remove(to)
		if out, err := exec.Command(s.binary, "backup", "--data", s.data, to).CombinedOutput(); err != nil {
			s.softFault("backup", out)
			continue
		}
		s.backups.Add(1)
		time.Sleep(2 * time.Second)
		out, err := exec.Command(s.binary, "restore", "--data", s.data, to).CombinedOutput()
		if err != nil {
			s.softFault("restore", out)
			continue
		}
		s.restores.Add(1)
		kept := strings.TrimSpace(string(out[bytes.LastIndex(out, []byte(" in "))+4:]))
		if err := s.remember(kept); err != nil {
			s.fault("reading what a restore kept: %v", err)
		}
		for _, more := range []string{"", "-wal", "-shm"} {
			_ = os.Remove(kept + more)
		}
	}
}

// softFault is one that a full disk explains; anything else is a fault.
func (s *soak) softFault(what string, out []byte) {
	if s.full.Load()%2 == 1 || bytes.Contains(out, []byte("full")) || bytes.Contains(out, []byte("too large")) {
		return
	}
	s.fault("%s: %s", what, out)
}

func (s *soak) remember(path string) error {
	ids, err := contacts(path)
	if err != nil {
		return err
	}
	_, texts, err := sharedTexts(path)
	s.mu.Lock()
	defer s.mu.Unlock()
	for id := range ids {
		s.kept[id] = true
	}
	for text := range texts {
		s.keptTexts[text] = true
	}
	return err
}

func contacts(path string) (map[string]int, error) {
	db, err := sql.Open("sqlite", "file:"+path+"?mode=ro")
	if err != nil {
		return nil, err
	}
	defer db.Close()
	rows, err := db.Query("SELECT id FROM contact")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]int{}
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out[id]++
	}
	return out, rows.Err()
}

// fill makes the disk full for the program: no file of it may grow any more.
func (s *soak) fill(d time.Duration) {
	s.mu.Lock()
	pid := s.child.Process.Pid
	s.mu.Unlock()
	s.full.Add(1)
	small, wide := unix.Rlimit{Cur: 8192, Max: unix.RLIM_INFINITY}, unix.Rlimit{Cur: unix.RLIM_INFINITY, Max: unix.RLIM_INFINITY}
	if err := unix.Prlimit(pid, unix.RLIMIT_FSIZE, &small, nil); err != nil {
		s.fault("the disk cannot be made full: %v", err)
	}
	time.Sleep(d)
	_ = unix.Prlimit(pid, unix.RLIMIT_FSIZE, &wide, nil)
	s.full.Add(1)
}

// health is what the program says of itself to the machine that it runs on.
type health struct {
	Goroutines int   `json:"goroutines"`
	Heap       int64 `json:"heap_bytes"`
}

func (s *soak) rss() int {
	s.mu.Lock()
	pid := s.child.Process.Pid
	s.mu.Unlock()
	data, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", pid))
	if err != nil {
		return 0
	}
	words := strings.Fields(string(data))
	pages, _ := strconv.Atoi(words[1])
	return pages * os.Getpagesize() >> 20
}

func (s *soak) run(d time.Duration) error {
	if err := s.start(); err != nil {
		return err
	}
	for i := range outings {
		if code := s.ask(context.Background(), "PUT", "/api/outings/"+outingID(i),
			map[string]any{"name": fmt.Sprint("soak ", i), "date": "2026-05-16"}, nil); code != 200 {
			return fmt.Errorf("the first outing is answered with %d", code)
		}
	}
	if err := s.startOther(s.otherAddress); err != nil {
		return err
	}
	var idle health
	time.Sleep(time.Second)
	s.ask(context.Background(), "GET", "/api/health", nil, &idle)
	var wg sync.WaitGroup
	for w := range writers {
		wg.Go(func() { s.write(w) })
	}
	for n := range readers {
		wg.Go(func() { s.read(n) })
	}
	for _, f := range []func(){s.leave, s.bring, s.restore, s.meet} {
		wg.Go(f)
	}
	begun := time.Now()
	killing := d * 2 / 3
	filled := false
	for time.Since(begun) < killing {
		time.Sleep(time.Duration(3000+rand.IntN(5000)) * time.Millisecond)
		if !filled && time.Since(begun) > killing/2 {
			filled = true
			s.fill(8 * time.Second)
			continue
		}
		s.kill()
		s.kills.Add(1)
		if err := s.start(); err != nil {
			return err
		}
	}
	// The last kill of a short run may end after the run should have: memory is looked at four times at least.
	var memory []int
	for len(memory) < 4 || time.Since(begun) < d {
		time.Sleep(min(5*time.Second, d/60))
		memory = append(memory, s.rss())
	}
	close(s.stop)
	wg.Wait()
	return s.judge(idle, memory)
}

func median(list []int) int {
	list = slices.Clone(list)
	slices.Sort(list)
	return list[len(list)/2]
}

func (s *soak) judge(idle health, memory []int) error {
	// Jobs that were left end within a second; results are forgotten after five minutes and hold no goroutine.
	var end health
	for range 40 {
		time.Sleep(500 * time.Millisecond)
		s.client.CloseIdleConnections()
		s.ask(context.Background(), "GET", "/api/health", nil, &end)
		if end.Goroutines <= idle.Goroutines+1 {
			break
		}
	}
	quarter := max(1, len(memory)/4)
	first, last := median(memory[quarter:2*quarter]), median(memory[len(memory)-quarter:])
	if err := s.judgeMerging(); err != nil {
		return err
	}
	s.kill()
	have, err := contacts(filepath.Join(s.data, "reed.db"))
	if err != nil {
		return err
	}
	lost := 0
	for id := range s.told {
		if have[id] != 1 && !s.kept[id] {
			lost++
		}
	}
	if out, err := exec.Command(s.binary, "backup", "--data", s.data, filepath.Join(filepath.Dir(s.data),
		"soak-end.db")).CombinedOutput(); err != nil {
		s.fault("the last backup: %s", out)
	}
	fmt.Printf("acknowledged %d, in neither file %d; repeated %d, corrected %d, reads %d, imports %d, computations left %d\n", len(s.told),
		lost, s.repeats.Load(), s.edits.Load(), s.reads.Load(), s.imports.Load(), s.left.Load())
	fmt.Printf("killed %d times, backups %d, restores %d, disk full %d times (%d writes refused meanwhile or while it was down)\n",
		s.kills.Load(), s.backups.Load(), s.restores.Load(), s.full.Load()/2, s.refusedFull.Load())
	fmt.Printf("memory in MB: %d early, %d late, %d most; goroutines: %d idle at first, %d at the end\n", first, last, slices.Max(memory),
		idle.Goroutines, end.Goroutines)
	if lost > 0 {
		s.fault("%d acknowledged writes are lost", lost)
	}
	if last > first+first/3+20 {
		s.fault("memory grows: %d MB, later %d MB", first, last)
	}
	if end.Goroutines > idle.Goroutines+2 {
		s.fault("%d goroutines are left of %d", end.Goroutines, idle.Goroutines)
	}
	for _, f := range s.failed {
		fmt.Println("FAULT:", f)
	}
	if len(s.failed) > 0 {
		return fmt.Errorf("%d faults", len(s.failed))
	}
	return nil
}

// freeAddress finds an address on this machine that nobody listens on.
func freeAddress() string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		panic(err)
	}
	defer l.Close()
	return l.Addr().String()
}

func main() {
	d := flag.Duration("for", 5*time.Minute, "how long")
	binary := flag.String("bin", "bin/reed", "the program")
	flag.Parse()
	dir, err := os.MkdirTemp("", "reed-soak-")
	if err != nil {
		panic(err)
	}
	address, otherAddress := freeAddress(), freeAddress()
	path, err := filepath.Abs(*binary)
	if err != nil {
		panic(err)
	}
	s := &soak{binary: path, data: filepath.Join(dir, "data"), address: address, otherAddress: otherAddress,
		client: &http.Client{Timeout: 30 * time.Second},
		told:   map[string]bool{}, kept: map[string]bool{}, keptTexts: map[string]bool{}, stop: make(chan struct{})}
	begun := time.Now()
	err = s.run(*d)
	if s.child != nil && s.child.ProcessState == nil {
		_ = s.child.Process.Signal(syscall.SIGKILL)
	}
	if s.other != nil && s.other.child.ProcessState == nil {
		_ = s.other.child.Process.Kill()
	}
	fmt.Printf("soaked for %v\n", time.Since(begun).Round(time.Second))
	if err != nil {
		fmt.Println("failed:", err, "; what there was is in", dir)
		os.Exit(1)
	}
	os.RemoveAll(dir)
}
