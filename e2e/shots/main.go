// Command shots takes the pictures of docs/screenshots from the demo, walking
// through the morning as a person would.
package main

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/go-rod/rod"
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
	s.first("Fernhollow Wholesale")
	s.take("feed")
	s.wait(`(c, runs) => c.ready > 1000 && runs.every(r => r.state === "done" || r.kind === "pictures")`)
	s.goTo("/match")
	s.page.MustElementR("article", "for:")
	s.page.MustElementR("[role=option]", "walking poles").MustClick()
	s.page.MustElementR("h2", "walking poles")
	s.page.MustElementR("article", "against:")
	s.take("match")
	s.goTo("/price?sort=title&open=40")
	s.page.MustElement("[data-testid=lines]")
	s.take("price")
	s.rule(
		`{"id":0,"name":"Mugs, a penny under","fits":{"categories":["mugs"]},"rule":{"aims":[{"kind":"margin","value":"18%"},{"kind":"profit","value":"1.50"}],
		"keep":[{"kind":"profit","value":"0.60"}],"market":{"stance":"below","against":"lowest","by":"0.01"}}}`,
	)
	s.rule(
		`{"id":0,"name":"Dear and heavy","fits":{"cost_from":"60.00"},"rule":{"aims":[{"kind":"return","value":"20%"}],"keep":[{"kind":"profit","value":"5.00"}],
		"endings":{"every":"5.00","at":["4.99"],"way":"nearest"}}}`,
	)
	s.wait(`(c, runs) => runs.every(r => r.state === "done" || r.kind === "pictures")`)
	s.goTo("/price?tab=rules")
	s.page.MustElementR("li", `\d\d listings`)
	s.take("price-rules")
	s.page.MustElementR("li button", "Mugs").MustClick()
	s.page.MustElement("[aria-label='By']").MustSelectAllText().MustInput("3%")
	s.page.MustElementR("aside", "3% under the lowest rival")
	s.page.MustElementR("aside", "Those that move most")
	s.take("price-rule")
	s.goTo("/price?tab=fees&site=4")
	s.page.MustElementR("div", "sale fee")
	s.page.MustElementR("td", "sale fee tax")
	s.take("price-fees")
	s.goTo("/price?tab=bench")
	s.page.MustElement("[aria-label='Find a product for the bench']").MustInput("Fellgrove Summit Titanium mug 750")
	s.page.MustElementR("[aria-label='Products found'] button", "Fellgrove Summit Titanium mug 750").MustClick()
	s.page.MustElementR("h2", "mug 750")
	s.page.MustElementR("label", "^profit").MustElement("input").MustSelectAllText().MustInput("3.00")
	s.page.MustElementR("[data-testid=lines] td", "3.0. GBP")
	s.page.MustElementR("td", "Lantern Row US")
	s.take("bench")
	s.goTo("/price?tab=what-if")
	s.page.MustElementR("p", "against now")
	s.take("what-if")
	s.goTo("/send")
	s.page.MustElementR("button", "Send 1.* ready listings").MustClick()
	s.page.MustElementR("h1", "Listings to Quaymarket GB")
	s.wait(`(c, runs) => c.sent === 0 && c.live > 1000 && runs.every(r => r.state === "done" || r.kind === "pictures")`)
	s.page.MustElementR("div", "refused")
	s.take("send")
	s.button(`\+15 min`)
	s.goTo("/sources")
	s.in("Fernhollow Wholesale", "Fetch now")
	s.wait(`(c, runs) => c.plan_lines > 0 && runs.every(r => r.state === "done" || r.kind === "pictures")`)
	s.goTo("/watch")
	s.page.MustElementR("button", "Send .* changes")
	s.take("watch")
	s.goTo("/")
	s.page.MustElementR("div", "offer stock")
	s.take("today")
	s.goTo("/products?q=kettle")
	s.page.MustElementR("[role=row]", "kettle")
	s.take("products")
	s.goTo("/sources")
	s.first("Tidewrack Clearance")
	sheet, err := s.sheet()
	if err != nil {
		return err
	}
	defer os.Remove(sheet)
	s.goTo("/sources")
	s.page.MustElement("[data-testid=file]").MustSetFiles(sheet)
	s.page.MustElementR("div", "No column is read as cost")
	s.page.MustElement("[aria-label='Dealer rate is read as']").MustSelect("cost")
	s.page.MustElement("select").MustSelect("a new supplier")
	s.page.MustElementByJS(`() => [...document.querySelectorAll("label")].find(l => l.textContent.startsWith("Supplier's name")).control`).
		MustInput("Brindlewick Outdoor")
	s.page.MustElementR("section", "can't be read as an amount")
	s.take("bring-in")
	s.button("Take this feed")
	s.page.MustElementR("[role=row]", "the title is missing").MustClick()
	s.page.MustElementR("aside", "Take this row")
	s.take("mend")
	s.wait(`(c, runs) => runs.every(r => r.state === "done" || r.kind === "pictures")`)
	s.wait(`(c, runs) => runs.every(r => r.state === "done")`)
	s.goTo("/sources?tab=find&q=enamel mug")
	s.page.MustElementR("[role=row]", "enamel").MustClick()
	s.page.MustElementR("aside", "Cost")
	s.take("find")
	s.goTo("/sources")
	s.page.MustElementR("[role=row]", "taken")
	s.take("sources")
	s.in("Brindlewick Outdoor", "Settings")
	s.page.MustElementR("aside", "When a feed is held")
	s.take("source-settings")
	s.page.MustElement("[aria-label='Dark theme']").MustClick()
	s.goTo("/watch")
	s.page.MustElementR("button", "Send .* changes")
	s.take("watch-dark")
	return nil
}

type shooter struct {
	page      *rod.Page
	url       string
	suppliers string
	dir       string
}

func (s shooter) goTo(path string) { s.page.MustNavigate(s.url + path).MustWaitLoad() }

func (s shooter) button(words string) { s.page.MustElementR("button", words).MustClick() }

// rule keeps a price rule of the first site.
func (s shooter) rule(body string) {
	s.page.MustEval(`body => fetch("/api/sites/1/rules", { method: "POST", headers: { "Content-Type": "application/json" }, body })`, body)
}

// in presses a button inside the section of a name.
func (s shooter) in(section, words string) {
	s.page.MustElement("section[aria-label='"+section+"']").MustElementR("button", words).MustClick()
}

// first fetches the first feed of a source, looks at it and takes it.
func (s shooter) first(source string) {
	s.in(source, "Fetch now")
	s.page.MustElementR("section[aria-label='"+source+"'] button", "Look at the new feed").MustClick()
	s.page.MustElementR("section", "would be taken")
	s.button("Take this feed")
	s.page.MustElementR("dt", "rows read")
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

// wait asks the API until a condition on its counts and runs holds.
func (s shooter) wait(condition string) {
	err := s.page.Wait(rod.Eval(`async () => {
		const [c, runs] = await Promise.all(["counts", "runs"].map(x => fetch("/api/" + x).then(r => r.json())));
		return (` + condition + `)(c, runs);
	}`).ByPromise())
	if err != nil {
		panic(fmt.Errorf("waiting for %s: %w", condition, err))
	}
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
