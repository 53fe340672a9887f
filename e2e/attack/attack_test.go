// Package attack_test attacks the real program from outside, each attack with a control:
// what is right goes through beside it. It needs what make build makes.
package attack_test

import (
	"bufio"
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/png"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/e2e/browser"
)

// program starts the built binary and ends it with the test.
func program(t *testing.T, args ...string) *browser.Program {
	t.Helper()
	port, err := browser.FreePorts()
	require.NoError(t, err)
	p, err := browser.Start(fmt.Sprintf("127.0.0.1:%d", port), append(args, "--pictures=false")...)
	require.NoError(t, err)
	t.Cleanup(func() { _ = p.Kill() })
	return p
}

// answer is what a request was answered.
type answer struct {
	status int
	header http.Header
	text   string
}

func (a answer) into(t *testing.T, v any) {
	t.Helper()
	require.NoError(t, json.Unmarshal([]byte(a.text), v), a.text)
}

// ask asks as nobody in particular, or as whoever a token stands for.
func ask(t *testing.T, p *browser.Program, token, method, path string, body any) answer {
	t.Helper()
	var in io.Reader = http.NoBody
	switch b := body.(type) {
	case nil:
	case []byte:
		in = bytes.NewReader(b)
	default:
		text, err := json.Marshal(body)
		require.NoError(t, err)
		in = bytes.NewReader(text)
	}
	r, err := http.NewRequestWithContext(t.Context(), method, p.URL+path, in)
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/json")
	if _, file := body.([]byte); file {
		r.Header.Set("Content-Type", "application/octet-stream")
	}
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return answer{res.StatusCode, res.Header, string(text)}
}

// token is one of whoever is alone here, for scripts that may so much.
func token(t *testing.T, p *browser.Program, scope string) string {
	var made struct{ Token string }
	got := ask(t, p, "", "POST", "/api/v1/me/tokens", map[string]any{"name": scope, "scope": scope})
	require.Equal(t, 200, got.status, got.text)
	got.into(t, &made)
	return made.Token
}

// until looks at something until it holds; between two looks an event of the program's
// is waited for, which beats at least every 20 seconds.
func until(t *testing.T, p *browser.Program, what string, holds func() bool) {
	t.Helper()
	res, err := http.Get(p.URL + "/api/v1/events")
	require.NoError(t, err)
	defer res.Body.Close()
	buf := make([]byte, 1<<16)
	for range 10_000 {
		if holds() {
			return
		}
		if _, err := res.Body.Read(buf); err != nil {
			require.NoError(t, err, "the events ended while waiting for %s", what)
		}
	}
	t.Fatalf("%s never came", what)
}

// sound ends a program and looks whether its data is sound.
func sound(t *testing.T, p *browser.Program, dir string) {
	t.Helper()
	require.NoError(t, p.End(syscall.SIGTERM))
	out, code, err := browser.Command("", "check", "--data", dir)
	require.NoError(t, err)
	assert.Zero(t, code, out)
}

// No quantity that a form can say breaks the shop: an order comes to what it comes to,
// every page answers, and the data is sound.
func TestAQuantityBreaksNothing(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	p := program(t, "demo", "--speed", "0", "--data", dir)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	c := &http.Client{Jar: jar}
	read := func(res *http.Response, err error) (int, string) {
		require.NoError(t, err)
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(text)
	}
	_, front := read(c.Get(p.Shop))
	link := regexp.MustCompile(`href="(/p/[^"]+)"`).FindStringSubmatch(front)
	require.NotNil(t, link)
	sku, err := url.PathUnescape(strings.TrimPrefix(link[1], "/p/"))
	require.NoError(t, err)
	for _, n := range []string{"1", "9223372036854775807", "9223372036854775806", "-9223372036854775808", "18446744073709551615", "1e18", "2"} {
		status, _ := read(c.PostForm(p.Shop+"/basket", url.Values{"sku": {sku}, "quantity": {n}, "add": {"1"}}))
		assert.Less(t, status, 500, n)
	}
	_, basket := read(c.Get(p.Shop + "/basket"))
	assert.NotContains(t, basket, "−£")
	_, checkout := read(c.Get(p.Shop + "/checkout"))
	total := regexp.MustCompile(`name="total" value="(\d+)"`).FindStringSubmatch(checkout)
	require.NotNil(t, total, "what was right is in the basket: %s", checkout)
	status, order := read(c.PostForm(p.Shop+"/checkout", url.Values{"total": {total[1]}, "name": {"Ada Fell"}, "mail": {"ada@fell.example"}, "street": {"1 Quay"}, "town": {"Saltmarsh"}, "postcode": {"AB1 2CD"}}))
	assert.Equal(t, 200, status)
	assert.Contains(t, order, "Your order S-")
	for _, path := range []string{"/", "/basket", link[1], "/search?q=%00", "/search?q=" + url.QueryEscape(`" OR ( NEAR`), "/c/%00", "/p/%00", "/order/x?key=%00"} {
		status, _ := read(c.Get(p.Shop + path))
		assert.Less(t, status, 500, path)
	}
	sound(t, p, dir)
}

