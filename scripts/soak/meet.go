package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
)

// shared is how many contacts of the outing that both notebooks hold are edited on both sides.
const shared = 40

// other is a second notebook, of another operator: it is never killed, and bundles go to and from it.
type other struct {
	data, url string
	child     *exec.Cmd

	mu    sync.Mutex
	texts map[string]bool // texts whose write was acknowledged on either side

	edits, merges, conflicts, decided, undone int
}

func sharedOuting() string { return outingID(outings) }

func sharedContact(n int) string { return fmt.Sprintf("00000000-0000-7000-8001-%012d", n) }

// startOther starts the second notebook and fills the outing that both hold.
func (s *soak) startOther(address string) error {
	o := &other{data: s.data + "-other", url: "http://" + address, texts: map[string]bool{}}
	s.other = o
	o.child = exec.Command(s.binary, "serve", "--data", o.data, "--listen", address)
	if err := o.child.Start(); err != nil {
		return err
	}
	if err := s.answers(o.url); err != nil {
		return err
	}
	me := map[string]any{"call": "Q2REED", "region": 1, "imperial": false, "power_w": 5, "good_swr": 2, "segments": []any{}}
	if code := s.askAt(o.url, "PUT", "/api/me", me, nil); code != 200 {
		return fmt.Errorf("the second notebook's owner is answered with %d", code)
	}
	outing := map[string]any{"name": "met", "date": "2026-05-16"}
	if code := s.askAt(s.url(""), "PUT", "/api/outings/"+sharedOuting(), outing, nil); code != 200 {
		return fmt.Errorf("the shared outing is answered with %d", code)
	}
	for n := range shared {
		text := fmt.Sprint("first ", n)
		if code := s.askAt(s.url(""), "PUT", "/api/contacts/"+sharedContact(n), sharedText(text), nil); code != 200 {
			return fmt.Errorf("a shared contact is answered with %d", code)
		}
		o.texts[text] = true
	}
	return s.exchange()
}

func sharedText(text string) map[string]any {
	return map[string]any{"outing_id": sharedOuting(), "call": "Q5MET", "at": "2026-05-16T12:00:00Z", "seconds": false, "band": "40m",
		"mode": "CW", "comment": text}
}

func (s *soak) askAt(url, method, path string, body any, into any) int {
	return s.askURL(context.Background(), method, url+path, body, into)
}

// meet edits the shared contacts in both notebooks, carries bundles both ways every ten seconds, and decides some of the conflicts.
func (s *soak) meet() {
	o := s.other
	for i := 1; !s.over(); i++ {
		s.pause(500 * time.Millisecond)
		for _, at := range []string{s.url(""), o.url} {
			s.editShared(at)
		}
		if i%20 != 0 {
			continue
		}
		if err := s.exchange(); err != nil && s.full.Load()%2 == 0 && !s.over() {
			// A program that is just being killed answers nothing: the next exchange carries all of it.
			o.undone++
			continue
		}
		if i%60 == 0 {
			s.decide(o.url)
		}
	}
}

func (s *soak) editShared(at string) {
	var log struct {
		Rows []struct {
			Contact struct {
				ID      string `json:"id"`
				Version int    `json:"version"`
			} `json:"contact"`
		} `json:"rows"`
	}
	if s.askAt(at, "GET", "/api/outings/"+sharedOuting()+"/log", nil, &log) != 200 || len(log.Rows) == 0 {
		return
	}
	c := log.Rows[rand.IntN(len(log.Rows))].Contact
	text := uuid.Must(uuid.NewV7()).String()
	if s.askAt(at, "PUT", fmt.Sprintf("/api/contacts/%s?version=%d", c.ID, c.Version), sharedText(text), nil) == 200 {
		s.other.mu.Lock()
		s.other.texts[text] = true
		s.other.edits++
		s.other.mu.Unlock()
	}
}

// exchange carries a bundle of the shared outing each way.
func (s *soak) exchange() error {
	for _, way := range [][2]string{{s.url(""), s.other.url}, {s.other.url, s.url("")}} {
		if _, err := s.carry(way[0], way[1]); err != nil {
			return err
		}
	}
	return nil
}

// carry merges a bundle of the shared outing from one notebook into the other, and reports whether that changed anything.
func (s *soak) carry(from, to string) (changed bool, err error) {
	bundle, code := s.fetch(from + "/api/outings/" + sharedOuting() + "/bundle.zip")
	if code != 200 {
		return false, fmt.Errorf("a bundle is answered with %d", code)
	}
	var done struct {
		Says   string `json:"says"`
		Merged struct {
			ID     int64          `json:"id"`
			Counts map[string]int `json:"counts"`
		} `json:"merged"`
	}
	if code := s.askAt(to, "POST", "/api/bundles", map[string]any{"name": "met.zip", "content": bundle}, &done); code != 200 {
		return false, fmt.Errorf("a merge is answered with %d", code)
	}
	s.other.merges++
	s.other.conflicts += done.Merged.Counts["conflict"]
	return done.Merged.ID != 0, nil
}

