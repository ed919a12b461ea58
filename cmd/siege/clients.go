package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"

	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/internal/store"
)

// acknowledged is what the clients were told is kept.
type acknowledged struct {
	mu       sync.Mutex
	marks    map[string]string // id of the mark, its attempt
	attempts map[string]string // id of the attempt, how it was sent
	refused  map[string]int    // what was refused for good, by its words
}

func (a *acknowledged) attempt(id, how string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.attempts[id] = how
}

func (a *acknowledged) mark(ids []string, of string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, id := range ids {
		a.marks[id] = of
	}
}

func (a *acknowledged) refuse(words string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.refused[words]++
}

func (a *acknowledged) count() (attempts, marks int) {
	a.mu.Lock()
	defer a.mu.Unlock()
	return len(a.attempts), len(a.marks)
}

// client is somebody who works, on one device, and sends again what was not acknowledged.
type client struct {
	email    string
	students []uuid.UUID
	servers  []string // addresses
	told     *acknowledged
	http     *http.Client
	r        *rand.Rand
	device   uuid.UUID
	seq      int64
	run      string // a run of the simulator, as it is sent
}

func newClient(i int, email string, students []uuid.UUID, servers []string, told *acknowledged, seed uint64) *client {
	jar, _ := cookiejar.New(nil) // never fails
	return &client{email: email, students: students, servers: servers, told: told,
		http: &http.Client{Jar: jar, Timeout: 30 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error {
			return http.ErrUseLastResponse
		}}, r: rand.New(rand.NewPCG(seed, uint64(i))), device: store.NewID()}
}

// work goes on until the context ends: what is under way then is finished first.
func (c *client) work(ctx, hard context.Context) {
	for ctx.Err() == nil && hard.Err() == nil {
		switch n := c.r.IntN(10); {
		case n < 5:
			c.markOne(hard)
		case n < 8:
			c.syncSome(hard)
		case n < 9 && c.run != "":
			c.flyOne(hard)
		default:
			c.uploadOne(hard)
		}
	}
}

// until sends until it is answered for good: done tells whether an answer is.
func (c *client) until(ctx context.Context, send func(server string) (int, []byte, error),
	done func(int, []byte) bool) {
	for wait := 50 * time.Millisecond; ctx.Err() == nil; wait = min(2*wait, time.Second) {
		status, body, err := send("http://" + c.servers[c.r.IntN(len(c.servers))])
		switch {
		case err != nil: // nobody knows what became of it: once more
		case status == http.StatusUnauthorized || status == http.StatusSeeOther && strings.Contains(string(body), "/sign-in"):
			c.signIn(ctx)
			continue
		case status >= 500 || status == http.StatusTooManyRequests || status == http.StatusRequestTimeout:
		case done(status, body):
			return
		}
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
	}
}

