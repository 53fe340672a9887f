package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/net/netutil"

	"easymargin/demo"
	"easymargin/internal/crash"
	"easymargin/internal/edge"
	"easymargin/internal/house"
	"easymargin/internal/sim"
	"easymargin/internal/stops"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

const defaultAddr = "127.0.0.1:8640"

func serveCommand() *cobra.Command {
	var dir, addr, cert, key string
	var hosts, allow, shopHosts, proxies, folders []string
	var shop string
	pictures := true
	c := &cobra.Command{Use: "serve", Short: "Run the application", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		if dir == "" {
			return errors.New("--data: say in which folder the data is, or is to be")
		}
		ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		return serve(
			ctx,
			service{
				dir:       dir,
				addr:      addr,
				cert:      cert,
				key:       key,
				hosts:     hosts,
				allow:     allow,
				pictures:  pictures,
				shop:      shop,
				shopHosts: shopHosts,
				proxies:   proxies,
				folders:   folders,
				ready: func(at, shop string) error {
					scheme := "http"
					if cert != "" {
						scheme = "https"
					}
					_, err := fmt.Fprintf(c.OutOrStdout(), "Easy Margin is at %s://%s\n", scheme, at)
					if shop != "" {
						_, err = fmt.Fprintf(c.OutOrStdout(), "Your shop is at %s://%s\n", scheme, shop)
					}
					return err
				},
			},
		)
	}}
	c.Flags().StringVar(&dir, "data", "", "folder of the data; made if it isn't there")
	c.Flags().StringVar(&addr, "addr", defaultAddr, "address to listen at; anything but this machine's own needs EASYMARGIN_PASSWORD")
	picturesFlag(c, &pictures)
	c.Flags().StringVar(&cert, "tls-cert", "", "file of the certificate to serve HTTPS with, PEM")
	c.Flags().StringVar(&key, "tls-key", "", "file of its key, PEM")
	c.Flags().StringSliceVar(&hosts, "host", nil, "further host name this server is called by, as behind a proxy; any but this machine's own needs a password")
	c.Flags().StringSliceVar(&proxies, "proxy", nil, "address or network of a proxy whose word is taken for who asks, such as 127.0.0.1; needs a password")
	c.Flags().StringSliceVar(&folders, "folder", nil, "NAME=PATH of a folder that suppliers' files are read from or price-and-stock files are put into; no other may be")
	c.Flags().StringVar(&shop, "shop", "", "address at which buyers find the shop of your own, such as 127.0.0.1:8650; none: it isn't served")
	c.Flags().StringSliceVar(&shopHosts, "shop-host", nil, "further host name the shop is called by")
	c.Flags().StringSliceVar(&allow, "allow", nil, "host:port that may be fetched from though it is in a private network")
	return c
}

func picturesFlag(c *cobra.Command, into *bool) {
	c.Flags().BoolVar(into, "pictures", true, "fetch the pictures of what is sold or kept; --pictures=false leaves them at the suppliers")
}

// service is what one running application needs.
type service struct {
	dir, addr    string
	cert, key    string
	hosts, allow []string
	names        map[string]string // hosts that are stand-ins, and where they listen
	pictures     bool
	now          func() time.Time
	demo         *web.Demo
	set          func(ctx context.Context, h *house.House) error // before it starts
	shop         string                                          // where the own shop listens; "": nowhere
	shopHosts    []string
	proxies      []string // --proxy
	folders      []string // --folder
	ready        func(at, shop string) error
}

// elsewhere says by what an application can be reached from other machines; "": by
// nothing.
func (o *service) elsewhere(password string) (string, error) {
	far, err := web.Elsewhere(o.addr, password)
	switch foreign := slices.IndexFunc(o.hosts, func(h string) bool { return !edge.Local(h) }); {
	case err != nil || far:
		return "--addr " + o.addr, err
	case foreign >= 0:
		return "--host " + o.hosts[foreign], nil
	case len(o.proxies) > 0:
		return "--proxy " + o.proxies[0], nil
	}
	return "", nil
}

