package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"reed/internal/store"
	"reed/internal/testsize"
)

// started builds the program once and starts it on a data folder; it returns its address.
func started(t *testing.T, binary, data string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(binary, "serve", "--data", data, "--listen", "127.0.0.1:0")
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { cmd.Process.Kill() })
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	return cmd, strings.TrimSpace(line[strings.Index(line, "http"):])
}

func putJSON(url string, body any) (int, error) {
	text, err := json.Marshal(body)
	if err != nil {
		return 0, err
	}
	r, err := http.NewRequest("PUT", url, bytes.NewReader(text))
	if err != nil {
		return 0, err
	}
	r.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(r)
	if err != nil {
		return 0, err
	}
	defer resp.Body.Close()
	return resp.StatusCode, nil
}

func TestWhatWasAcknowledgedSurvivesAKill(t *testing.T) {
	testsize.SkipIfShort(t, "solves or builds the program")
	binary := filepath.Join(t.TempDir(), "reed")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	data := t.TempDir()
	id := func(n int) string { return fmt.Sprintf("00000000-0000-7000-8000-%012d", n) }
	acknowledged := map[string]bool{}
	for round := range 3 {
		cmd, url := started(t, binary, data)
		if code, err := putJSON(url+"/api/outings/"+id(1), map[string]any{"name": "x", "date": "2026-05-16"}); err != nil || code != 200 {
			t.Fatal(code, err)
		}
		var mu sync.Mutex
		var wg sync.WaitGroup
		kept, busy := 0, make(chan struct{})
		for worker := range 4 {
			wg.Go(func() {
				for i := range 1000 {
					contact := id(100000*(round+1) + 10000*worker + i)
					code, err := putJSON(url+"/api/contacts/"+contact+"/line", map[string]any{"outing_id": id(1),
						"line": fmt.Sprintf("Q%dAB 599 579 40m CW", i)})
					if err != nil {
						return // killed
					}
					if code == 200 {
						mu.Lock()
						acknowledged[contact] = true
						if kept++; kept == 25 {
							close(busy)
						}
						mu.Unlock()
					}
				}
			})
		}
		select {
		case <-busy: // in the midst of it
		case <-time.After(30 * time.Second):
			t.Error("hardly anything is kept")
		}
		cmd.Process.Kill()
		wg.Wait()
		cmd.Wait()
	}
	st, err := store.Open(context.Background(), data)
	if err != nil {
		t.Fatalf("the database does not open after being killed: %v", err)
	}
	defer st.Close()
	have, err := st.Contacts(context.Background(), id(1))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range have {
		delete(acknowledged, c.ID)
	}
	if len(have) == 0 || len(acknowledged) > 0 {
		t.Errorf("%d contacts there, %d acknowledged ones lost", len(have), len(acknowledged))
	}
}