func (c *client) do(ctx context.Context, method, address, kind string, body []byte) (int, []byte, error) {
	req, err := http.NewRequestWithContext(ctx, method, address, bytes.NewReader(body))
	if err != nil {
		return 0, nil, err
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	req.Header.Set("Accept", "application/json")
	// The jar keeps cookies by host alone: all servers are one school.
	r, err := c.http.Do(req)
	if err != nil {
		return 0, nil, err
	}
	defer func() { _ = r.Body.Close() }()
	data, err := io.ReadAll(r.Body)
	if to := r.Header.Get("Location"); to != "" {
		data = []byte(to)
	}
	return r.StatusCode, data, err
}

func (c *client) json(ctx context.Context, path string, v any) func(string) (int, []byte, error) {
	data, err := json.Marshal(v)
	if err != nil {
		panic(err) // it is made here
	}
	return func(server string) (int, []byte, error) {
		return c.do(ctx, http.MethodPost, server+path, "application/json", data)
	}
}

func (c *client) signIn(ctx context.Context) {
	form := url.Values{"email": {c.email}, "password": {password}}.Encode()
	for ctx.Err() == nil {
		status, _, err := c.do(ctx, http.MethodPost, "http://"+c.servers[c.r.IntN(len(c.servers))]+"/sign-in",
			"application/x-www-form-urlencoded", []byte(form))
		if err == nil && status == http.StatusSeeOther {
			return
		}
		time.Sleep(200 * time.Millisecond)
	}
}

func (c *client) student() uuid.UUID { return c.students[c.r.IntN(len(c.students))] }

// hover is an attempt that is marked from its beginning to its end.
func (c *client) hover(id string) (opening map[string]any, marks []map[string]any) {
	mark := func(t float64, m string, more ...any) map[string]any {
		out := map[string]any{"id": store.NewID().String(), "t_s": t, "mark": m}
		for i := 0; i+1 < len(more); i += 2 {
			out[more[i].(string)] = more[i+1]
		}
		return out
	}
	return map[string]any{"id": id, "drill": "hover-tail-in", "side": "none", "level": 1, "aids": "position-hold",
			"craft": "poiana", "device_at": time.Now().Add(time.Duration(c.r.IntN(7200)-3600) * time.Second)},
		[]map[string]any{mark(0, "start"), mark(5, "in"), mark(28, "touch", "away_m", 0.2, "right_m", -0.1), mark(30, "done")}
}

func ids(marks []map[string]any) []string {
	var out []string
	for _, m := range marks {
		out = append(out, m["id"].(string))
	}
	return out
}

// markOne marks an attempt tap by tap, each sent until it is acknowledged.
func (c *client) markOne(ctx context.Context) {
	id := store.NewID().String()
	opening, marks := c.hover(id)
	path := "/students/" + c.student().String() + "/marks"
	for i := range marks {
		some := marks[i : i+1]
		c.until(ctx, c.json(ctx, path, map[string]any{"opening": opening, "marks": some, "now_s": some[0]["t_s"]}),
			func(status int, body []byte) bool {
				if status != http.StatusOK {
					c.told.refuse(fmt.Sprintf("marks %d %.120s", status, body))
					return true
				}
				c.told.mark(ids(some), id)
				if i == len(marks)-1 {
					c.told.attempt(id, "marks")
				}
				return true
			})
	}
}

// syncSome delivers what was marked without a network.
func (c *client) syncSome(ctx context.Context) {
	var items []map[string]any
	of := map[string][]string{}
	for range 1 + c.r.IntN(3) {
		c.seq++
		id := store.NewID().String()
		opening, marks := c.hover(id)
		opening["student"] = c.student()
		items = append(items, map[string]any{"seq": c.seq, "opening": opening, "marks": marks, "now_s": 30})
		of[id] = ids(marks)
	}
	c.until(ctx, c.json(ctx, "/pad/sync", map[string]any{"device": c.device, "name": "phone",
		"device_now": time.Now(), "items": items}), func(status int, body []byte) bool {
		var said struct {
			Items []struct {
				ID    string   `json:"id"`
				Kept  []string `json:"kept"`
				Error string   `json:"error"`
			} `json:"items"`
		}
		if err := json.Unmarshal(body, &said); status != http.StatusOK || err != nil {
			c.told.refuse(fmt.Sprintf("sync %d %.120s", status, body))
			return true
		}
		all := true
		for _, s := range said.Items {
			c.told.mark(s.Kept, s.ID)
			if s.Error == "" && len(s.Kept) == len(of[s.ID]) {
				c.told.attempt(s.ID, "sync")
			} else {
				all = false
			}
		}
		return all
	})
}

// flyOne sends a run of the simulator.
func (c *client) flyOne(ctx context.Context) {
	id := store.NewID().String()
	body := json.RawMessage(`{"id":"` + id + `","flown_at":"` + time.Now().UTC().Format(time.RFC3339) + `","trace":` +
		c.run +
		`}`)
	c.until(ctx, c.json(ctx, "/students/"+c.student().String()+"/runs", body), func(status int, body []byte) bool {
		if status != http.StatusOK {
			c.told.refuse(fmt.Sprintf("run %d %.120s", status, body))
			return true
		}
		c.told.attempt(id, "run")
		return true
	})
}

var tags = regexp.MustCompile(`(?s)<(script|style|nav|header).*?</(script|style|nav|header)>|<[^>]*>|\s+`)

// wordsOf are the words of a page.
func wordsOf(page []byte) string {
	_, main, found := strings.Cut(string(page), "<main")
	if !found {
		return string(page)
	}
	_, main, _ = strings.Cut(main, ">")
	return strings.TrimSpace(tags.ReplaceAllString(main, " "))
}

var attemptAt = regexp.MustCompile(`/attempts/([0-9a-f-]{36})`)

// uploadOne uploads a log and keeps it. An upload whose keeping was not answered may be kept: it is not sent again
// under another name, and nothing is claimed of it.
func (c *client) uploadOne(ctx context.Context) {
	var log strings.Builder
	log.WriteString("t_s,x_m,y_m,z_m,heading_deg\n")
	off := c.r.Float64() / 1000
	for i := range 400 {
		t, z := float64(i)/10, 0.0
		if t > 2 && t < 36 {
			z = 2
		}
		fmt.Fprintf(&log, "%.1f,%.12f,6,%.1f,0\n", t, off, z)
	}
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for k, v := range map[string]string{"drill": "hover-tail-in", "aids": "position-hold", "craft": "poiana",
		"level": "1"} {
		_ = form.WriteField(k, v) // into memory
	}
	part, _ := form.CreateFormFile("file", "log.csv")
	_, _ = io.WriteString(part, log.String())
	_ = form.Close()
	path := "/students/" + c.student().String() + "/log"
	var keep string
	c.until(ctx, func(server string) (int, []byte, error) {
		return c.do(ctx, http.MethodPost, server+path, form.FormDataContentType(), body.Bytes())
	}, func(status int, answer []byte) bool {
		if status != http.StatusSeeOther {
			c.told.refuse(fmt.Sprintf("upload %d %.120s", status, answer))
			return true
		}
		keep = string(answer)
		return true
	})
	if !strings.Contains(keep, "/log/") {
		return
	}
	answers := url.Values{"drill": {"hover-tail-in"}, "aids": {"position-hold"}, "craft": {"poiana"}, "level": {"1"},
		"side": {"none"}, "do": {"keep"}}
	c.until(ctx, func(server string) (int, []byte, error) {
		return c.do(ctx, http.MethodPost, server+keep, "application/x-www-form-urlencoded", []byte(answers.Encode()))
	}, func(status int, answer []byte) bool {
		if m := attemptAt.FindSubmatch(answer); status == http.StatusSeeOther && m != nil {
			c.told.attempt(string(m[1]), "upload")
		} else if status != http.StatusNotFound && status != http.StatusGone {
			c.told.refuse(fmt.Sprintf("keep %d %.300s", status, wordsOf(answer)))
		}
		return true
	})
}

// learnRun flies one run by the numbers of the simulator's page, so that it can be sent again and again.
func (c *client) learnRun(ctx context.Context) error {
	_, page, err := c.do(ctx, http.MethodGet, "http://"+c.servers[0]+"/students/"+c.students[0].String()+
		"/fly?drill=hover-tail-in&side=none&aids=position-hold&level=1&wind=3@180&gusts=light&seed=4", "", nil)
	if err != nil {
		return err
	}
	m := regexp.MustCompile(`data-config="([^"]*)"`).FindSubmatch(page)
	if m == nil {
		return fmt.Errorf("the simulator's page has no numbers: %.200s", page)
	}
	var given struct {
		Spec    trace.Spec
		Numbers []float64
		Names   []string
	}
	if err := json.Unmarshal([]byte(html.UnescapeString(string(m[1]))), &given); err != nil {
		return err
	}
	cfg, err := trace.Unflatten(given.Numbers, given.Names)
	if err != nil {
		return err
	}
	f, err := flight.New(cfg)
	if err != nil {
		return err
	}
	rec := trace.Record(f)
	if err := rec.Event("arm", ""); err != nil {
		return err
	}
	for i := range 4200 {
		throttle := 0.0
		switch {
		case i < 100, i >= 4000:
			throttle = -1
		case i < 200:
			throttle = 0.4
		case i >= 3400:
			throttle = -0.4
		}
		if !rec.Reading(throttle, 0, 0, 0, 0, int(cfg.Aids), 0) {
			break
		}
	}
	c.run = rec.JSON(given.Spec, false)
	return nil
}
