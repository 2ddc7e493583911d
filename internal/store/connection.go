package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
)

const (
	// connectTimeout and statementTimeout bound what a request waits for. What may take long says so; see unlimited.
	connectTimeout   = 4 * time.Second
	statementTimeout = "60s"
	// probeEvery is how often the server is asked whether it answers, and probeTimeout how long it has for it.
	probeEvery   = time.Second
	probeTimeout = 4 * time.Second
)

// ErrUnavailable is returned, wrapped, where the database does not answer.
var ErrUnavailable = errors.New("the database does not answer")

// Unavailable says of an error that the database could not be reached or went away, so that what was asked of it may or may not
// have been done.
func Unavailable(err error) bool {
	var connecting *pgconn.ConnectError
	var refused *pgconn.PgError
	switch {
	case err == nil, errors.Is(err, context.Canceled):
		return false
	case errors.As(err, &connecting):
		return true
	case errors.As(err, &refused): // classes of ISO 9075: connection exceptions, and interventions of an operator
		return strings.HasPrefix(refused.Code, "08") || strings.HasPrefix(refused.Code, "57") && refused.Code != queryCancelled
	}
	for _, gone := range []error{ErrUnavailable, pgconn.ErrConnClosed, driver.ErrBadConn, net.ErrClosed, io.ErrUnexpectedEOF,
		syscall.ECONNRESET, syscall.EPIPE, syscall.ECONNREFUSED} {
		if errors.Is(err, gone) {
			return true
		}
	}
	return false
}

// TookTooLong says of an error that a statement took longer than one may.
func TookTooLong(err error) bool {
	var refused *pgconn.PgError
	return errors.As(err, &refused) && refused.Code == queryCancelled || errors.Is(err, context.DeadlineExceeded)
}

// queryCancelled is the code of a statement that took too long or whose request has gone.
const queryCancelled = "57014"

// A link keeps the network connections to the server, so that they can be cut when it answers no more: whoever waits on one
// then fails at once, and does not wait for ever.
type link struct {
	dial pgconn.DialFunc

	mutex sync.Mutex
	open  map[*linkConn]bool
	down  bool
}

type linkConn struct {
	net.Conn
	link *link
}

func (c *linkConn) Close() error {
	c.link.mutex.Lock()
	delete(c.link.open, c)
	c.link.mutex.Unlock()
	return c.Conn.Close()
}

func (l *link) connect(ctx context.Context, network, address string) (net.Conn, error) {
	conn, err := l.dial(ctx, network, address)
	if err != nil {
		return nil, err
	}
	l.mutex.Lock()
	defer l.mutex.Unlock()
	kept := &linkConn{conn, l}
	l.open[kept] = true
	return kept, nil
}

// set says whether the server answers; where it does not, it cuts all connections.
func (l *link) set(down bool) {
	l.mutex.Lock()
	l.down = down
	var cut []*linkConn
	if down {
		for c := range l.open {
			cut = append(cut, c)
		}
	}
	l.mutex.Unlock()
	for _, c := range cut {
		c.Close()
	}
}

// check refuses new connections at once while the server does not answer.
func (l *link) check(context.Context, *pgx.ConnConfig) error {
	l.mutex.Lock()
	defer l.mutex.Unlock()
	if l.down {
		return ErrUnavailable
	}
	return nil
}

// limit gives the connections of a pool their time limits.
func (l *link) limit(config *pgxpool.Config) {
	config.ConnConfig.ConnectTimeout = connectTimeout
	if _, own := config.ConnConfig.RuntimeParams["statement_timeout"]; !own {
		config.ConnConfig.RuntimeParams["statement_timeout"] = statementTimeout
	}
	l.dial, l.open = config.ConnConfig.DialFunc, map[*linkConn]bool{}
	config.ConnConfig.DialFunc = l.connect
	config.BeforeConnect = l.check
}

// Watch asks the server now and then whether it answers, until the context ends, and tells of every change: an error where it
// answers no more, nil where it does again. While it does not, whatever is asked of the store fails at once.
func (s *Store) Watch(ctx context.Context, changed func(error)) {
	tick := time.NewTicker(probeEvery)
	defer tick.Stop()
	probe := &probe{config: s.probing}
	defer probe.close()
	var last error
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		err := probe.ask(ctx)
		if err != nil && last == nil {
			err = probe.ask(ctx) // one connection alone can be lost
		}
		if ctx.Err() == nil && (err == nil) != (last == nil) {
			s.link.set(err != nil)
			changed(err)
			last = err
		}
	}
}

// A probe asks on a connection of its own.
type probe struct {
	config *pgx.ConnConfig
	conn   *pgx.Conn
}

func (p *probe) ask(ctx context.Context) (err error) {
	ctx, cancel := context.WithTimeout(ctx, probeTimeout)
	defer cancel()
	if p.conn == nil {
		if p.conn, err = pgx.ConnectConfig(ctx, p.config.Copy()); err != nil {
			p.conn = nil
			return err
		}
	}
	if err = p.conn.Ping(ctx); err != nil {
		p.close()
	}
	return err
}

func (p *probe) close() {
	if p.conn != nil {
		ctx, cancel := context.WithTimeout(context.Background(), time.Second)
		defer cancel()
		_ = p.conn.Close(ctx) // a server that does not answer hears of no goodbye
		p.conn = nil
	}
}
