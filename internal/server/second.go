package server

import (
	"context"
	"strconv"
	"sync"
	"time"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/core/whatif"
	"prairiedusk/internal/present"
	"prairiedusk/internal/secondopinion"
	"prairiedusk/internal/store"
)

// calendarDays are the days of calendars that the database has for statements.
type calendarDays struct {
	mutex   sync.Mutex
	version int64 // of the book that they were written for; −1 for none
	beyond  int   // how many days after the last of the records they reach
	written bool
}

// beyond is how many days before the first and after the last of the records calendars are written, where no statement needs more.
const beyond = 750

// write writes the days of a book's calendars, where they are not there, as far as a statement needs them.
func (c *calendarDays) write(ctx context.Context, records Records, b *book.Book, need int) error {
	c.mutex.Lock()
	defer c.mutex.Unlock()
	if c.written && c.version == b.Version() && c.beyond >= need {
		return nil
	}
	need = max(beyond, need)
	first, last := b.Bounds().FirstDay, b.Bounds().DataDate
	for i := range b.Milestones() {
		if low, high := b.Range(i); low != 0 {
			first, last = min(first, low), max(last, high)
		}
	}
	first, last = max(day.First, first-beyond), min(day.Last, last+day.Day(need))
	all, at, d := b.Calendars().All(), 0, first
	err := records.SaveCalendarDays(ctx, func() (store.CalendarDay, bool) {
		if d > last {
			at, d = at+1, first
		}
		if at == len(all) {
			return store.CalendarDay{}, false
		}
		next := calendarDay(all[at], d)
		d++
		return next, true
	})
	c.written, c.version, c.beyond = err == nil, b.Version(), need
	return err
}

func calendarDay(c *calendar.Calendar, d day.Day) store.CalendarDay {
	return store.CalendarDay{Calendar: c.Name(), Day: d, Works: c.Works(d), Worked: int(c.Totals()[d+1])}
}

func (s *server) sql(ctx context.Context, in *api.SecondQuestion) (*answered[api.Statement], error) {
	b := s.snapshot(ctx)
	if err := ofToday(ctx); err != nil {
		return nil, s.failed(ctx, err)
	}
	statement, err := s.statement(ctx, b, in)
	if err == nil {
		err = s.calendarDays.write(ctx, s.Records, b, statement.Beyond) // so that it runs
	}
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Statement]{api.Statement{SQL: statement.Text + ";\n"}}, nil
}

// statement writes a question as SQL.
func (s *server) statement(ctx context.Context, b *book.Book, in *api.SecondQuestion) (*secondopinion.Statement, error) {
	all, err := s.Labels(ctx)
	if err != nil {
		return nil, err
	}
	return secondopinion.Of(b, all, answer.Address(in.Question))
}

func (s *server) makeReader(ctx context.Context, _ *struct{}) (*answered[api.Reader], error) {
	address, err := s.MakeReader(ctx)
	if err != nil {
		return nil, s.failed(ctx, err)
	}
	return &answered[api.Reader]{api.Reader{Address: address}}, nil
}

// ofToday refuses statements about the book as it was: they read the records as they are.
func ofToday(ctx context.Context) error {
	if of, is := ctx.Value(pastKey{}).(past); is && of.supposed != nil {
		return request.Invalid(whatif.Word, of.supposed[0], "a statement reads the records as they are; ask without it")
	} else if is {
		return request.Invalid(asOfLoad, strconv.FormatInt(of.load.ID, 10), "a statement reads the records as they are now; ask without it")
	}
	return nil
}

func (s *server) secondOpinion(ctx context.Context, b *book.Book, in *api.SecondQuestion, size present.Size) (*answer.Document, error) {
	if err := ofToday(ctx); err != nil {
		return nil, err
	}
	statement, err := s.statement(ctx, b, in)
	if err != nil {
		return nil, err
	}
	began := time.Now()
	d, err := s.backlog.Ask(b, answer.Address(in.Question), present.ToCompare)
	if err != nil {
		return nil, err
	}
	ours := time.Since(began)
	if err := s.calendarDays.write(ctx, s.Records, b, statement.Beyond); err != nil {
		return nil, err
	}
	theirs, took, err := s.Records.Ask(ctx, statement.Text)
	if err != nil {
		return nil, err
	}
	if s.Snapshot().Version() != b.Version() {
		return nil, request.Invalid("question", in.Question, "the records changed while it was asked; ask again")
	}
	compared := secondopinion.Compare(d, statement, theirs, ours, took)
	t := &compared.Parts[0].Tables[0] // what differs comes first
	t.Rows = t.Rows[:min(len(t.Rows), size.Rows)]
	return compared, nil
}
