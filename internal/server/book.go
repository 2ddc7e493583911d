package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/duration"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/period"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/core/request"
	"prairiedusk/internal/filter"
	"prairiedusk/internal/store"
)

func (s *server) book(ctx context.Context, _ *struct{}) (*answered[api.Book], error) {
	b := s.snapshot(ctx)
	settings := s.Settings()
	body := api.Book{
		Version:       b.Version(),
		Orders:        b.Orders(),
		FirstDay:      b.Bounds().FirstDay.String(),
		DataDate:      b.Bounds().DataDate.String(),
		Settings:      api.Settings{FirstDay: settings.FirstDay.String(), DataDate: settings.DataDate.String()},
		Groupings:     query.GroupingNames(b),
		PartGroupings: query.PartGroupingNames(b),
		Units:         unitsBody(),
		Calendars:     calendarNames(b),
		Calendar:      usual(b).Name(),
		CountRules:    leg.RuleNames(),
		Periods:       period.Offered(b.Bounds()),
		Columns:       offered(b),
		States:        []string{duration.Counted},
	}
	for i, m := range b.Milestones() {
		first, last := b.Range(i)
		body.Milestones = append(body.Milestones, api.Milestone{Name: m.Name, Date: m.Date(), Plan: m.Plan, First: first.String(),
			Last: last.String()})
	}
	for f, name := range b.FieldNames() {
		body.Fields = append(body.Fields, api.Field{Name: name, Values: len(b.Values(book.Field(f))) - 1})
	}
	for state := range leg.States {
		body.States = append(body.States, state.String())
	}
	return &answered[api.Book]{body}, nil
}

// offered lists what a list can show, by what it is of.
func offered(b *book.Book) (columns []api.Offered) {
	add := func(of string, texts ...string) {
		for _, text := range texts {
			columns = append(columns, api.Offered{Text: text, Of: of})
		}
	}
	add("order", filter.Number, filter.State, "value")
	for _, name := range b.FieldNames() {
		of := "order"
		for _, owner := range []string{"customer", "site", "place"} {
			if strings.HasPrefix(name, owner) {
				of = owner
			}
		}
		add(of, name)
	}
	add("order", b.NumberNames()...)
	for i, m := range b.Milestones() {
		if first, _ := b.Range(i); first != 0 {
			add("milestones", m.Name)
		}
	}
	add("lengths", filter.Length)
	for _, l := range chain(b) {
		for _, function := range []string{"working_days", "days"} {
			leg := "(" + filter.Written(l.From.Name) + ", " + filter.Written(l.To.Name) + ")"
			add("lengths", function+leg, function+filter.SoFar+leg)
		}
	}
	for part, name := range book.PartNames() {
		if !b.HasParts(book.Part(part)) {
			continue
		}
		add(name, name)
		for _, c := range b.PartColumns(book.Part(part)) {
			add(name, name+"."+c.Name)
		}
	}
	return columns
}

type valuesInput struct {
	Name  string `path:"name" doc:"The field, or a column of parts such as lines.product."`
	Like  string `query:"like" doc:"Only values that hold this text, in capitals or not."`
	Limit int    `query:"limit" minimum:"1" maximum:"1000" default:"50"`
}

func (s *server) values(ctx context.Context, in *valuesInput) (*answered[api.Values], error) {
	b := s.snapshot(ctx)
	if column, found := filter.PartColumn(b, in.Name); found {
		return &answered[api.Values]{valuesBody(filter.PartValues(b, column), in.Like, in.Limit)}, nil
	}
	field, known := b.ParseField(in.Name)
	if !known {
		return nil, huma.Error404NotFound(fmt.Sprintf("there is no field %q; want one of %s", in.Name, strings.Join(b.FieldNames(), ", ")))
	}
	return &answered[api.Values]{valuesBody(b.Values(field)[1:], in.Like, in.Limit)}, nil
}

func valuesBody(values []string, like string, limit int) api.Values {
	body := api.Values{Values: []string{}}
	like = strings.ToLower(like)
	for _, value := range values {
		if strings.Contains(strings.ToLower(value), like) {
			body.All++
			body.Values = append(body.Values, value)
		}
	}
	slices.Sort(body.Values)
	body.Values = body.Values[:min(len(body.Values), limit)]
	return body
}

func unitsBody() (units []api.Unit) {
	for i, name := range leg.UnitNames() {
		unit := api.Unit{Name: name, Words: leg.Unit(i).Words(), Rules: []string{}}
		for r, rule := range leg.RuleNames() {
			if err := (leg.Measure{Unit: leg.Unit(i), Rule: leg.Rule(r)}).Check(); err == nil {
				unit.Rules = append(unit.Rules, rule)
			} else {
				unit.Refused = err.Error()
			}
		}
		units = append(units, unit)
	}
	return units
}

func (s *server) saveSettings(ctx context.Context, in *struct{ Body api.Settings }) (*answered[api.Book], error) {
	var settings store.Settings
	for _, end := range []struct {
		word, text string
		day        *day.Day
	}{{"first_day", in.Body.FirstDay, &settings.FirstDay}, {"data_date", in.Body.DataDate, &settings.DataDate}} {
		if err := end.day.UnmarshalText([]byte(end.text)); err != nil {
			return nil, s.failed(ctx, request.Invalid(end.word, end.text, err.Error()))
		}
	}
	if settings.FirstDay != 0 && settings.DataDate != 0 && settings.FirstDay > settings.DataDate {
		return nil, s.failed(ctx, request.Invalid("first_day", in.Body.FirstDay, "it lies after the data date "+in.Body.DataDate))
	}
	if err := s.SaveSettings(ctx, settings); err != nil {
		return nil, s.failed(ctx, err)
	}
	return s.book(ctx, nil)
}
