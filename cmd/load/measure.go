package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"sync"
	"time"

	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/internal/generate"
	"vereda/store"
)

// figures prints a row: what, what is to be reached, what was seen.
func figures(what, reach, seen string, args ...any) {
	fmt.Printf("| %-58s | %-16s | %s |\n", what, reach, fmt.Sprintf(seen, args...))
}

func ms(d time.Duration) string { return fmt.Sprintf("%.1f ms", float64(d.Microseconds())/1000) }

func median(all []time.Duration) time.Duration {
	slices.Sort(all)
	return all[len(all)/2]
}

// evening is a class of today, or the next one, and who could come.
type evening struct {
	class    string
	students []string
	day      calendar.Day
}

// tonight finds a class of today or the last days, so that people may be checked in.
func tonight(d *device) (evening, error) {
	today := calendar.DayOf(time.Now().UTC())
	for back := range 7 {
		text, _, err := d.send("GET", "/api/week?of="+(today-calendar.Day(back)).String(), nil)
		if err != nil {
			return evening{}, err
		}
		var week []struct {
			On      calendar.Day `json:"on"`
			Classes []struct {
				Session string `json:"session"`
				State   string `json:"state"`
			} `json:"classes"`
		}
		if err := json.Unmarshal(text, &week); err != nil {
			return evening{}, err
		}
		for _, day := range week {
			if day.On != today-calendar.Day(back) || len(day.Classes) == 0 {
				continue
			}
			e := evening{class: day.Classes[0].Session, day: day.On}
			text, _, err := d.send("GET", "/api/classes/"+e.class, nil)
			if err != nil {
				return e, err
			}
			var page struct {
				Others []struct{ ID string } `json:"others"`
			}
			if err := json.Unmarshal(text, &page); err != nil {
				return e, err
			}
			for _, p := range page.Others {
				e.students = append(e.students, p.ID)
			}
			return e, nil
		}
	}
	return evening{}, errors.New("there is no class in the last seven days")
}

func (h *house) measure(ctx context.Context, w generate.Wish, small int) error {
	figures("What", "To reach", "Seen")
	fmt.Printf("|%s|%s|%s|\n", "---", "---", "---")
	devices := make([]*device, 8)
	for i := range devices {
		var err error
		if devices[i], err = h.device(i); err != nil {
			return err
		}
	}
	e, err := tonight(devices[0])
	if err != nil {
		return err
	}
	if err := atOnce(h, devices, e); err != nil {
		return err
	}
	if err := oneByOne(devices, e); err != nil {
		return err
	}
	if err := pages(devices, e); err != nil {
		return err
	}
	if len(h.servers) > 1 {
		if err := elsewhere(devices, e); err != nil {
			return err
		}
	}
	if err := h.firstPage(ctx); err != nil {
		return err
	}
	if err := h.held(ctx, w.ID); err != nil {
		return err
	}
	if small > 0 && len(h.servers) == 1 {
		return h.many(ctx, w, small)
	}
	return nil
}

// atOnce checks forty people in at the same moment, five at each of eight devices.
func atOnce(h *house, devices []*device, e evening) error {
	var slowest []time.Duration
	refusals := 0
	for round := range 5 {
		some := e.students[60+40*round : 100+40*round]
		took := make([]time.Duration, len(some))
		errs := make([]error, len(some))
		var wg sync.WaitGroup
		begin := make(chan struct{})
		for i, s := range some {
			wg.Go(func() {
				<-begin
				_, took[i], errs[i] = devices[i%8].send("PUT", "/api/classes/"+e.class+"/attendance/"+s+"?event=at-once-"+s, nil)
			})
		}
		close(begin)
		wg.Wait()
		for _, err := range errs {
			if err != nil {
				refusals++
				fmt.Println("refused:", err)
			}
		}
		slowest = append(slowest, slices.Max(took))
	}
	figures("40 check-ins at the same moment, from 8 devices, 5 times", "none, < 150 ms", "%d refused, slowest %s, median of the slowest %s", refusals, ms(slices.Max(slowest)), ms(median(slowest)))
	return nil
}

func oneByOne(devices []*device, e evening) error {
	var in []time.Duration
	for i, s := range e.students[:50] {
		_, took, err := devices[i%8].send("PUT", "/api/classes/"+e.class+"/attendance/"+s+"?event=one-"+s, nil)
		if err != nil {
			return err
		}
		in = append(in, took)
	}
	figures("one check-in", "median < 20 ms", "median %s, slowest %s", ms(median(in)), ms(slices.Max(in)))
	var checks []time.Duration
	for i, s := range e.students[:50] {
		took, err := check(devices[i%8], s, fmt.Sprint("check-", i))
		if err != nil {
			return err
		}
		checks = append(checks, took)
	}
	figures("one check", "median < 20 ms", "median %s, slowest %s", ms(median(checks)), ms(slices.Max(checks)))
	return nil
}

// check keeps a check of a student with every key point seen.
func check(d *device, student, id string) (time.Duration, error) {
	const technique = "knee-cut"
	text, _, err := d.send("GET", "/api/checks/sheet?student="+student+"&technique="+technique+"&side=right", nil)
	if err != nil {
		return 0, err
	}
	var page struct {
		Technique struct {
			KeyPoints []struct{ ID string } `json:"key_points"`
		} `json:"technique"`
	}
	if err := json.Unmarshal(text, &page); err != nil {
		return 0, err
	}
	points := map[string]string{}
	for _, k := range page.Technique.KeyPoints {
		points[k.ID] = "seen"
	}
	body, _ := json.Marshal(map[string]any{"id": id, "student": student, "technique": technique, "side": "right", "observation": map[string]any{"points": points, "caution_broken": false, "resistance": 2}})
	_, took, err := d.send("POST", "/api/checks", body)
	return took, err
}

