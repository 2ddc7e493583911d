// Package demobook makes the demo's order book in memory, without files and records, for benchmarks.
package demobook

import (
	"bytes"
	"context"

	"prairiedusk/internal/calendarfile"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/calendar"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/demo"
)

// New is a book of so many orders, without lines, by the demo's calendars; more gives orders what they lack. It panics where
// the demo is broken.
func New(orders int, more ...func(*book.Order)) *book.Book {
	var loaded []*calendar.Calendar
	for name, text := range demo.Calendars() {
		def, err := calendarfile.ReadICalendar(context.Background(), name, bytes.NewReader(text), false)
		if err != nil {
			panic(err)
		}
		c, err := calendar.New(def.Definition)
		if err != nil {
			panic(err)
		}
		loaded = append(loaded, c)
	}
	calendars, err := book.NewCalendars(loaded)
	if err != nil {
		panic(err)
	}
	builder := book.NewBuilder(book.BuiltIn())
	id := int64(0)
	for order := range demo.Orders(demo.Options{Orders: orders, Seed: 1}) {
		id++
		order.ID = id
		for _, give := range more {
			give(&order)
		}
		builder.Put(order)
	}
	return builder.Finish(book.Settings{Bounds: period.Bounds{FirstDay: demo.FirstDay, DataDate: demo.DataDate}, Calendars: calendars})
}
