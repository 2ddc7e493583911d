package present

import (
	"fmt"
	"math"
	"net/url"
	"strings"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/leg"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/core/numfmt"
	"prairiedusk/internal/core/query"
)

// Overview sets the last full month of a book beside the one before. It asks of each what the pages ask, and computes nothing of its
// own; quality is what looks wrong in the records.
func Overview(b *book.Book, backlog *Backlog, quality *answer.Document, last LastLoad) (*api.Overview, error) {
	bounds := b.Bounds()
	if b.Orders() == 0 {
		return &api.Overview{Sentence: "How did the last full month go? There is no order yet.", DataDate: bounds.DataDate.String(),
			Version: b.Version(), Figures: []api.OverviewFigure{}, Lists: []api.OverviewList{}}, nil
	}
	month, days := monthOf(bounds.DataDate)
	if days.LastDay() != bounds.DataDate {
		month, days = monthOf(days.From - 1)
	}
	so := ""
	if days.LastDay() < bounds.FirstDay { // the records have no full month yet
		month, days = monthOf(bounds.DataDate)
		so = " so far"
	}
	before, _ := monthOf(days.From - 1)
	first := max(bounds.FirstDay, days.From.AddMonths(1-trendMonths))
	o := overview{b, backlog, [2]string{month, before}, first.String() + "/" + days.LastDay().String()}
	body := &api.Overview{Sentence: fmt.Sprintf("How did %s go%s, beside %s?", month, so, before), Month: month, Before: before,
		DataDate: bounds.DataDate.String(), Version: b.Version()}
	for _, ask := range []func() ([]api.OverviewFigure, error){o.orders, o.open, o.took, o.immediate} {
		figures, err := ask()
		if err != nil {
			return nil, err
		}
		body.Figures = append(body.Figures, figures...)
	}
	if err := o.addTrends(body.Figures); err != nil {
		return nil, err
	}
	for _, ask := range []func() (api.OverviewList, error){o.late, o.oldest} {
		list, err := ask()
		if err != nil {
			return nil, err
		}
		body.Lists = append(body.Lists, list)
	}
	body.Lists = append(body.Lists, last.changed(), attention(quality))
	body.Figures = append(body.Figures, qualityFigure(quality))
	return body, nil
}

// An overview asks about two months of a book, the later one first.
type overview struct {
	book    *book.Book
	backlog *Backlog
	months  [2]string
	trend   string // the last months as a period
}

func monthOf(d day.Day) (name string, days day.Span) {
	names, spans := query.Month.Steps(day.Through(d, d))
	return names[0], spans[0]
}

// change is from the month before to the month, in words.
func (o overview) change(now, then *float64, decimals int, unit string) string {
	if now == nil || then == nil {
		return ""
	}
	n := int64(math.Round((*now - *then) * math.Pow10(decimals)))
	if n == 0 {
		return "as in " + o.months[1]
	}
	return numfmt.Decimal(max(n, -n), decimals, decimals) + unit + numfmt.Either(unit == "", numfmt.Either(n > 0, " more", " fewer"), numfmt.Either(n > 0, " more", " less")) + " than in " + o.months[1]
}

func consoleAddress(page string, words map[string]string) string {
	v := url.Values{}
	for name, value := range words {
		v.Set(name, value)
	}
	return page + "?" + v.Encode()
}

func (o overview) orders() ([]api.OverviewFigure, error) {
	f := api.OverviewFigure{Code: "orders", Label: "Orders", Address: consoleAddress("/compare",
		map[string]string{"each": "day", "basis": milestone.Ordered, "period": o.months[0]})}
	for i, of := range o.months {
		d, err := Crosstab(o.book, &api.CrosstabQuestion{Counting: api.Counting{Period: of}}, ToRead)
		if err != nil {
			return nil, err
		}
		cells := d.Parts[0].Table("cells")
		total := cells.Totals[0].Cells[cells.At("total")]
		if i == 0 {
			f.Sentence, f.Text, f.Value, f.Behind = d.Asked(), total.Text, total.Number, "ordered in the month"
		} else {
			f.Before, f.BeforeValue = total.Text, total.Number
		}
	}
	f.Change = o.change(f.Value, f.BeforeValue, 0, "")
	return []api.OverviewFigure{f}, nil
}