func (s *soak) fetch(url string) ([]byte, int) {
	resp, err := s.client.Get(url)
	if err != nil {
		return nil, 0
	}
	defer resp.Body.Close()
	var b bytes.Buffer
	if _, err := b.ReadFrom(resp.Body); err != nil {
		return nil, 0
	}
	return b.Bytes(), resp.StatusCode
}

type openConflict struct {
	Kind, ID string
	Version  int
	Fields   []struct {
		Path   string
		Values []string
	}
}

// decide ends every second conflict with one of its values.
func (s *soak) decide(at string) {
	var list []openConflict
	if s.askAt(at, "GET", "/api/conflicts", nil, &list) != 200 {
		return
	}
	for i, c := range list {
		if i%2 == 0 {
			continue
		}
		choice := map[string]int{}
		for _, f := range c.Fields {
			choice[f.Path] = rand.IntN(len(f.Values))
		}
		body := map[string]any{"from": c.Version, "choice": choice}
		if code := s.askAt(at, "POST", "/api/conflicts/"+c.Kind+"/"+c.ID, body, nil); code == http.StatusOK {
			s.other.decided++
		}
	}
}

// judgeMerging carries bundles until nothing changes any more, and compares the notebooks: they show the same, list the same
// conflicts, and every text that was acknowledged is found in both, or in a file that a restore kept.
func (s *soak) judgeMerging() error {
	o := s.other
	for round := range 6 {
		there, err := s.carry(s.url(""), o.url)
		if err != nil {
			return err
		}
		back, err := s.carry(o.url, s.url(""))
		if err != nil {
			return err
		}
		if !there && !back {
			break
		}
		if round == 5 {
			s.fault("bundles went both ways six times and still change something")
		}
	}
	var open [2]string
	for i, at := range []string{s.url(""), o.url} {
		var list []openConflict
		s.askAt(at, "GET", "/api/conflicts", nil, &list)
		for n := range list {
			list[n].Version = 0
			for f := range list[n].Fields {
				slices.Sort(list[n].Fields[f].Values)
			}
		}
		text, _ := json.Marshal(list)
		open[i] = string(text)
	}
	if open[0] != open[1] {
		s.fault("the notebooks list other conflicts:\n%s\n%s", open[0], open[1])
	}
	_ = o.child.Process.Kill()
	_ = o.child.Wait()
	var shown [2]map[string]string
	for i, dir := range []string{s.data, o.data} {
		now, all, err := sharedTexts(filepath.Join(dir, "reed.db"))
		if err != nil {
			return err
		}
		shown[i] = now
		lost := 0
		for text := range o.texts {
			if !all[text] && !s.keptText(text) {
				lost++
			}
		}
		if lost > 0 {
			s.fault("%d of %d texts of the shared outing are in neither the log nor the history of notebook %d", lost, len(o.texts), i+1)
		}
	}
	differ := 0
	for id, text := range shown[0] {
		if shown[1][id] != text {
			differ++
		}
	}
	if differ > 0 || len(shown[0]) != len(shown[1]) {
		s.fault("the notebooks show %d of %d shared contacts differently", differ, len(shown[0]))
	}
	fmt.Printf("merged %d times (%d exchanges cut off by a kill or a full disk): %d edits of %d shared contacts, %d conflicts listed, "+
		"%d decided, %d texts looked for in both\n", o.merges, o.undone, o.edits, len(shown[0]), o.conflicts, o.decided, len(o.texts))
	return nil
}

func (s *soak) keptText(text string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.keptTexts[text]
}

// sharedTexts reads the comments of the shared contacts: those that are shown, by contact, and all that were ever kept.
func sharedTexts(path string) (now map[string]string, all map[string]bool, err error) {
	db, err := sql.Open("sqlite", "file:"+path+"?mode=ro")
	if err != nil {
		return nil, nil, err
	}
	defer db.Close()
	rows, err := db.Query(`SELECT id, json_extract(doc, '$.comment'), 1 FROM contact WHERE outing_id = ?1 AND deleted = 0
		UNION ALL SELECT id, json_extract(doc, '$.comment'), 0 FROM history WHERE kind = 'contact' AND json_extract(doc, '$.outing_id') = ?1`,
		sharedOuting())
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	now, all = map[string]string{}, map[string]bool{}
	for rows.Next() {
		var id string
		var text sql.NullString
		var current bool
		if err := rows.Scan(&id, &text, &current); err != nil {
			return nil, nil, err
		}
		if current {
			now[id] = text.String
		}
		all[strings.TrimSpace(text.String)] = true
	}
	return now, all, rows.Err()
}