// line is a PNG of one colour, so wide and so high, in next to no bytes.
func line(w, h int) []byte {
	var b bytes.Buffer
	b.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(name string, body []byte) {
		_ = binary.Write(&b, binary.BigEndian, uint32(len(body)))
		whole := append([]byte(name), body...)
		b.Write(whole)
		_ = binary.Write(&b, binary.BigEndian, crc32.ChecksumIEEE(whole))
	}
	chunk("IHDR", append(binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(w)), uint32(h)), 8, 0, 0, 0, 0))
	var z bytes.Buffer
	zip := zlib.NewWriter(&z)
	row := make([]byte, w+1)
	for range h {
		_, _ = zip.Write(row)
	}
	_ = zip.Close()
	chunk("IDAT", z.Bytes())
	chunk("IEND", nil)
	return b.Bytes()
}

// A picture stops nothing: neither one that is looked at by whoever may only look, nor
// one that is chosen for a listing.
func TestAPictureStopsNothing(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "0")
	look := token(t, p, "look")
	add := func(content []byte) (digest string, status int) {
		var made struct{ Digest string }
		got := ask(t, p, "", "POST", "/api/v1/pictures", content)
		if got.status == 200 {
			got.into(t, &made)
		}
		return made.Digest, got.status
	}
	var good bytes.Buffer
	require.NoError(t, png.Encode(&good, image.NewNRGBA(image.Rect(0, 0, 600, 400))))
	fine, status := add(good.Bytes())
	require.Equal(t, 200, status)
	for name, content := range map[string][]byte{"a million high": line(1, 1_000_000), "fifty million high": line(1, 50_000_000), "49 million": line(7000, 7000)} {
		_, status := add(content)
		assert.Equal(t, 422, status, name)
	}
	strip, status := add(line(20_000, 1000))
	require.Equal(t, 200, status, "what is within the limits is taken")
	for _, recipe := range []string{`{"shape":"square","pad":true}`, `{"white":true,"shape":"3:4","pad":true,"side":3000,"enlarge":true,"kind":"png"}`} {
		for _, digest := range []string{fine, strip} {
			began := time.Now()
			got := ask(t, p, look, "GET", "/api/v1/pictures/"+digest+"/preview?recipe="+url.QueryEscape(recipe), nil)
			assert.Equal(t, 200, got.status, "%s: %s", recipe, got.text)
			assert.Less(t, time.Since(began), time.Minute)
		}
	}
	var list struct{ Rows []struct{ ID int64 } }
	ask(t, p, "", "GET", "/api/v1/preparations?limit=1", nil).into(t, &list)
	require.NotEmpty(t, list.Rows)
	got := ask(t, p, "", "PUT", fmt.Sprintf("/api/v1/preparations/%d/pictures", list.Rows[0].ID), map[string]any{"pictures": []any{
		map[string]any{"original": strip, "recipe": map[string]any{"shape": "square", "pad": true, "white": true}}, map[string]any{"original": fine, "recipe": map[string]any{}}}})
	assert.Equal(t, 200, got.status, got.text)
	held, err := p.Resident()
	require.NoError(t, err)
	assert.Less(t, held, int64(900), "MiB")
	assert.Equal(t, 200, ask(t, p, "", "GET", "/api/v1/counts", nil).status)
}

