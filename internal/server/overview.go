package server

import (
	"context"
	"fmt"
	"math"
	"net/url"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
	"prairiedusk/internal/present"
)

func (s *server) registerOverview(to huma.API) {
	huma.Register(to, get("overview", "/overview", "The last full month beside the one before"), s.overview)
}

// overview asks of each month what the pages ask; it computes nothing of its own.
func (s *server) overview(ctx context.Context, _ *struct{}) (*answered[api.Overview], error) {
	b := s.snapshot(ctx)
	bounds := b.Bounds()
	if b.Orders() == 0 {
		return &answered[api.Overview]{api.Overview{Sentence: "How did the last full month go? There is no order yet.", DataDate: bounds.DataDate.String(), Version: b.Version(), Figures: []api.OverviewFigure{}}}, nil
	}
	month, days := monthOf(bounds.DataDate)
	if days.LastDay() != bounds.DataDate {
		month, days = monthOf(days.From - 1)
	}
	before, _ := monthOf(days.From - 1)
	body := api.Overview{Sentence: fmt.Sprintf("How did %s go, beside %s?", month, before), Month: month, Before: before, DataDate: bounds.DataDate.String(), Version: b.Version()}
	for _, ask := range []func(context.Context, string, string) ([]api.OverviewFigure, error){s.overviewOrders, s.overviewOpen, s.overviewTook, s.overviewImmediate, s.overviewQuality} {
		figures, err := ask(ctx, month, before)
		if err != nil {
			return nil, s.failed(ctx, err)
		}
		body.Figures = append(body.Figures, figures...)
	}
	return &answered[api.Overview]{body}, nil
}

func monthOf(d day.Day) (name string, days day.Span) {
	names, spans := query.Month.Steps(day.Through(d, d))
	return names[0], spans[0]
}

// change is from one value to another, with its sign.
func change(now, then *float64, decimals int, unit string) string {
	if now == nil || then == nil {
		return ""
	}
	n := int64(math.Round((*now - *then) * math.Pow10(decimals)))
	text := numfmt.Decimal(n, decimals, decimals) + unit
	if n > 0 {
		return "+" + text
	}
	return text
}

func address(page string, words map[string]string) string {
	v := url.Values{}
	for name, value := range words {
		v.Set(name, value)
	}
	return page + "?" + v.Encode()
}

func counted(n int) (string, *float64) {
	return numfmt.Count(n), number(float64(n))
}

func (s *server) overviewOrders(ctx context.Context, month, before string) ([]api.OverviewFigure, error) {
	b := s.snapshot(ctx)
	f := api.OverviewFigure{Code: "orders", Label: "Orders", Address: address("/compare", map[string]string{"each": "day", "basis": milestone.Ordered, "period": month})}
	for i, of := range []string{month, before} {
		d, err := present.Crosstab(b, &api.CrosstabQuestion{Counting: api.Counting{Period: of}}, present.ToRead)
		if err != nil {
			return nil, err
		}
		cells := d.Parts[0].Table("cells")
		total := cells.Totals[0].Cells[cells.At("total")]
		if i == 0 {
			f.Sentence, f.Text, f.Value, f.Behind = d.Asked(), total.Text, total.Number, "ordered in it"
		} else {
			f.Before, f.BeforeValue = total.Text, total.Number
		}
	}
	f.Change = change(f.Value, f.BeforeValue, 0, "")
	return []api.OverviewFigure{f}, nil
}

func (s *server) overviewOpen(ctx context.Context, month, before string) ([]api.OverviewFigure, error) {
	f := api.OverviewFigure{Code: "open", Label: "Open at the end", Address: address("/open", map[string]string{"period": month}), Behind: "ordered and not yet shipped"}
	b := s.snapshot(ctx)
	for i, of := range []string{month, before} {
		in := &api.OpenQuestion{Period: of}
		d, err := s.backlog.Open(b, in, present.ToRead)
		if err != nil {
			return nil, err
		}
		rows := d.Parts[0].Table("rows")
		open := rows.Totals[0].Cells[rows.At("at_end")]
		if i == 0 {
			f.Sentence, f.Text, f.Value = d.Asked(), open.Text, open.Number
		} else {
			f.Before, f.BeforeValue = open.Text, open.Number
		}
	}
	f.Change = change(f.Value, f.BeforeValue, 0, "")
	return []api.OverviewFigure{f}, nil
}

