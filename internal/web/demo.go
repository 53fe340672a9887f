package web

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
)

// Clock is the time the application goes by.
type Clock func() time.Time

// Demo is what the demo adds: a clock that can be moved, and a mailbox.
type Demo struct {
	Forward func(by time.Duration) time.Time
	Letters func() []Letter
}

// Letter is a mail that the demo's mailbox got.
type Letter struct {
	ID      string    `json:"id"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	At      time.Time `json:"at"`
}

// DemoView is the clock, and what else the frame needs to know.
type DemoView struct {
	Demo     bool      `json:"demo" doc:"Whether this is the demo"`
	Password bool      `json:"password" doc:"Whether one logs in, and can log out"`
	Now      time.Time `json:"now" doc:"The time the application goes by"`
	Name     string    `json:"name" doc:"Who asks"`
	Role     string    `json:"role" doc:"The name of their role"`
	Rights   []string  `json:"rights" enum:"look,prepare,send,buyers,money,settings,people,account" doc:"What they may"`
}

func (s *server) demoView(ctx context.Context, now time.Time) DemoView {
	_, alone := s.People.Alone(ctx)
	who := actor.Asking(ctx)
	return DemoView{s.Demo != nil, !alone, now, who.Name, who.Role, who.May.Names()}
}

func (s *server) demoOperations(api huma.API) {
	stops.Op(api, stops.Read("/demo", "get-demo", "clock", "The clock, and whether this is the demo"),
		func(ctx context.Context, _ *stops.None) (DemoView, error) {
			return s.demoView(ctx, s.Clock()), nil
		},
	)
	stops.Op(api, stops.Read("/demo/letters", "list-demo-letters", "mail", "What the demo's mailbox got, the newest first").For(actor.Buyers),
		func(context.Context, *stops.None) ([]Letter, error) {
			if s.Demo == nil || s.Demo.Letters == nil {
				return nil, fault.New(fault.Missing, "only the demo has a mailbox of its own")
			}
			return append([]Letter{}, s.Demo.Letters()...), nil
		},
	)
	stops.Op(api, stops.Post("/demo/advance", "advance-demo", actor.Prepare, "Move the demo's clock on", "clock"),
		func(ctx context.Context, in *struct {
			Body struct {
				Minutes int `json:"minutes" minimum:"1" maximum:"10080"`
			}
		}) (DemoView, error) {
			if s.Demo == nil {
				return DemoView{}, fault.New(fault.Missing, "only the demo has a clock that moves")
			}
			now := s.Demo.Forward(time.Duration(in.Body.Minutes) * time.Minute)
			return s.demoView(ctx, now), nil
		},
	)
}
