// Package app wires the parts together and runs them: PostgreSQL, the store, the order book and the service.
package app

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/user"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/work"
	"prairiedusk/internal/ingest"
	"prairiedusk/internal/money"
	"prairiedusk/internal/pgcluster"
	"prairiedusk/internal/server"
	"prairiedusk/internal/store"
)

// Settings are what a service is started with.
type Settings struct {
	// Folder is the data folder.
	Folder string
	// Listen is the address of the service, host:port, on loopback; port 0 is any free one.
	Listen string
	// DatabaseURL names a server that is already there; empty starts a private one.
	DatabaseURL string
	// UploadLimit bounds the files of one load, in bytes.
	UploadLimit int64
	Log         *slog.Logger
}

// stopTimeout is how long requests may take to end when the service stops.
const stopTimeout = 15 * time.Second

// An App is a running service.
type App struct {
	past      pastBooks
	supposed  atomic.Pointer[supposedBook]
	settings  Settings
	folder    *folder
	cluster   *pgcluster.Cluster // nil where the database is somebody else's
	store     *store.Store
	snapshot  atomic.Pointer[book.Book]
	loader    *ingest.Loader
	refresh   sync.Mutex                     // one refresh at a time; guards what follows, down to relations
	shown     atomic.Int64                   // the last load that stands and that the snapshot holds
	showing   atomic.Pointer[store.Settings] // of the snapshot
	condition condition
	look      chan struct{}             // see follow
	load      int64                     // the last load that the snapshot holds
	touched   touched                   // since then
	undone    int64                     // how many loads were undone before it
	zones     map[string]*time.Location // of the sites, by which it reads times of day
	related   int64                     // the last load of what the relations tell
	relations []book.Relation
	listener  net.Listener
	http      *http.Server
	stopping  context.CancelFunc // ends requests that would not end in time
	besides   sync.WaitGroup     // what runs besides requests, until quiet
	quiet     context.CancelFunc
	served    chan error
}

// Start brings everything up: the folder, PostgreSQL, the tables, the book, the service. The caller stops it.
func Start(ctx context.Context, settings Settings) (_ *App, err error) {
	a := &App{settings: settings, served: make(chan error, 1), look: make(chan struct{}, 1),
		past: pastBooks{turn: make(chan struct{}, 1)}}
	defer func() {
		if err != nil {
			err = errors.Join(err, a.Stop())
		}
	}()
	// The address is taken first: whoever cannot have it should not wait for a database.
	if a.listener, err = listen(settings.Listen); err != nil {
		return nil, err
	}
	if a.folder, err = openFolder(settings.Folder); err != nil {
		return nil, err
	}
	address := settings.DatabaseURL
	if address == "" {
		folder, err := a.folder.postgres()
		if err != nil {
			return nil, err
		}
		if a.cluster, err = a.startCluster(ctx, folder); err != nil {
			return nil, err
		}
		address = a.cluster.URL()
	}
	if a.store, err = store.Open(ctx, address); err != nil {
		return nil, err
	}
	if err := a.Refresh(ctx); err != nil {
		return nil, err
	}
	a.loader = &ingest.Loader{Store: a.store, Follow: a.loaded}
	if account, err := user.Current(); err == nil {
		a.loader.User = account.Username
	}
	background, quiet := context.WithCancel(context.Background())
	a.quiet = quiet
	a.besides.Go(func() { a.watch(background) })
	a.besides.Go(func() { a.follow(background) })
	if a.cluster != nil {
		a.besides.Go(func() { a.cluster.Keep(background) })
	}
	return a, a.serve()
}

// startCluster lets the server's account, which is not root, through our folder.
func (a *App) startCluster(ctx context.Context, folder string) (*pgcluster.Cluster, error) {
	if os.Geteuid() == 0 {
		if account, err := user.Lookup("postgres"); err == nil {
			uid, _ := strconv.Atoi(account.Uid)
			if err := os.Lchown(a.folder.path, uid, -1); err != nil {
				return nil, err
			}
		}
	}
	return pgcluster.Start(ctx, folder, a.settings.Log)
}

// listen takes the address, which has to be on loopback.
func listen(address string) (net.Listener, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%q is no address to listen on; want host:port such as 127.0.0.1:8765", address)
	}
	if host == "localhost" {
		host = "127.0.0.1"
	}
	ip, err := netip.ParseAddr(host)
	if err != nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("%q is not on loopback; there are no accounts yet, so nothing is served beyond this machine: want 127.0.0.1 or ::1", host)
	}
	listener, err := net.Listen("tcp", net.JoinHostPort(host, port))
	if err != nil {
		return nil, fmt.Errorf("the address %s cannot be had (%w); another program uses it: choose another port with --listen 127.0.0.1:PORT, or any free one with port 0", address, err)
	}
	return listener, nil
}