// A body that comes a byte a second is not waited for, wherever it is sent.
func TestASlowBodyEnds(t *testing.T) {
	t.Parallel()
	p := program(t, "demo", "--speed", "0")
	ended := make(chan time.Duration, 2)
	for _, at := range []string{p.URL + "/log-in", p.Shop + "/basket"} {
		u, err := url.Parse(at)
		require.NoError(t, err)
		go func() {
			began := time.Now()
			defer func() { ended <- time.Since(began) }()
			conn, err := net.Dial("tcp", u.Host)
			if err != nil {
				return
			}
			defer conn.Close()
			_, _ = fmt.Fprintf(conn, "POST %s HTTP/1.1\r\nHost: %s\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: 100\r\n\r\n", u.Path, u.Host)
			answered := make(chan struct{})
			go func() { // it is answered, or closed
				_, _ = bufio.NewReader(conn).ReadByte()
				close(answered)
			}()
			drip := time.NewTicker(time.Second)
			defer drip.Stop()
			for range 60 {
				select {
				case <-answered:
					return
				case <-drip.C:
					_, _ = conn.Write([]byte("a"))
				}
			}
		}()
	}
	for range 2 {
		assert.Less(t, <-ended, 30*time.Second)
	}
	res, err := http.PostForm(p.Shop+"/basket", url.Values{"sku": {"none"}, "quantity": {"1"}, "add": {"1"}})
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 409, res.StatusCode, "one that comes at once is read")
}

// A supplier's say-so leads into no private network, in whatever form it is written or
// wherever an address sends on to; what is allowed by name is reached.
func TestNothingPrivateIsAskedOnASuppliersSaySo(t *testing.T) {
	t.Parallel()
	reached := make(chan string, 100)
	canary := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		reached <- r.URL.Path
		w.Header().Set("Content-Type", "text/csv")
		_, _ = fmt.Fprint(w, "ref,title,cost\nA,Mug,1.50\n")
	}))
	t.Cleanup(canary.Close)
	_, port, err := net.SplitHostPort(strings.TrimPrefix(canary.URL, "http://"))
	require.NoError(t, err)
	allowed := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/on" {
			http.Redirect(w, r, canary.URL+"/redirected", http.StatusFound)
			return
		}
		w.Header().Set("Content-Type", "text/csv")
		_, _ = fmt.Fprint(w, "ref,title,cost\nB,Pot,2.50\n")
	}))
	t.Cleanup(allowed.Close)
	p := program(t, "serve", "--data", t.TempDir(), "--allow", strings.TrimPrefix(allowed.URL, "http://"))
	source := func(name, address string) {
		var made struct{ ID int64 }
		ask(t, p, "", "POST", "/api/v1/sources", map[string]any{"supplier": name, "currency": "GBP", "charge": "0", "tax": "without", "address": address}).into(t, &made)
		ask(t, p, "", "POST", fmt.Sprintf("/api/v1/sources/%d/fetch", made.ID), nil)
	}
	source("Fine", allowed.URL+"/list.csv")
	hosts := []string{"127.0.0.1", "localhost", "127.1", "2130706433", "0x7f000001", "0177.0.0.1", "[::1]", "[::ffff:127.0.0.1]", "[::ffff:7f00:1]", "[64:ff9b::7f00:1]", "[2002:7f00:1::]", "0.0.0.0", "[::]", "127.0.0.1.", "localhost."}
	for i, h := range hosts {
		address := "http://" + h + ":" + port + "/secret"
		source(fmt.Sprint("Private ", i), address)
		for path, body := range map[string]any{"/api/v1/pages": map[string]any{"supplier": "x", "address": address}, "/api/v1/pictures/fetch": map[string]any{"address": address}} {
			got := ask(t, p, "", "POST", path, body)
			assert.GreaterOrEqual(t, got.status, 400, "%s %s: %s", path, address, got.text)
		}
	}
	source("Sent on", allowed.URL+"/on")
	until(t, p, "the end of all that was fetched", func() bool {
		var runs []struct{ State string }
		ask(t, p, "", "GET", "/api/v1/runs", nil).into(t, &runs)
		for _, r := range runs {
			if r.State == "running" || r.State == "queued" {
				return false
			}
		}
		return len(runs) > 0
	})
	assert.Empty(t, reached)
	var sources []struct {
		Name  string
		Feeds []struct{ State string }
	}
	ask(t, p, "", "GET", "/api/v1/sources", nil).into(t, &sources)
	for _, s := range sources {
		require.NotEmpty(t, s.Feeds, s.Name)
		if s.Name == "Fine" {
			assert.Equal(t, "looked", s.Feeds[0].State, "what was allowed by name is fetched")
		} else {
			assert.Equal(t, "failed", s.Feeds[0].State, s.Name)
		}
	}
}

