// Command bench measures taking a big feed beside the sqlite3 shell's .import of
// the same file into a table with the same two indexes, in the same run, and
// prints the ratios. It needs the sqlite3 shell; make bench installs it.
//
//	go run ./e2e/bench -rows 1000000
//
// With -shop it measures a shop of so many listings end to end, shop.go.
package main

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"syscall"
	"time"

	"easymargin/e2e/browser"
)

const schema = `CREATE TABLE p(ref TEXT, identifier TEXT, title TEXT, brand TEXT, cost TEXT, currency TEXT, stock TEXT, weight_g TEXT, length_mm TEXT, width_mm TEXT, height_mm TEXT, image TEXT, description TEXT);
CREATE UNIQUE INDEX p_ref ON p(ref); CREATE INDEX p_identifier ON p(identifier);
.mode csv
.import --skip 1 `

func main() {
	rows := flag.Int("rows", 1_000_000, "rows of the feed")
	listings := flag.Int("shop", 0, "measure a whole shop of so many listings instead")
	flag.Parse()
	var err error
	if *listings > 0 {
		err = benchShop(*listings)
	} else {
		err = run(*rows)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

type bench struct{ dir, data string }

// timed runs a command and says how long it took and its largest memory, MiB.
func timed(cmd *exec.Cmd) (seconds float64, mib int64, err error) {
	var log bytes.Buffer
	cmd.Stderr = &log
	began := time.Now()
	if err := cmd.Run(); err != nil {
		return 0, 0, fmt.Errorf("%s: %w: %s", filepath.Base(cmd.Path), err, log.String())
	}
	return time.Since(began).Seconds(), cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss >> 10, nil
}

func (b *bench) file(name string) string { return filepath.Join(b.dir, name) }

func (b *bench) imported() (float64, error) {
	db := b.file("import.db")
	_ = os.Remove(db)
	cmd := exec.Command("sqlite3", db)
	cmd.Stdin = bytes.NewBufferString(schema + b.file("base.csv") + " p\n")
	s, _, err := timed(cmd)
	return s, err
}

type taken struct {
	Changed int64   `json:"changed"`
	Same    int64   `json:"same"`
	Seconds float64 `json:"seconds"`
	whole   float64 // seconds to the end of the process, when it can be found
	mib     int64
}

func (b *bench) intake(name string) (taken, error) {
	cmd := exec.Command(browser.Binary(), "intake", "--data", b.data, "--source", "Big", b.file(name))
	var out bytes.Buffer
	cmd.Stdout = &out
	s, mib, err := timed(cmd)
	if err != nil {
		return taken{}, err
	}
	t := taken{whole: s, mib: mib}
	err = json.Unmarshal(out.Bytes(), &t)
	return t, err
}

func run(rows int) error {
	dir, err := os.MkdirTemp("", "easymargin-bench-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	b := &bench{dir, filepath.Join(dir, "data")}
	for name, more := range map[string][]string{"base.csv": nil, "next.csv": {"-change", "1"}} {
		args := append([]string{"run", "./e2e/bench/bigfeed", "-rows", strconv.Itoa(rows), "-seed", "1", "-out", b.file(name)}, more...)
		if out, err := exec.Command("go", args...).CombinedOutput(); err != nil {
			return fmt.Errorf("making %s: %w: %s", name, err, out)
		}
	}
	info, err := os.Stat(b.file("base.csv"))
	if err != nil {
		return err
	}
	idle, err := b.idle()
	if err != nil {
		return err
	}
	before, err := b.imported()
	if err != nil {
		return err
	}
	first, err := b.intake("base.csv")
	if err != nil {
		return err
	}
	changed, err := b.intake("next.csv")
	if err != nil {
		return err
	}
	same, err := b.intake("next.csv")
	if err != nil {
		return err
	}
	after, err := b.imported()
	if err != nil {
		return err
	}
	base := (before + after) / 2
	fmt.Printf(
		"%d rows, %d MB; sqlite3 .import of the same file: %.1f s and %.1f s, mean %.1f s = 1\n",
		rows,
		info.Size()>>20,
		before,
		after,
		base,
	)
	fmt.Printf(
		"first intake, taken          %6.1f s  ratio %.2f (at most 2)    %.0f rows a second\n",
		first.Seconds,
		first.Seconds/base,
		float64(rows)/first.Seconds,
	)
	fmt.Printf("first intake, searchable     %6.1f s  ratio %.2f (at most 3)\n", first.whole, first.whole/base)
	fmt.Printf(
		"1 %% changed, searchable      %6.1f s  ratio %.2f (at most 0.6)  %d changed\n",
		changed.whole,
		changed.whole/base,
		changed.Changed,
	)
	fmt.Printf("the same file again          %6.1f s  ratio %.2f (at most 0.4)  %d same\n", same.whole, same.whole/base, same.Same)
	fmt.Printf("memory over idle (%d MiB)     %5d MiB                        (at most 200)\n", idle, max(first.mib, changed.mib)-idle)
	return b.searches()
}

// idle is what the program takes with nothing to do, in MiB.
func (b *bench) idle() (int64, error) {
	p, err := serve(b.file("idle"))
	if err != nil {
		return 0, err
	}
	defer func() { _ = p.Kill() }()
	return p.Resident()
}

func serve(data string) (*browser.Program, error) {
	port, err := browser.FreePorts()
	if err != nil {
		return nil, err
	}
	return browser.Start(fmt.Sprintf("127.0.0.1:%d", port), "serve", "--data", data)
}

// searches times looking things up among all the rows, as typed.
func (b *bench) searches() error {
	p, err := serve(b.data)
	if err != nil {
		return err
	}
	defer func() { _ = p.Kill() }()
	for _, words := range []string{"enamel mug", "double-wall mug rust", "tarn", "BF-0000", "BF-00000042", "stove sand ott"} {
		began := time.Now()
		res, err := http.Get(p.URL + "/api/v1/supplier-products?words=" + url.QueryEscape(words))
		if err != nil {
			return err
		}
		n, err := io.Copy(io.Discard, res.Body)
		if err := res.Body.Close(); err != nil {
			return err
		}
		if err != nil || res.StatusCode != http.StatusOK || n < 10 {
			return fmt.Errorf("searching %q: %s, %d bytes, %w", words, res.Status, n, err)
		}
		fmt.Printf("search %-24q %6.1f ms (at most 100)\n", words, float64(time.Since(began).Microseconds())/1000)
	}
	return nil
}
