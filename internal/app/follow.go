package app

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"prairiedusk/internal/core/work"
	"prairiedusk/internal/store"
)

// The answers follow the tables by themselves: what could not be read after a change is read again until it can.
const (
	followSoonest = 250 * time.Millisecond
	followLatest  = 10 * time.Second
)

// A condition is what the service is not able to do at the moment.
type condition struct {
	mutex  sync.Mutex
	down   time.Time // since when the database has not answered; zero where it does
	behind error     // why the answers do not show the tables; nil where they do
}

func (c *condition) set(down time.Time) {
	c.mutex.Lock()
	defer c.mutex.Unlock()
	c.down = down
}

// Refresh makes the next snapshot from what has come since the last one. Where it cannot, it is tried again by itself.
func (a *App) Refresh(ctx context.Context) error {
	var err error
	if fault := work.Do(func() { err = a.read(ctx) }); fault != nil {
		err = fault
	}
	a.fallBehind(err)
	return err
}

// changed brings the answers up to date after a change of the tables that ended in some way. One whose connection was lost may
// stand or not: the tables know.
func (a *App) changed(ctx context.Context, err error) error {
	if store.Unavailable(err) {
		a.fallBehind(err)
	}
	if err != nil {
		return err
	}
	return a.Refresh(context.WithoutCancel(ctx)) // the change stands, whether or not its client still listens
}

// fallBehind notes why the answers may not show the tables, and lets the follower look; nil notes that they do.
func (a *App) fallBehind(why error) {
	a.condition.mutex.Lock()
	defer a.condition.mutex.Unlock()
	if a.condition.behind = why; why == nil {
		return
	}
	select {
	case a.look <- struct{}{}:
	default: // it is about to
	}
}

// follow looks at the tables when told to, until that succeeds.
func (a *App) follow(ctx context.Context) {
	wait := followSoonest
	for {
		select {
		case <-ctx.Done():
			return
		case <-a.look:
		}
		err := a.Refresh(ctx)
		if err == nil || ctx.Err() != nil {
			wait = followSoonest
			continue
		}
		a.settings.Log.Error("the book cannot be read", "error", err, "again_in", wait)
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
		wait = min(2*wait, followLatest)
	}
}

// watch notes whether the database answers. When it does again, something may have changed meanwhile.
func (a *App) watch(ctx context.Context) {
	a.store.Watch(ctx, func(err error) {
		if err != nil {
			a.settings.Log.Error("PostgreSQL does not answer", "error", err)
			a.condition.set(time.Now())
			return
		}
		a.settings.Log.Info("PostgreSQL answers again")
		a.fallBehind(errors.New("PostgreSQL was away"))
		a.condition.set(time.Time{})
	})
}

// Notice says what everybody has to know who reads an answer now; empty where there is nothing.
func (a *App) Notice() string {
	a.condition.mutex.Lock()
	defer a.condition.mutex.Unlock()
	switch {
	case !a.condition.down.IsZero():
		return fmt.Sprintf("PostgreSQL has not answered since %s. Answers come from memory and show the records as of load %d; nothing can be loaded or saved until it is back.",
			a.condition.down.Format(time.TimeOnly), a.shown.Load())
	case a.condition.behind != nil:
		return fmt.Sprintf("The answers show the records as of load %d, not what has changed since; the records are being read again.",
			a.shown.Load())
	}
	return ""
}

// Shown is the last load that the answers show.
func (a *App) Shown() int64 { return a.shown.Load() }
