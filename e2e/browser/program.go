package browser

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync/atomic"
)

// Program is a running easymargin.
type Program struct {
	URL       string // of the application
	Market    string // of the demo's marketplace; "" without a demo
	Suppliers string // of its suppliers
	Shop      string // of its own shop, where buyers buy
	Addr      string
	cmd       *exec.Cmd
	log       bytes.Buffer
}

// Binary is the built program; make build puts it there.
func Binary() string {
	_, here, _, _ := runtime.Caller(0)
	return filepath.Join(filepath.Dir(here), "..", "..", "bin", "easymargin")
}

// ports counts on where FreePorts looks next: no two programs of one run are given
// the same.
var ports atomic.Int64

func init() { ports.Store(rand.Int64N(2000)) }

// FreePorts finds a port whose three followers and tenth are free as well. They are below
// those that systems give to outgoing connections, one of which could take a port
// between here and the program's start, and above 10080, the last that browsers refuse.
func FreePorts() (int, error) {
	for range 50 {
		port := 10100 + int(ports.Add(1)%1200)*16
		free := true
		for _, k := range []int{0, 1, 2, 3, 10} { // the last is the own shop
			l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port+k))
			if free = free && err == nil; err == nil {
				_ = l.Close()
			}
		}
		if free {
			return port, nil
		}
	}
	return 0, errors.New("no free ports in a row")
}

// Start runs the program with arguments and waits until it says where it is.
func Start(addr string, args ...string) (*Program, error) {
	p := &Program{Addr: addr, cmd: exec.Command(Binary(), append(args, "--addr", addr)...)}
	p.cmd.Stderr = &p.log
	out, err := p.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := p.cmd.Start(); err != nil {
		return nil, fmt.Errorf("starting %s (make build makes it): %w", Binary(), err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		killed := p.Kill() // and with it all it wrote is read
		return nil, errors.Join(fmt.Errorf("the program said nothing: %s", p.log.String()), killed)
	}
	at := []*string{&p.URL, &p.Market, &p.Suppliers, &p.Shop}
	for word := range strings.FieldsSeq(line) {
		if word = strings.Trim(word, "(),"); strings.HasPrefix(word, "http://") && len(at) > 0 {
			*at[0], at = word, at[1:]
		}
	}
	go func() {
		for _, err := out.Read(make([]byte, 4096)); err == nil; _, err = out.Read(make([]byte, 4096)) {
		}
	}()
	res, err := http.Get(p.URL + "/api/v1/counts")
	if err != nil {
		return nil, errors.Join(err, p.Kill())
	}
	return p, res.Body.Close()
}

// Kill ends the program at once, as a power cut would (SIGKILL).
func (p *Program) Kill() error {
	err := p.cmd.Process.Kill()
	_ = p.cmd.Wait()
	return err
}

// End sends the program a signal and waits for its end.
func (p *Program) End(signal os.Signal) error {
	err := p.cmd.Process.Signal(signal)
	_ = p.cmd.Wait()
	return err
}

// Command runs the program once more, for something else, and gives what it said.
func Command(stdin string, args ...string) (out string, code int, err error) {
	c := exec.Command(Binary(), args...)
	c.Stdin = strings.NewReader(stdin)
	text, err := c.CombinedOutput()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return string(text), exit.ExitCode(), nil
	}
	return string(text), 0, err
}

// Log is what the program wrote to its standard error.
func (p *Program) Log() string { return p.log.String() }

// Ask calls the program's API with a body (nil for none) and reads the answer
// into a value. A body that is a reader goes as it is, anything else as JSON.
func (p *Program) Ask(method, path string, body, into any) error {
	var in io.Reader
	if r, ok := body.(io.Reader); ok {
		in = r
	} else if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return err
		}
		in = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, p.URL+path, in)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	if res.StatusCode >= 300 {
		return fmt.Errorf("%s %s answered %s: %s", method, path, res.Status, text)
	}
	if into == nil {
		return nil
	}
	return json.Unmarshal(text, into)
}

// Resident is how much memory the program holds, in MiB.
func (p *Program) Resident() (int64, error) {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/statm", p.cmd.Process.Pid))
	if err != nil {
		return 0, err
	}
	var size, resident int64
	if _, err := fmt.Sscan(string(text), &size, &resident); err != nil {
		return 0, err
	}
	return resident * int64(os.Getpagesize()) >> 20, nil
}
