// Package browser starts the built program as a person would, and a headless
// Chromium to look at it with.
package browser

import (
	"errors"
	"fmt"
	"os"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

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
		Set("disable-sync").Set("force-prefers-reduced-motion").Set("force-color-profile", "srgb").Set("font-render-hinting", "none")
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