// Whoever prepares reads no folder that wasn't named, nor where a link in one leads.
func TestOnlyNamedFoldersAreRead(t *testing.T) {
	t.Parallel()
	dir, named := t.TempDir(), t.TempDir()
	p := program(t, "serve", "--data", dir, "--folder", "prices="+named)
	prepare := token(t, p, "prepare")
	for _, address := range []string{"/etc", "/", "/proc/self", dir, dir + "/inbox", named + "/..", "/root"} {
		got := ask(t, p, prepare, "POST", "/api/v1/sources", map[string]any{"supplier": "From " + address, "currency": "GBP", "address": address})
		assert.Equal(t, 422, got.status, "%s: %s", address, got.text)
	}
	got := ask(t, p, prepare, "POST", "/api/v1/sources", map[string]any{"supplier": "Named", "currency": "GBP", "charge": "0", "tax": "without", "address": "prices"})
	assert.Equal(t, 200, got.status, got.text)
	assert.Contains(t, got.text, named)
}

// An address that anybody may come by wants a password before it is served, and what
// says that it was forwarded is believed of a proxy that was named.
func TestNobodyIsTheOwnerByComingThroughAProxy(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	start := func(args ...string) (string, int) {
		c := exec.Command(browser.Binary(), append([]string{"serve", "--data", dir, "--addr", "127.0.0.1:0"}, args...)...)
		text, err := c.CombinedOutput()
		require.Error(t, err)
		return string(text), c.ProcessState.ExitCode()
	}
	for _, args := range [][]string{{"--host", "app.example"}, {"--proxy", "127.0.0.1"}, {"--host", "localhost", "--host", "app.example"}} {
		said, code := start(args...)
		assert.Contains(t, said, "set a password first", args)
		assert.Equal(t, 1, code)
	}
	out, code, err := browser.Command("tide and marsh\n", "password", "--data", dir)
	require.NoError(t, err)
	require.Zero(t, code, out)
	p := program(t, "serve", "--data", dir, "--host", "app.example", "--proxy", "127.0.0.1")
	through := func(host, from string) int {
		r, err := http.NewRequestWithContext(t.Context(), "GET", p.URL+"/api/v1/counts", nil)
		require.NoError(t, err)
		r.Host = host
		if from != "" {
			r.Header.Set("X-Forwarded-For", from)
		}
		res, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		return res.StatusCode
	}
	assert.Equal(t, 401, through("app.example", "203.0.113.5"))
	assert.Equal(t, 401, through("127.0.0.1", ""))
	assert.Equal(t, 403, through("evil.example", ""))
	own := program(t, "serve", "--data", t.TempDir())
	assert.Equal(t, 200, ask(t, own, "", "GET", "/api/v1/counts", nil).status, "at one's own machine nobody is asked")
	r, err := http.NewRequestWithContext(t.Context(), "GET", own.URL+"/api/v1/counts", nil)
	require.NoError(t, err)
	r.Header.Set("X-Forwarded-For", "203.0.113.5")
	res, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 403, res.StatusCode, "nobody named this proxy")

	out, code, err = browser.Command("another one\n", "password", "--data", dir, "NoSuchPerson")
	require.NoError(t, err)
	assert.NotZero(t, code)
	assert.Contains(t, out, "nothing was changed")
	r, err = http.NewRequestWithContext(t.Context(), "GET", p.URL+"/api/v1/counts", nil)
	require.NoError(t, err)
	r.SetBasicAuth("owner", "tide and marsh")
	res, err = http.DefaultClient.Do(r)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, 200, res.StatusCode, "the owner's password is as it was")
}

// post is a small mail server that refuses some addresses.
type post struct {
	refuses map[string]int
	got     chan string
	to      string
}