// overviewTook is the median, and the late share by the promise.
func (s *server) overviewTook(ctx context.Context, month, before string) ([]api.OverviewFigure, error) {
	b := s.snapshot(ctx)
	median := api.OverviewFigure{Code: "median", Label: "Median working days, ordered → shipped", Address: address("/how-long", map[string]string{"period": month})}
	late := api.OverviewFigure{Code: "late", Label: "Late, by the promise", Address: address("/how-long", map[string]string{"period": month, "promise": milestone.Promised})}
	for i, of := range []string{month, before} {
		d, err := present.Took(b, &api.TookQuestion{Placing: api.Placing{Period: of}, Promise: milestone.Promised, Show: []string{"median"}}, present.ToRead)
		if err != nil {
			return nil, err
		}
		groups, promise := d.Parts[0].Table("groups"), d.Parts[0].Table("promise")
		total := func(code string) answer.Cell { return groups.Totals[0].Cells[groups.At(code)] }
		kept := func(code string) answer.Cell { return promise.Totals[0].Cells[promise.At(code)] }
		half, counted := total("median"), total("n")
		share := kept("late_share")
		behind, told, text := "of "+numfmt.Counted(int(*counted.Number), "order"), kept("late").Text+" of "+kept("late_of").Text+" whose outcome is known", numfmt.Either(share.Number != nil, share.Text+"%", "")
		if i > 0 {
			median.Before, median.BeforeValue, median.BeforeBehind = half.Text, half.Number, behind
			late.Before, late.BeforeValue, late.BeforeBehind = text, share.Number, told
			continue
		}
		median.Text, median.Value, median.Behind = half.Text, half.Number, behind
		late.Sentence, late.Text, late.Value, late.Behind = d.Asked(), text, share.Number, told
		if running := total(leg.Running.String()); *running.Number > 0 {
			median.Remark = running.Text + numfmt.Agreeing(int(*running.Number), " is", " are") + " still running, and in no median."
		}
		plain, _, err := present.TookQuestion(b, &api.TookQuestion{Placing: api.Placing{Period: of}})
		if err != nil {
			return nil, err
		}
		median.Sentence = plain.Sentence().String()
	}
	median.Change = change(median.Value, median.BeforeValue, 1, " working days")
	late.Change = change(late.Value, late.BeforeValue, 2, " points")
	return []api.OverviewFigure{median, late}, nil
}

func (s *server) overviewImmediate(ctx context.Context, month, before string) ([]api.OverviewFigure, error) {
	b := s.snapshot(ctx)
	f := api.OverviewFigure{Code: "immediate", Label: "Immediate: requested for the day of the order", Address: address("/immediate", map[string]string{"period": month})}
	for i, of := range []string{month, before} {
		d, err := present.Immediate(b, &api.ImmediateQuestion{Period: of}, present.ToRead)
		if err != nil {
			return nil, err
		}
		groups := d.Parts[0].Table("groups")
		total := func(code string) answer.Cell { return groups.Totals[0].Cells[groups.At(code)] }
		rate := total("asked_rate")
		text, behind := numfmt.Either(rate.Number != nil, rate.Text+"%", ""), total("immediate").Text+" of "+total("asked_all").Text
		if i == 0 {
			f.Sentence, f.Text, f.Value, f.Behind = d.Asked(), text, rate.Number, behind
		} else {
			f.Before, f.BeforeValue, f.BeforeBehind = text, rate.Number, behind
		}
	}
	f.Change = change(f.Value, f.BeforeValue, 2, " points")
	return []api.OverviewFigure{f}, nil
}

func (s *server) overviewQuality(ctx context.Context, _, _ string) ([]api.OverviewFigure, error) {
	d, err := s.askQuality(ctx, s.snapshot(ctx), nil, present.ToRead)
	if err != nil {
		return nil, err
	}
	issues := d.Parts[0].Table("issues")
	text, value := counted(len(issues.Rows))
	f := api.OverviewFigure{Code: "quality", Label: "Kinds of issues in the records", Sentence: d.Asked(), Address: "/quality", Text: text, Value: value, Behind: "in all records"}
	most := 0.0
	for _, r := range issues.Rows {
		if title, ofOrders := strings.CutPrefix(r.Cells[issues.At("what")].Text, "orders: "); ofOrders && *r.Cells[0].Number > most {
			most = *r.Cells[0].Number
			f.Remark = "Most often: " + title + ", " + numfmt.Counted(int(most), "order") + "."
		}
	}
	return []api.OverviewFigure{f}, nil
}