// pages asks for each page right after something changed.
func pages(devices []*device, e evening) error {
	for _, p := range []struct{ name, path string }{{"class page", "/api/classes/" + e.class}, {"ledger page", "/api/heat"}, {"student's page", "/api/students/" + e.students[3]}, {"people", "/api/people"}, {"week", "/api/week"}} {
		var took []time.Duration
		for i := range 20 {
			d := devices[i%8]
			if _, err := check(d, e.students[i], fmt.Sprint("again-", p.name, i)); err != nil {
				return err
			}
			_, t, err := d.send("GET", p.path, nil)
			if err != nil {
				return err
			}
			took = append(took, t)
		}
		figures(p.name+", right after a change", "< 60 ms", "median %s, slowest %s", ms(median(took)), ms(slices.Max(took)))
	}
	return nil
}

// elsewhere says how soon a stream at one replica tells of what another one wrote.
func elsewhere(devices []*device, e evening) error {
	r := devices[1]
	answer, err := r.http.Get(r.server.url() + "/api/classes/" + e.class + "/changes")
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	heard := make(chan time.Time, 100)
	go func() {
		b := make([]byte, 1024)
		for {
			n, err := answer.Body.Read(b)
			if err != nil {
				return
			}
			if n > 6 && string(b[:5]) == "data:" {
				heard <- time.Now()
			}
		}
	}()
	time.Sleep(time.Second)
	var took []time.Duration
	for i := range 10 {
		start := time.Now()
		s := e.students[300+i]
		if _, _, err := devices[0].send("PUT", "/api/classes/"+e.class+"/attendance/"+s+"?event=else-"+s, nil); err != nil {
			return err
		}
		select {
		case at := <-heard:
			took = append(took, at.Sub(start))
		case <-time.After(5 * time.Second):
			return errors.New("a change at one replica was not heard at another one within five seconds")
		}
		time.Sleep(137 * time.Millisecond)
	}
	figures("a change at one replica heard at another", "< 1 s", "median %s, slowest %s", ms(median(took)), ms(slices.Max(took)))
	return nil
}

// firstPage starts the program anew and asks for a page.
func (h *house) firstPage(ctx context.Context) error {
	var took []time.Duration
	for range 3 {
		r := h.servers[0]
		r.kill()
		if err := r.start(ctx); err != nil {
			return err
		}
		d, err := h.device(0)
		if err != nil {
			return err
		}
		r.kill()
		if err := r.start(ctx); err != nil {
			return err
		}
		_, t, err := d.send("GET", "/api/heat", nil)
		if err != nil {
			return err
		}
		took = append(took, t)
	}
	figures("first page (ledger) after the server starts", "< 1.5 s", "median %s, slowest %s", ms(median(took)), ms(slices.Max(took)))
	return nil
}

// held says what one academy takes in memory: what is left after everything was asked for and collected.
func (h *house) held(ctx context.Context, id string) error {
	s, err := store.Open(ctx, h.dsns[0])
	if err != nil {
		return err
	}
	defer s.Close()
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	st := state.New(s, time.Now, time.UTC, nil)
	x, err := st.Read(ctx, id)
	if err != nil {
		return err
	}
	for _, p := range x.Students() {
		x.Standings(p.ID)
		x.PresencesOf(p, x.Today())
	}
	x.Layout()
	runtime.GC()
	runtime.ReadMemStats(&after)
	held, _ := st.Holds()
	figures("memory of the academy held, everything asked for", "< 80 MB", "%.1f MB in the program's heap (%d held)", float64(after.HeapAlloc-before.HeapAlloc)/(1<<20), held)
	runtime.KeepAlive(x)
	runtime.KeepAlive(st)
	return nil
}

// many puts a hundred small academies on one server and opens a page of each.
func (h *house) many(ctx context.Context, w generate.Wish, n int) error {
	s, err := store.Open(ctx, h.dsns[0])
	if err != nil {
		return err
	}
	for i := range n {
		small := generate.Wish{ID: fmt.Sprintf("small-%03d", i), Students: 60, Weeks: 26, Classes: 8, Visits: 3000, Checks: 300, Today: w.Today, Seed: w.Seed + uint64(i)}
		b, events, err := generate.Academy(small)
		if err != nil {
			return err
		}
		if err := importBundle(ctx, s, b); err != nil {
			return err
		}
		if err := s.Append(ctx, small.ID, events...); err != nil {
			return err
		}
	}
	s.Close()
	h.accts = nil
	for i := range n {
		if err := h.accounts(ctx, fmt.Sprintf("small-%03d", i), 1); err != nil {
			return err
		}
	}
	devices := make([]*device, n)
	for i := range n {
		if devices[i], err = h.device(i); err != nil {
			return err
		}
	}
	var first, again []time.Duration
	for round := range 2 {
		for _, d := range devices {
			_, took, err := d.send("GET", "/api/heat", nil)
			if err != nil {
				return err
			}
			if round == 0 {
				first = append(first, took)
			} else {
				again = append(again, took)
			}
		}
	}
	figures(fmt.Sprintf("%d academies of 60 students on one server", n), "usable, bounded", "first page median %s, slowest %s; again median %s, slowest %s; %d MB resident", ms(median(first)), ms(slices.Max(first)), ms(median(again)), ms(slices.Max(again)), h.servers[0].memory()>>20)
	return nil
}