func serve(ctx context.Context, o service) error {
	password := os.Getenv("EASYMARGIN_PASSWORD")
	by, err := o.elsewhere(password)
	if err != nil {
		return err
	}
	proxies, err := edge.ParseProxies(o.proxies)
	if err != nil {
		return err
	}
	folders, err := stops.ParseFolders(o.folders)
	if err != nil {
		return err
	}
	if (o.cert == "") != (o.key == "") {
		return errors.New("--tls-cert and --tls-key: a certificate needs its key, and a key its certificate")
	}
	s, err := store.Open(o.dir)
	if err != nil {
		return err
	}
	defer func() { _ = s.Close() }()
	if err := s.Lock(); err != nil {
		return err
	}
	fell, ended, err := crash.Begin(o.dir)
	if err != nil {
		return err
	}
	defer ended()
	h := house.New(house.Options{Store: s, Fell: fell, Now: o.now, Allow: o.allow, Names: o.names, Folders: folders, NoPictures: !o.pictures, Password: password, Elsewhere: by != ""})
	defer h.Close()
	if err := web.CheckGuarded(ctx, by, h.People); err != nil {
		return err
	}
	listener, err := net.Listen("tcp", o.addr)
	if err != nil {
		return fmt.Errorf("listening: %w; choose another with --addr", err)
	}
	if err := begin(ctx, h, o); err != nil {
		return errors.Join(err, listener.Close())
	}
	shopAt, err := openShop(ctx, h, o, proxies)
	if err != nil {
		return errors.Join(err, listener.Close())
	}
	endSchedule, err := h.Schedule(ctx)
	if err != nil {
		return errors.Join(err, listener.Close())
	}
	defer func() { _ = endSchedule() }()
	handler, _ := web.New(
		web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now, Hosts: o.hosts, Demo: o.demo, Secure: o.cert != "", Proxies: proxies,
			Operate: web.Operate{Ready: s.Ready, Metrics: h.Metrics()}},
	)
	return answer(
		ctx,
		&http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, BaseContext: func(net.Listener) context.Context { return ctx }},
		listener,
		shopAt,
		o,
	)
}

// mostVisitors is how many connections the shop has open at once; who comes after them
// waits until one is done.
const mostVisitors = 1000

// openShop serves the own shop at its address, and says which it got: beside the
// application, of which nothing is reached from there.
func openShop(ctx context.Context, h *house.House, o service, proxies []netip.Prefix) (string, error) {
	if o.shop == "" {
		return "", nil
	}
	l, err := net.Listen("tcp", o.shop)
	if err != nil {
		return "", fmt.Errorf("the shop can't listen: %w; choose another with --shop", err)
	}
	l = netutil.LimitListener(l, mostVisitors)
	server := &http.Server{Handler: h.Shop(house.ShopAt{Hosts: o.shopHosts, Proxies: proxies, Secure: o.cert != ""}), ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 15 * time.Second,
		WriteTimeout: time.Minute, IdleTimeout: time.Minute}
	go func() {
		if o.cert != "" {
			_ = server.ServeTLS(l, o.cert, o.key)
			return
		}
		_ = server.Serve(l)
	}()
	context.AfterFunc(ctx, func() { _ = server.Close() })
	scheme := "http://"
	if o.cert != "" {
		scheme = "https://"
	}
	h.Places.ServeAt(scheme + l.Addr().String())
	return l.Addr().String(), nil
}

// begin sets the house up and starts it.
func begin(ctx context.Context, h *house.House, o service) error {
	if o.set != nil {
		if err := o.set(ctx, h); err != nil {
			return err
		}
	}
	return h.Start(ctx)
}

// answer serves until the context ends, over TLS where there is a certificate.
func answer(ctx context.Context, server *http.Server, l net.Listener, shop string, o service) error {
	failed := make(chan error, 1)
	go func() {
		if o.cert != "" {
			failed <- server.ServeTLS(l, o.cert, o.key)
			return
		}
		failed <- server.Serve(l)
	}()
	if err := o.ready(l.Addr().String(), shop); err != nil {
		return err
	}
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	if err := server.Shutdown(end); err != nil {
		return server.Close()
	}
	return nil
}

func demoCommand() *cobra.Command {
	var o demonstration
	c := &cobra.Command{
		Use:   "demo",
		Short: "Run the application with a made-up shop, stand-ins for the outside world and a clock",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			if o.dir == "" {
				tmp, err := os.MkdirTemp("", "easymargin-demo-")
				if err != nil {
					return err
				}
				defer os.RemoveAll(tmp)
				o.dir = tmp
			}
			return o.run(ctx, c)
		},
	}
	c.Flags().StringVar(&o.dir, "data", "", "folder to keep the demo in; a fresh temporary one unless given")
	c.Flags().StringVar(&o.addr, "addr", defaultAddr, "address to listen at; the stand-ins take the three ports after it")
	c.Flags().StringVar(&o.shop, "shop", "", "address of the shop's own pages; ten ports after --addr unless given")
	c.Flags().BoolVar(&o.empty, "empty", false, "start with nothing brought in, instead of in the middle of a shop that has run for sixty days")
	picturesFlag(c, &o.pictures)
	c.Flags().StringVar(&o.mood, "mood", "", "have the marketplace misbehave, as its page /moods has it: "+moodNames())
	c.Flags().Int64Var(&o.speed, "speed", 10, "demo seconds in a real second")
	return c
}

// demonstration is how the demo is wanted.
type demonstration struct {
	dir, addr, shop string
	empty, pictures bool
	speed           int64
	mood            string
}

// moodNames are the ways in which a stand-in can misbehave.
func moodNames() string {
	var out []string
	for _, m := range sim.Moods {
		out = append(out, string(m.Mood))
	}
	return strings.Join(out, ", ")
}