func (o overview) open() ([]api.OverviewFigure, error) {
	f := api.OverviewFigure{Code: "open", Label: "Open at the end", Address: consoleAddress("/open",
		map[string]string{"period": o.months[0]}), Behind: "ordered and not yet shipped"}
	for i, of := range o.months {
		in := &api.OpenQuestion{Period: of}
		d, err := o.backlog.Open(o.book, in, ToRead)
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
	f.Change = o.change(f.Value, f.BeforeValue, 0, "")
	return []api.OverviewFigure{f}, nil
}

// took is the median, and the late share by the promise.
func (o overview) took() ([]api.OverviewFigure, error) {
	median := api.OverviewFigure{Code: "median", Label: "Median working days, order date → ship date",
		Address: consoleAddress("/how-long", map[string]string{"period": o.months[0]})}
	late := api.OverviewFigure{Code: "late", Label: "Late, by the promise", Address: consoleAddress("/how-long",
		map[string]string{"period": o.months[0], "promise": milestone.Promised})}
	for i, of := range o.months {
		d, err := Took(o.book, &api.TookQuestion{Placing: api.Placing{Period: of}, Promise: milestone.Promised, Show: []string{"median"}},
			ToRead)
		if err != nil {
			return nil, err
		}
		groups, promise := d.Parts[0].Table("groups"), d.Parts[0].Table("promise")
		total := func(code string) answer.Cell { return groups.Totals[0].Cells[groups.At(code)] }
		kept := func(code string) answer.Cell { return promise.Totals[0].Cells[promise.At(code)] }
		half, counted := total("median"), total("n")
		share := kept("late_share")
		behind, told, text := "of "+numfmt.Counted(int(*counted.Number), "order"),
			kept("late").Text+" of "+kept("late_of").Text+" whose outcome is known", numfmt.Either(share.Number != nil, share.Text+"%", "")
		if i > 0 {
			median.Before, median.BeforeValue, median.BeforeBehind = half.Text, half.Number, behind
			late.Before, late.BeforeValue, late.BeforeBehind = text, share.Number, told
			continue
		}
		median.Text, median.Value, median.Behind = half.Text, half.Number, behind
		late.Sentence, late.Text, late.Value, late.Behind = d.Asked(), text, share.Number, told
		if running := total(leg.Running.String()); *running.Number > 0 {
			median.Remark = running.Text + numfmt.Agreeing(int(*running.Number), " is", " are") + " still running and not counted."
		}
		plain, _, err := TookQuestion(o.book, &api.TookQuestion{Placing: api.Placing{Period: of}})
		if err != nil {
			return nil, err
		}
		median.Sentence = plain.Sentence().String()
	}
	median.Change = o.change(median.Value, median.BeforeValue, 1, " working days")
	late.Change = o.change(late.Value, late.BeforeValue, 2, " points")
	return []api.OverviewFigure{median, late}, nil
}

func (o overview) immediate() ([]api.OverviewFigure, error) {
	f := api.OverviewFigure{Code: "immediate", Label: "Immediate: requested for the day of the order",
		Address: consoleAddress("/immediate", map[string]string{"period": o.months[0]})}
	for i, of := range o.months {
		d, err := Immediate(o.book, &api.ImmediateQuestion{Period: of}, ToRead)
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
	f.Change = o.change(f.Value, f.BeforeValue, 2, " points")
	return []api.OverviewFigure{f}, nil
}

func qualityFigure(d *answer.Document) api.OverviewFigure {
	issues := d.Parts[0].Table("issues")
	value := float64(len(issues.Rows))
	text := numfmt.Count(len(issues.Rows))
	f := api.OverviewFigure{Code: "quality", Label: "Kinds of issues in the records", Sentence: d.Asked(), Address: "/quality",
		Text: text, Value: &value, Behind: "in all records"}
	most := 0.0
	for _, r := range issues.Rows {
		if title, is := strings.CutPrefix(r.Cells[issues.At("what")].Text, ofOrders); is && *r.Cells[issues.At("count")].Number > most {
			most = *r.Cells[issues.At("count")].Number
			f.Remark = "Most often: " + title + ", " + numfmt.Counted(int(most), "order") + "."
		}
	}
	return f
}