func (s *post) NewSession(*smtp.Conn) (smtp.Session, error) {
	return &post{refuses: s.refuses, got: s.got}, nil
}
func (s *post) Mail(string, *smtp.MailOptions) error { return nil }
func (s *post) Rcpt(to string, _ *smtp.RcptOptions) error {
	if code := s.refuses[to]; code != 0 {
		return &smtp.SMTPError{Code: code, EnhancedCode: smtp.EnhancedCode{code / 100, 1, 1}, Message: "nobody of this name"}
	}
	s.to = to
	return nil
}

func (s *post) Data(r io.Reader) error {
	_, err := io.Copy(io.Discard, r)
	s.got <- s.to
	return err
}
func (s *post) Reset()        {}
func (s *post) Logout() error { return nil }

// A letter that is refused for good holds up none of those behind it.
func TestARefusedLetterHoldsUpNoOther(t *testing.T) {
	t.Parallel()
	box := &post{refuses: map[string]int{"gone@fell.example": 550}, got: make(chan string, 10)}
	server := smtp.NewServer(box)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = server.Serve(l) }()
	t.Cleanup(func() { _ = server.Close() })
	p := program(t, "demo", "--speed", "0")
	at := l.Addr().(*net.TCPAddr)
	got := ask(t, p, "", "PUT", "/api/v1/mail-settings", map[string]any{"host": "127.0.0.1", "port": at.Port, "security": "none", "from": "shop@saltmarsh.example", "to": "owner@saltmarsh.example"})
	require.Equal(t, 200, got.status, got.text)
	for _, to := range []string{"gone@fell.example", "ada@fell.example"} {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		c := &http.Client{Jar: jar}
		read := func(res *http.Response, err error) string {
			require.NoError(t, err)
			defer res.Body.Close()
			text, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			return string(text)
		}
		link := regexp.MustCompile(`href="/p/([^"]+)"`).FindStringSubmatch(read(c.Get(p.Shop)))
		require.NotNil(t, link)
		read(c.PostForm(p.Shop+"/basket", url.Values{"sku": {link[1]}, "quantity": {"1"}, "add": {"1"}}))
		total := regexp.MustCompile(`name="total" value="(\d+)"`).FindStringSubmatch(read(c.Get(p.Shop + "/checkout")))
		require.NotNil(t, total)
		page := read(c.PostForm(p.Shop+"/checkout", url.Values{"total": {total[1]}, "name": {"Ada Fell"}, "mail": {to}, "street": {"1 Quay"}, "town": {"Saltmarsh"}, "postcode": {"AB1 2CD"}}))
		require.Contains(t, page, "Your order S-")
	}
	assert.Equal(t, "ada@fell.example", <-box.got)
	var mails []struct{ To, Error, Refused string }
	until(t, p, "the refusal", func() bool {
		ask(t, p, "", "GET", "/api/v1/mails", nil).into(t, &mails)
		for _, m := range mails {
			if m.To == "gone@fell.example" && m.Refused != "" {
				return strings.Contains(m.Error, "nobody of this name")
			}
		}
		return false
	})
}

// mounted is a small file system of its own; the test is skipped where this machine lets
// nobody mount one.
func mounted(t *testing.T, size string) string {
	dir := t.TempDir()
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size="+size, "tmpfs", dir).CombinedOutput(); err != nil {
		t.Skipf("no file system can be mounted here: %s", out)
	}
	t.Cleanup(func() { _ = exec.Command("umount", "-l", dir).Run() })
	return dir
}

