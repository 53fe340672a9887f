// Package browser starts the built program as a person would, and a headless
// Chromium to look at it with.
package browser

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

// Program is a running easymargin.
type Program struct {
	URL    string // of the application
	Market string // of the demo's marketplace; "" without a demo
	Addr   string
	cmd    *exec.Cmd
	log    bytes.Buffer
}

// Binary is the built program; make build puts it there.
func Binary() string {
	_, here, _, _ := runtime.Caller(0)
	return filepath.Join(filepath.Dir(here), "..", "..", "bin", "easymargin")
}

// FreePorts finds a port whose two followers are free as well.
func FreePorts() (int, error) {
	for range 50 {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return 0, err
		}
		port := l.Addr().(*net.TCPAddr).Port
		_ = l.Close()
		free := true
		for k := range 3 {
			l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port+k))
			if free = free && err == nil; err == nil {
				_ = l.Close()
			}
		}
		if free {
			return port, nil
		}
	}
	return 0, errors.New("no three free ports in a row")
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
		return nil, errors.Join(fmt.Errorf("the program said nothing: %s", p.log.String()), p.Kill())
	}
	for word := range strings.FieldsSeq(line) {
		if word = strings.Trim(word, "()"); strings.HasPrefix(word, "http://") {
			if p.URL == "" {
				p.URL = word
			} else {
				p.Market = word
			}
		}
	}
	go func() {
		for _, err := out.Read(make([]byte, 4096)); err == nil; _, err = out.Read(make([]byte, 4096)) {
		}
	}()
	res, err := http.Get(p.URL + "/api/counts")
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

// Log is what the program wrote to its standard error.
func (p *Program) Log() string { return p.log.String() }

// Open starts Chromium; end closes it.
func Open() (b *rod.Browser, end func(), err error) {
	bin, found := launcher.LookPath()
	if !found {
		return nil, nil, errors.New("no Chromium is installed; make chromium installs Debian's")
	}
	dir, err := os.MkdirTemp("", "easymargin-browser-")
	if err != nil {
		return nil, nil, err
	}
	l := launcher.New().Bin(bin).Leakless(false).NoSandbox(true).Headless(true).UserDataDir(dir).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").
		Set("disable-sync").Set("force-color-profile", "srgb").Set("font-render-hinting", "none")
	at, err := l.Launch()
	if err != nil {
		return nil, nil, fmt.Errorf("starting Chromium: %w", err)
	}
	b = rod.New().ControlURL(at)
	if err := b.Connect(); err != nil {
		l.Kill()
		return nil, nil, err
	}
	return b, func() {
		_ = b.Close()
		l.Kill()
		_ = os.RemoveAll(dir)
	}, nil
}

// Page opens an address at 1280 × 800.
func Page(b *rod.Browser, url string) (*rod.Page, error) {
	page, err := b.Page(proto.TargetCreateTarget{})
	if err != nil {
		return nil, err
	}
	if err := page.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}); err != nil {
		return nil, err
	}
	if err := page.Navigate(url); err != nil {
		return nil, err
	}
	return page, page.WaitLoad()
}
