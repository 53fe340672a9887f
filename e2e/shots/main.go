// Command shots takes the pictures of docs/screenshots from the living demo, whose
// clock stands still meanwhile.
package main

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"easymargin/e2e/browser"
)

func main() {
	dir := "docs/screenshots"
	if len(os.Args) > 1 {
		dir = os.Args[1]
	}
	if err := run(dir); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func run(dir string) (err error) {
	port, err := browser.FreePorts()
	if err != nil {
		return err
	}
	p, err := browser.Start(fmt.Sprintf("127.0.0.1:%d", port), "demo", "--speed", "0")
	if err != nil {
		return err
	}
	defer func() { _ = p.Kill() }()
	b, end, err := browser.Open()
	if err != nil {
		return err
	}
	defer end()
	page, err := browser.Page(b, p.URL+"/sources")
	if err != nil {
		return err
	}
	defer func() { // rod's Must calls panic with the error
		if r := recover(); r != nil {
			err = fmt.Errorf("%v", r)
			if png, e := page.Screenshot(false, nil); e == nil {
				_ = os.WriteFile(filepath.Join(os.TempDir(), "shots-failed.png"), png, 0o600)
			}
		}
	}()
	s := shooter{page.Timeout(4 * time.Minute), p.URL, p.Suppliers, dir}
	s.goTo("/")
	s.page.MustElementR("div", "offer stock")
	s.take("today")
	s.goTo("/sources")
	s.page.MustElementR("[role=cell]", "held")
	s.take("sources")
	s.bringIn()
	s.goTo("/match")
	s.page.MustElementR("[role=option]", "frying pan").MustClick()
	s.page.MustElementR("h2", "frying pan")
	s.page.MustElementR("table td", "words agree")
	s.take("match")
	s.weigh()
	s.prices()
	s.goTo(s.found("/api/v1/submissions", `o => o.refused > 0`, "/send/"))
	s.page.MustElementR("[role=row]", "refused")
	s.take("send")
	s.goTo("/watch?site=1")
	s.page.MustElementR("button", "Send .* changes")
	s.take("watch")
	s.goTo("/products/3")
	s.page.MustElementR("table tr", "same number")
	s.page.MustElement("[role=slider]")
	s.take("docket")
	s.goTo("/orders")
	s.page.MustElementR("button", "best bought").MustClick()
	s.page.MustElementR("section", "nothing costs less")
	s.take("orders")
	s.goTo("/orders?part=earned")
	s.page.MustElement("[role=img]")
	s.take("earned")
	s.people()
	s.page.MustNavigate(p.Shop + "/").MustWaitLoad()
	s.page.MustElementR(".cards li", "£")
	s.take("shop")
	return first(b, dir)
}

// people lets two more work here; the screen stays that of the owner.
func (s shooter) people() {
	s.page.MustEval(`async () => {
		const write = (method, path, body) => fetch(path, { method, headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) });
		await write("PUT", "/api/v1/me/password", { new: "tide and marsh" });
		await write("POST", "/api/v1/people", { name: "Wren", role: "prepare", active: true, password: "salt and sand" });
	}`)
	s.page.MustNavigate(s.url + "/log-in?to=%2Fpeople%3Ftab%3Dteam").MustWaitLoad()
	s.page.MustElement("#name").MustInput("owner")
	s.page.MustElement("#password").MustInput("tide and marsh")
	s.page.MustElement("button").MustClick()
	s.page.MustElementR("td", "Wren")
	s.page.MustEval(`() => fetch("/api/v1/people", { method: "POST", headers: { "Content-Type": "application/json" },
		body: JSON.stringify({ name: "Tern", role: "look", active: true, password: "salt and sand" }) })`)
	s.goTo("/people?tab=team&open=2")
	s.page.MustElementR("td", "Tern")
	s.page.MustElementR("aside h2", "Wren")
	s.take("people")
}

// first is the first screen of a folder that nothing is in yet.
func first(b *rod.Browser, dir string) error {
	port, err := browser.FreePorts()
	if err != nil {
		return err
	}
	data, err := os.MkdirTemp("", "easymargin-first-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(data)
	p, err := browser.Start(fmt.Sprintf("127.0.0.1:%d", port), "serve", "--data", data)
	if err != nil {
		return err
	}
	defer func() { _ = p.Kill() }()
	page, err := browser.Page(b, p.URL+"/")
	if err != nil {
		return err
	}
	s := shooter{page.Timeout(time.Minute), p.URL, "", dir}
	s.page.MustElementR("li", "Say where you sell")
	s.take("first")
	return nil
}

// weigh is what goes through a named sieve.
func (s shooter) weigh() {
	s.goTo("/weigh")
	s.page.MustElementR("[role=row]", "certain")
	s.page.MustElementR("[aria-label='A named sieve'] option", "Worth a look")
	s.page.MustElement("[aria-label='A named sieve']").MustSelect("Worth a look")
	s.page.MustElementR("[role=group]", "ours already is no")
	s.page.MustElementR("[role=row]", "certain")
	s.take("weigh")
}

// bringIn drops Brindlewick's sheet of a new supplier, whose cost column is
// chosen by hand.
// blank drops the sheet that a place gives sellers.
func (s shooter) bringIn() {
	sheet, err := s.sheet()
	if err != nil {
		panic(err)
	}
	defer os.Remove(sheet)
	s.goTo("/sources")
	s.page.MustElement("[data-testid=file]").MustSetFiles(sheet)
	s.page.MustElementR("div", "No column is read as cost")
	s.page.MustElement("[aria-label='Dealer rate is read as']").MustSelect("cost")
	s.page.MustElementR("section", "can't be read as an amount")
	s.take("bring-in")
}

// prices walks through Price.
func (s shooter) prices() {
	s.goTo("/price?sort=title&open=146")
	s.page.MustElement("[data-testid=lines]")
	s.take("price")
	s.goTo("/price?tab=rules")
	s.page.MustElementR("li", `\d\d listings`)
	s.page.MustElementR("li button", "Mugs").MustClick()
	s.page.MustElement("[aria-label='By']").MustSelectAllText().MustInput("3%")
	s.page.MustElementR("aside", "3% under the lowest rival")
	s.page.MustElementR("aside", "Those that move most")
	s.page.MustElementR("button", "Replay the last 60 days").MustClick()
	s.page.MustElementR("section", "Listings that were the lowest").MustScrollIntoView()
	s.page.MustEval(`() => document.querySelector("section[aria-label=Replay]").scrollIntoView()`)
	s.take("price-rule")
	s.goTo("/price?tab=bench")
	s.page.MustElement("[aria-label='Find a product for the bench']").MustInput("kettle 1.6")
	s.page.MustElementR("[aria-label='Products found'] button", "Merrowdale Camp Enamel kettle 1.6").MustClick()
	s.page.MustElementR("h2", "kettle 1.6")
	s.page.MustElementR("label", "^profit").MustElement("input").MustSelectAllText().MustInput("3.00")
	s.page.MustElementR("[data-testid=lines] td", "3.0. GBP")
	s.page.MustElementR("td", "Lantern Row US")
	s.take("bench")
	s.goTo("/prepare")
	s.page.MustElementR("[role=grid] [role=row]", "Down quilt").MustClick()
	s.page.Keyboard.MustType(input.Enter)
	s.page.MustElementR("h1", "quilt")
	s.page.MustElementR("[role=listitem]", "condition is missing")
	s.take("prepare")
	s.page.Keyboard.MustType('p')
	s.page.MustElementR("section[aria-label=Pictures]", "wants 1 to 12 pictures")
	s.page.MustElementR("button", "Choose the part").MustClick()
	s.page.MustElement(".ReactCrop__crop-selection").MustWaitVisible()
	s.take("pictures")
	s.goTo("/prepare/sheet?site=4")
	s.page.MustElement(".dsg-row:not(.dsg-row-header) .dsg-cell:nth-child(3)").MustClick()
	s.page.MustEval(`text => { const d = new DataTransfer(); d.setData("text/plain", text);
		document.dispatchEvent(new ClipboardEvent("paste", { clipboardData: d, bubbles: true, cancelable: true })); }`,
		strings.Repeat("New\t\tMoss green\tsteel\t0.75 l\r\n", 8)+"Broken\t\tplaid\tbrass\ta lot\r\n")
	s.page.MustElementR("[role=status]", "3 of them wrong")
	s.take("sheet")
	s.page.MustElementR("button", "Undo").MustClick() // or leaving it asks
	s.page.MustWait(`() => !document.querySelector("section[aria-label='The sheet'] [role=status]").textContent.includes("changed")`)
}

type shooter struct {
	page      *rod.Page
	url       string
	suppliers string
	dir       string
}

func (s shooter) goTo(path string) { s.page.MustNavigate(s.url + path).MustWaitLoad() }

// found is where the first of a list is that a condition picks out.
func (s shooter) found(list, picks, at string) string {
	return s.page.MustEval(`async (list, at) => {
		const got = await fetch(list).then(r => r.json());
		const rows = got.rows ?? got.flatMap(source => source.feeds);
		return at + rows.find(`+picks+`).id;
	}`, list, at).Str()
}

// sheet downloads Brindlewick's sheet, as a person would before dropping it.
func (s shooter) sheet() (string, error) {
	res, err := http.Get(s.suppliers + "/brindlewick/trade-list.xlsx")
	if err != nil {
		return "", err
	}
	defer res.Body.Close()
	file := filepath.Join(os.TempDir(), "brindlewick-trade-list.xlsx")
	out, err := os.Create(file)
	if err != nil {
		return "", err
	}
	_, err = io.Copy(out, res.Body)
	return file, errors.Join(err, out.Close())
}

func (s shooter) take(name string) {
	s.page.MustEval(`() => document.fonts.ready.then(() => new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))))`)
	png, err := s.page.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	if err == nil {
		err = os.WriteFile(filepath.Join(s.dir, name+".png"), png, 0o644)
	}
	if err != nil {
		panic(err)
	}
}