func (a *App) serve() error {
	token, err := a.folder.token()
	if err != nil {
		return err
	}
	handler := server.New(server.Config{
		Token: token, NewToken: a.folder.newToken, Sessions: a.folder.sessions(), KeepSessions: a.folder.keepSessions,
		Snapshot: a.snapshot.Load, Records: a.store,
		Load: a.Load, Progress: a.loader.Progress, Undo: a.Undo, Redo: a.Redo, SaveCalendar: a.loader.SaveCalendar,
		SaveStatuses: a.loader.SaveStatuses, SavePlaces: a.loader.SavePlaces,
		SaveSettings: a.SaveSettings, Settings: a.showing.Load, Notice: a.Notice, Shown: a.Shown,
		Labels: a.Labels, SaveLabel: a.SaveLabel, DeleteLabel: a.DeleteLabel, UploadLimit: a.settings.UploadLimit,
		Log: a.settings.Log, Account: a.loader.User, BookAsOf: a.BookAsOf, OrderAsOf: a.OrderAsOf,
		BookSupposing: a.BookSupposing, MakeReader: a.makeReader,
	})
	a.http = server.HTTP(handler, a.settings.Log)
	requests, cancel := context.WithCancel(context.Background())
	a.stopping = cancel
	a.http.BaseContext = func(net.Listener) context.Context { return requests }
	go func() {
		err := a.http.Serve(a.listener)
		if errors.Is(err, http.ErrServerClosed) {
			err = nil
		}
		a.served <- err
	}()
	return a.folder.announce(a.Address())
}

// makeReader makes the role that may read the records and change nothing, and gives the address of the database for it. The error is a
// *request.Error where the database is not the service's own.
func (a *App) makeReader(ctx context.Context) (string, error) {
	if a.cluster == nil {
		return "", request.Invalid("database", "", "the database is not the service's own: whoever keeps it can make a role that may SELECT its tables")
	}
	return a.cluster.MakeReader(ctx)
}

// Address is where the service is: "http://127.0.0.1:8765".
func (a *App) Address() string { return "http://" + a.listener.Addr().String() }

// Wait returns when the context ends, or with an error when a part of the service does.
func (a *App) Wait(ctx context.Context) error {
	select {
	case <-ctx.Done():
		return nil
	case err := <-a.served:
		return err
	}
}

// Stop ends the service, then PostgreSQL. Requests may end; a load that does not is rolled back.
func (a *App) Stop() error {
	var errs []error
	if a.folder != nil {
		errs = append(errs, a.folder.announce(""))
	}
	if a.http != nil {
		ctx, cancel := context.WithTimeout(context.Background(), stopTimeout)
		if a.http.Shutdown(ctx) != nil {
			a.stopping()
			errs = append(errs, a.http.Close())
		}
		cancel()
		a.stopping()
	} else if a.listener != nil {
		errs = append(errs, a.listener.Close())
	}
	if a.quiet != nil {
		a.quiet()
		a.besides.Wait()
	}
	if a.store != nil {
		a.store.Close()
	}
	if a.cluster != nil {
		errs = append(errs, a.cluster.Stop())
	}
	if a.folder != nil {
		a.folder.close()
	}
	return errors.Join(errs...)
}

// read makes the next snapshot from what has come since the last one.
func (a *App) read(ctx context.Context) error {
	a.refresh.Lock()
	defer a.refresh.Unlock()
	begin := time.Now()
	state, err := a.store.State(ctx)
	if err != nil {
		return err
	}
	if shown := a.snapshot.Load(); shown != nil && shown.Version() == state.Version {
		return nil // nothing has changed
	}
	ends, err := ends(state)
	if err != nil {
		return err
	}
	if a.snapshot.Load() == nil || a.related != state.Related || a.undone != state.Undone {
		if a.relations, err = a.store.Relations(ctx); err != nil {
			return err
		}
		a.related = state.Related
	}
	ends.Relations = a.relations
	// The next snapshot follows the last one, unless its columns are others, records have gone, or times of day
	// are to be read by other zones.
	zones := zonesOf(state.Sites)
	since := store.Since{Load: a.load}
	b := a.snapshot.Load()
	if b == nil || !b.Layout().Equal(state.Layout) || a.undone != state.Undone || !maps.EqualFunc(zones, a.zones, sameZone) {
		b, since.Load = nil, 0
	}
	builder := book.NewBuilder(state.Layout)
	if b != nil {
		builder = b.Next()
		if before := b.Bounds().DataDate; before != ends.Bounds.DataDate {
			// In its zone a time of day can be one of two days after the one written: 23:59 at 23:59 west of UTC is 13:58 on
			// the day after the next one in a zone 14 hours east.
			since.Beyond = max(day.First, min(before, ends.Bounds.DataDate)-2)
		}
		if a.touched.follows(a.load, state.Load) {
			since.Known, since.Touched = true, a.touched.orders
			if since.Beyond != 0 {
				since.Facts = b.PartFactsAfter(since.Beyond)
			}
		}
	}
	changed, tell := 0, newDeriver(state.Layout, ends.Bounds.DataDate)
	if since.Load == 0 || state.Load > since.Load || since.Beyond != 0 {
		err := a.store.Orders(ctx, state.Layout, since, zoneFinder(zones), func(o book.Order) { builder.Put(tell.order(o)); changed++ })
		if err != nil {
			return err
		}
	}
	read := time.Now()
	finished := builder.Finish(ends)
	built := time.Now()
	next, err := a.derived(finished, state.Labels)
	if err != nil {
		return err
	}
	a.snapshot.Store(next)
	a.showing.Store(&state.Settings)
	a.shown.Store(state.Standing)
	go func() { // for the first list, which would wait for them
		if err := work.Do(func() { next.NumberRanks() }); err != nil {
			a.settings.Log.Error("order numbers could not be ranked", "error", err)
		}
	}()
	a.load, a.undone, a.zones, a.touched = state.Load, state.Undone, zones, touched{}
	a.settings.Log.Info("the book is read", "orders", next.Orders(), "changed", changed, "version", next.Version(),
		"milliseconds", time.Since(begin).Milliseconds(), "reading", read.Sub(begin).Milliseconds(), "building",
		built.Sub(read).Milliseconds(), "telling", time.Since(built).Milliseconds())
	return nil
}