// On a full disk an upload says so (507), what is fetched waits, and all goes on once
// there is room again; the data is sound.
func TestAFullDiskIsWaitedFor(t *testing.T) {
	dir := mounted(t, "48m")
	big := "ref,title,cost\n" + strings.Repeat("X,A peg of steel for every ground,1.50\n", 200_000) // 8 MB
	list := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = fmt.Fprint(w, big) }))
	t.Cleanup(list.Close)
	data := filepath.Join(dir, "data")
	p := program(t, "serve", "--data", data, "--allow", strings.TrimPrefix(list.URL, "http://"))
	var source struct{ ID int64 }
	ask(t, p, "", "POST", "/api/v1/sources", map[string]any{"supplier": "Fernhollow", "currency": "GBP", "charge": "0", "tax": "without", "address": list.URL + "/list.csv"}).into(t, &source)
	ballast := filepath.Join(dir, "ballast")
	f, err := os.Create(ballast)
	require.NoError(t, err)
	_, err = io.Copy(f, zeros{})
	require.ErrorIs(t, err, syscall.ENOSPC)
	require.NoError(t, f.Close())
	require.NoError(t, os.Truncate(ballast, mustSize(t, ballast)-1<<20)) // the data itself has a little room
	got := ask(t, p, "", "POST", "/api/v1/feeds?name=big.csv", []byte(big))
	assert.Equal(t, 507, got.status, got.text)
	assert.Contains(t, got.text, "full")
	got = ask(t, p, "", "POST", fmt.Sprintf("/api/v1/sources/%d/fetch", source.ID), nil)
	require.Equal(t, 200, got.status, got.text)
	state := func() (string, string) {
		var runs []struct{ Kind, State, Note string }
		ask(t, p, "", "GET", "/api/v1/runs", nil).into(t, &runs)
		for _, r := range runs {
			if r.Kind == "fetch" {
				return r.State, r.Note
			}
		}
		return "", ""
	}
	until(t, p, "the fetch to find the disk full", func() bool { at, note := state(); return at == "queued" && strings.Contains(note, "full") })
	require.NoError(t, os.Remove(ballast))
	began := time.Now()
	until(t, p, "the fetch to be done", func() bool { at, _ := state(); return at == "done" })
	assert.Less(t, time.Since(began), 40*time.Second)
	assert.Equal(t, 201, ask(t, p, "", "POST", "/api/v1/feeds?name=big.csv", []byte(big)).status, "and uploads are taken again")
	sound(t, p, data)
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { return len(p), nil }

func mustSize(t *testing.T, path string) int64 {
	info, err := os.Stat(path)
	require.NoError(t, err)
	return info.Size()
}

// What took the program down twice is not taken up a third time: it is set aside and
// said on Today, everything else goes on, and a person has it tried again.
func TestWhatTakesTheProgramDownIsSetAside(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	var list strings.Builder
	list.WriteString("ref,title,cost,stock\n")
	for i := range 150_000 {
		fmt.Fprintf(&list, "P-%06d,\"Peg, steel, %d\",1.%02d,%d\n", i, i, i%100, i%40)
	}
	p := program(t, "serve", "--data", dir)
	var source, feed struct{ ID int64 }
	ask(t, p, "", "POST", "/api/v1/sources", map[string]any{"supplier": "Fernhollow", "currency": "GBP", "charge": "0", "tax": "without"}).into(t, &source)
	ask(t, p, "", "POST", "/api/v1/feeds?name=pegs.csv", []byte(list.String())).into(t, &feed)
	got := ask(t, p, "", "POST", fmt.Sprintf("/api/v1/feeds/%d/take", feed.ID), map[string]any{"source_id": source.ID})
	require.Equal(t, 200, got.status, got.text)
	intake := func() (id int64, state string) {
		var runs []struct {
			ID          int64
			Kind, State string
		}
		ask(t, p, "", "GET", "/api/v1/runs", nil).into(t, &runs)
		for _, r := range runs {
			if r.Kind == "intake" {
				return r.ID, r.State
			}
		}
		return 0, ""
	}
	for _, how := range []os.Signal{syscall.SIGKILL, syscall.SIGKILL, syscall.SIGKILL, syscall.SIGSEGV, syscall.SIGSEGV} { // ended from outside, and by its own doing
		until(t, p, "the intake", func() bool { _, state := intake(); return state == "running" })
		require.NoError(t, p.End(how))
		p = program(t, "serve", "--data", dir)
	}
	id, state := intake()
	require.Equal(t, "set aside", state)
	assert.Contains(t, ask(t, p, "", "GET", "/api/v1/today", nil).text, "is set aside")
	assert.Equal(t, 201, ask(t, p, "", "POST", "/api/v1/feeds?name=other.csv", []byte("ref,title,cost\nZ,Mug,1.50\n")).status, "everything else goes on")
	require.Equal(t, 200, ask(t, p, "", "POST", fmt.Sprintf("/api/v1/runs/%d/retry", id), nil).status)
	until(t, p, "the end of the intake", func() bool { _, state := intake(); return state == "done" })
	sound(t, p, dir)
}