// world is the stand-ins over the demo's folder, as they were left there. A new
// folder gets the sixty days first, unless an empty shop is wanted.
func (o *demonstration) world(ctx context.Context, c *cobra.Command) (*sim.World, error) {
	if err := os.MkdirAll(o.dir, 0o700); err != nil {
		return nil, err
	}
	file := filepath.Join(o.dir, demo.StandIns)
	living, there, err := sim.KeptLiving(file)
	if err != nil {
		return nil, err
	}
	if !there {
		if living = !o.empty; living {
			if err := o.past(ctx, c); err != nil {
				return nil, err
			}
		}
	}
	world, err := demo.World(sim.NewClock(demo.Start, o.speed), living)
	if err != nil {
		return nil, err
	}
	if err := world.Keep(file); err != nil {
		return nil, err
	}
	world.Save() // from now on the folder is known for what it is
	return world, nil
}

// past puts the sixty days into the demo's folder. A program that was built
// without them lives them aside first, so that a folder is never half lived.
func (o *demonstration) past(ctx context.Context, c *cobra.Command) error {
	if demo.Made() {
		return demo.Unpack(o.dir)
	}
	_, _ = fmt.Fprintln(c.ErrOrStderr(), "This program was built without the shop's sixty days (make build has them): living them now, about a minute …")
	aside, err := os.MkdirTemp("", "easymargin-past-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(aside)
	data, file := filepath.Join(aside, "data"), filepath.Join(aside, "past.zip")
	if err := demo.Past(ctx, data, func(time.Time) {}); err != nil {
		return err
	}
	return errors.Join(demo.Pack(data, file), demo.UnpackFile(o.dir, file))
}

func (o *demonstration) run(ctx context.Context, c *cobra.Command) error {
	world, err := o.world(ctx, c)
	if err != nil {
		return err
	}
	defer world.Save()
	if err := world.Market.SetMood(sim.Mood(o.mood)); err != nil {
		return fmt.Errorf("--mood: %w", err)
	}
	host, port, err := net.SplitHostPort(o.addr)
	if err != nil {
		return fmt.Errorf("the address %q is not HOST:PORT", o.addr)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		return fmt.Errorf("the address %q has no port number", o.addr)
	}
	next := func(k int) string {
		if n == 0 {
			return "127.0.0.1:0"
		}
		return "127.0.0.1:" + strconv.Itoa(n+k)
	}
	if o.shop == "" {
		o.shop = next(10)
	}
	market, err := standIn(ctx, next(1), world.Markets())
	if err != nil {
		return err
	}
	supplier, err := standIn(ctx, next(2), world.Suppliers())
	if err != nil {
		return err
	}
	var box sim.Mailbox
	mail, err := mailbox(ctx, next(3), &box)
	if err != nil {
		return err
	}
	return serve(
		ctx,
		service{dir: o.dir, addr: net.JoinHostPort(host, port), pictures: o.pictures, now: world.Clock.Now,
			allow: []string{market, supplier}, names: map[string]string{demo.SuppliersHost: supplier},
			demo: &web.Demo{Forward: world.Clock.Forward, Letters: func() []web.Letter { return letters(&box) }},
			set: func(ctx context.Context, h *house.House) error {
				return errors.Join(demo.Shop(ctx, h, "http://"+market), demo.Post(ctx, h, mail, "http://"+o.addr))
			},
			shop: o.shop,
			ready: func(at, shop string) error {
				if shop != "" {
					shop = ", its own shop at http://" + shop
				}
				_, err := fmt.Fprintf(
					c.OutOrStdout(),
					"The Easy Margin demo is at http://%s (its marketplace at http://%s, its suppliers at http://%s%s)\n",
					at,
					market,
					supplier,
					shop,
				)
				return err
			}},
	)
}

// mailbox serves the demo's mailbox at an address and says which it got.
func mailbox(ctx context.Context, addr string, box *sim.Mailbox) (*net.TCPAddr, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("the demo's mailbox can't listen: %w; choose another --addr", err)
	}
	go func() { _ = box.Serve(l) }()
	context.AfterFunc(ctx, func() { _ = l.Close() })
	at, _ := l.Addr().(*net.TCPAddr)
	return at, nil
}

// letters are what a mailbox got, as the application shows it.
func letters(box *sim.Mailbox) []web.Letter {
	var out []web.Letter
	for _, l := range box.Letters() {
		out = append(out, web.Letter(l))
	}
	return out
}

// standIn serves a stand-in at an address and says which it got.
func standIn(ctx context.Context, addr string, h http.Handler) (string, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return "", fmt.Errorf("a stand-in can't listen: %w; choose another --addr", err)
	}
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = server.Serve(l) }()
	context.AfterFunc(ctx, func() { _ = server.Close() })
	return l.Addr().String(), nil
}