// touched are the numbers of the orders that a load has touched, where that is known.
type touched struct {
	load   int64 // 0 where none has come
	orders []string
}

// follows says that these are all that changed between two loads.
func (t touched) follows(before, last int64) bool {
	return last == before || t.load == last && last == before+1
}

// ends are the bounds and calendars of the next snapshot.
func ends(state store.State) (book.Settings, error) {
	var loaded []*calendar.Calendar
	for _, def := range state.Calendars {
		c, err := calendar.New(def)
		if err != nil {
			return book.Settings{}, err
		}
		loaded = append(loaded, c)
	}
	calendars, err := book.NewCalendars(loaded)
	if err != nil {
		return book.Settings{}, err
	}
	bounds := period.Bounds{FirstDay: state.Settings.FirstDay, DataDate: state.Settings.DataDate}
	if bounds.DataDate == 0 {
		bounds.DataDate = state.Latest
	}
	return book.Settings{Bounds: bounds, Calendars: calendars, Sites: state.Sites, Places: state.Places, Statuses: state.Statuses,
		Decimals: decimals, Version: state.Version}, nil
}

// decimals is how many minor units a currency's unit has; intake has checked the code.
func decimals(currency string) int {
	n, _ := money.Decimals(currency)
	return n
}

// zonesOf are the zones of sites by name, in small letters.
func zonesOf(sites []book.SiteRecord) map[string]*time.Location {
	zones := map[string]*time.Location{}
	for _, s := range sites {
		if s.Zone != nil {
			zones[strings.ToLower(s.Name)] = s.Zone
		}
	}
	return zones
}

// zoneFinder finds the zone of a site, whatever its capitals; it remembers the few names that orders have.
func zoneFinder(zones map[string]*time.Location) func(site string) *time.Location {
	found := map[string]*time.Location{}
	return func(site string) *time.Location {
		zone, known := found[site]
		if !known {
			zone = zones[strings.ToLower(site)]
			found[site] = zone
		}
		return zone
	}
}

func sameZone(a, b *time.Location) bool { return a.String() == b.String() }

// Load brings files in, and makes the next snapshot.
func (a *App) Load(ctx context.Context, files ingest.Files, how ingest.How) (ingest.Loaded, error) {
	return a.loader.Load(ctx, files, how)
}

// loaded makes the next snapshot after a load that ended in some way.
func (a *App) loaded(ctx context.Context, record store.LoadRecord, err error) error {
	if err == nil && !record.AllTouched {
		a.refresh.Lock()
		a.touched = touched{record.ID, record.Touched}
		a.refresh.Unlock()
	}
	return a.changed(ctx, err)
}

// SaveSettings changes the ends of the book.
func (a *App) SaveSettings(ctx context.Context, settings store.Settings) error {
	return a.changed(ctx, a.store.Set(ctx, settings))
}

// Undo takes the last load back and makes the next snapshot.
func (a *App) Undo(ctx context.Context, load int64) error {
	return a.changed(ctx, a.store.Undo(ctx, load, time.Now()))
}

// Redo brings the load that was undone last back and makes the next snapshot.
func (a *App) Redo(ctx context.Context, load int64) error {
	return a.changed(ctx, a.store.Redo(ctx, load))
}

// DescribeAPI is the OpenAPI document of the service, as JSON.
func DescribeAPI() ([]byte, error) { return server.Describe() }
