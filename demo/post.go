package demo

import (
	"context"
	"net"

	"easymargin/internal/house"
	"easymargin/internal/stops"
	"easymargin/internal/stops/watching"
)

// Post has the demo's mail go to its own mailbox, wherever that is now, with
// links to where the application is. A server that somebody else set stays.
func Post(ctx context.Context, h *house.House, at *net.TCPAddr, link string) error {
	set, err := h.Watching.Mail(ctx)
	if err != nil || set.Host != "" && set.Host != at.IP.String() {
		return err
	}
	set.Host, set.Port, set.Security, set.Link = at.IP.String(), at.Port, "none", link
	if set.To == "" {
		set.From, set.To = "easy.margin@saltmarsh.example", "owner@saltmarsh.example"
	}
	return h.Watching.SetMail(ctx, stops.IfMatch{}, set)
}

// watches are what the shop has an eye on when the demo starts.
func (p *past) watches(ctx context.Context) error {
	site := p.sites["Quaymarket GB"]
	for _, w := range []watching.Watch{
		{Name: "Costs that jump", Number: "cost", Test: "moved", Value: "8%", SiteID: site, Mail: true, Active: true},
		{Name: "Nearly sold out", Number: "stock", Test: "below", Value: "3", SiteID: site, Active: true},
	} {
		if _, err := p.Watching.KeepWatch(ctx, 0, stops.IfMatch{}, w); err != nil {
			return err
		}
	}
	list, err := p.Watching.Watches(ctx)
	if err != nil {
		return err
	}
	for _, w := range list {
		if w.Ready != "loss" && w.Ready != "feed held" {
			continue
		}
		w.Mail = true
		if _, err := p.Watching.KeepWatch(ctx, w.ID, stops.IfMatch{}, w); err != nil {
			return err
		}
	}
	return nil
}
