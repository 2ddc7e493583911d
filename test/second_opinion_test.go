package test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// A wildBook draws records full of edge cases: every state of every leg, parts in every form, days on both
// sides of the data date, times of day at the cut-off and across midnight in other zones, and clocks that are not known.
type wildBook struct {
	*rand.Rand
	files map[string]*strings.Builder
}

// wildDate is the data date of wild books.
const wildDate = "2025-06-15"

func (w *wildBook) day(n int) string {
	return time.Date(2025, 5, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format(time.DateOnly)
}

// row writes a row of a file.
func (w *wildBook) row(file string, cells ...any) {
	if w.files[file] == nil {
		w.files[file] = &strings.Builder{}
	}
	for i, c := range cells {
		if i > 0 {
			w.files[file].WriteString(",")
		}
		fmt.Fprint(w.files[file], c)
	}
	w.files[file].WriteString("\n")
}

// some is one of several texts.
func (w *wildBook) some(of ...string) string { return of[w.IntN(len(of))] }

// rarely is a text, or none with a chance of one in n.
func (w *wildBook) rarely(n int, text string) string {
	if w.IntN(n) == 0 {
		return ""
	}
	return text
}

// timed gives a day a time of day now and then: at the cut-off, beside it, with a distance from UTC.
func (w *wildBook) timed(day string) string {
	if day == "" || w.IntN(2) == 0 {
		return day
	}
	return day + "T" + w.some("13:59:59", "14:00", "14:00:01", "00:00", "23:59", "23:30Z", "00:30+11:00", "14:00-07:00", "06:15:30.5Z")
}

func drawWildBook(seed uint64, orders int) map[string]string {
	w := &wildBook{rand.New(rand.NewPCG(seed, 24)), map[string]*strings.Builder{}}
	w.row("sites.csv", "site", "zone", "cut-off", "calendar", "region", "country")
	w.row("sites.csv", "North", "Pacific/Auckland", "14:00", "", "", "")
	w.row("sites.csv", "South", "America/Regina", "", "North", "", "")
	w.row("sites.csv", "West", "", "14:00", "", "Vell", "")
	w.row("places.csv", "place", "country", "region", "latitude", "longitude")
	w.row("places.csv", "Vell", "Oman", "", "", "")
	w.row("customers.csv", "customer", "contact", "country", "place")
	w.row("customers.csv", "Clover", "Ann", "Oman", "")
	w.row("customers.csv", "Ivy", "", "Canada", "Vell")
	w.row("places.csv", "Quay", "Oman", "Dhow", "", "")
	w.row("orders.csv", "number", "customer", "site", "country", "region", "place", "channel", "ordered", "requested", "promised", "shipped", "expected",
		"delivered", "invoiced", "paid", "cancelled", "value", "currency", "berth")
	w.row("lines.csv", "order", "line", "product", "units", "cancelled units", "line cancelled", "line value", "line shipped", "line delivered", "batch")
	w.row("products.csv", "product", "product name", "category")
	w.row("products.csv", "P0", "Zero", "small")
	w.row("products.csv", "P1", "One", "")
	w.row("shipments.csv", "order", "shipment", "line", "carrier", "units", "shipped", "delivered")
	w.row("payments.csv", "order", "receipt", "paid", "amount", "currency")
	w.row("statuses.csv", "status", "step", "final", "spelling of")
	w.row("statuses.csv", "new", 1, "no", "")
	w.row("statuses.csv", "gone", 3, "yes", "")
	w.row("statuses.csv", "Gone!", "", "", "gone")
	w.row("records.csv", "order", "status", "at", "sequence", "source")
	for i := range orders {
		number := fmt.Sprintf("W-%d", 90+i)
		start := w.IntN(50)
		near := func(chance int) string { return w.rarely(chance, w.day(start+w.IntN(16)-3)) }
		value, currency := "", w.some("EUR", "OMR", "JPY")
		if w.IntN(5) > 0 {
			value = w.some("10", "0", "25", "-10", "1000")
		}
		if value == "" {
			currency = w.rarely(3, currency)
		}
		w.row("orders.csv", number, w.rarely(8, w.some("Clover", "Heather", "Ivy")), w.rarely(9, w.some("North", "South", "West", "East")),
			w.rarely(6, w.some("Oman", "Canada", "North")), w.rarely(3, w.some("Vell", "Dhow", "Upper")), w.rarely(5, w.some("Vell", "Quay", "Elsewhere")), w.rarely(4, w.some("web", "phone")),
			w.timed(w.rarely(12, w.day(start))), near(3), near(4), w.timed(near(3)), near(4), near(2), near(3), near(2), w.timed(w.rarely(2, near(2))), value, currency, w.some("B1", "B2", ""))
		w.parts(number, start, currency)
		w.statuses(number, start)
	}
	files := map[string]string{"north.ics": wildCalendar(depots[0], "North"), "vell.ics": wildCalendar(depots[1], "Vell")}
	for name, text := range w.files {
		files[name] = text.String()
	}
	return files
}

// wildCalendar is the calendar of a depot under another name, six years earlier.
func wildCalendar(of depot, name string) string {
	return strings.ReplaceAll(strings.ReplaceAll(of.calendarFile(), of.name, name), "2031", "2025")
}

// parts draws lines, shipments and payments of an order.
func (w *wildBook) parts(number string, start int, currency string) {
	near := func(chance int) string { return w.timed(w.rarely(chance, w.day(start+w.IntN(20)))) }
	form, lines := w.IntN(12), 1+w.IntN(3)
	for n := range lines {
		units, gone, on, shipped, delivered := fmt.Sprint(w.IntN(6)), "", "", "", ""
		if w.IntN(3) == 0 {
			gone, on = fmt.Sprint(w.IntN(7)), w.timed(w.rarely(3, w.day(start+w.IntN(30))))
		}
		switch form {
		case 0, 1: // no lines
			continue
		case 2:
			shipped, delivered = near(3), near(3)
			units = w.rarely(4, units)
		case 3:
			units, gone, on = "", "", ""
		case 8, 9: // everything at once
			if units = w.rarely(7, w.some(units, units, "-2", "0.5", "7")); w.IntN(4) == 0 {
				shipped, delivered = near(2), near(3)
			}
			if units == "" {
				gone, on = "", ""
			}
		case 10, 11: // shipments of lines and of whole orders, one after the other
			units, gone, on = fmt.Sprint(2+w.IntN(3)), w.some("", "", "1"), ""
		}
		value := w.rarely(4, w.some("5", "2.5", "0"))
		if currency == "" {
			value = "" // a value needs a currency
		}
		w.row("lines.csv", number, n+1, w.rarely(9, "P"+fmt.Sprint(n)), units, gone, on, value, shipped, delivered, w.some("", "a", "b"))
	}
	shipments := w.IntN(4)
	if form > 9 {
		shipments = 3 + w.IntN(3)
	}
	for n := range shipments {
		line, units := "", fmt.Sprint(1+w.IntN(6))
		switch form {
		case 0, 2:
			continue
		case 1, 3:
			units = w.rarely(2, units)
		case 4:
			units = ""
		case 5, 6:
			line = fmt.Sprint(1 + w.IntN(lines))
		case 10, 11:
			if line, units = w.rarely(2, fmt.Sprint(1+w.IntN(lines))), fmt.Sprint(1+w.IntN(4)); line != "" {
				units = w.rarely(6, units)
			}
			w.row("shipments.csv", number, fmt.Sprintf("S%d", 9+n), line, "Own", units, w.timed(w.day(start+w.IntN(9))), near(2))
			continue
		case 8, 9:
			line, units = w.rarely(2, fmt.Sprint(1+w.IntN(lines+1))), w.rarely(5, w.some(units, units, "1.5", "0"))
		}
		w.row("shipments.csv", number, fmt.Sprintf("S%d", 9+n), line, w.some("", "Own", "Ox"), units, near(4), near(2))
	}
	for n := range w.IntN(4) {
		w.row("payments.csv", number, fmt.Sprintf("R-%s-%d", number, 9+n), near(5), w.rarely(6, w.some("5", "10", "-5", "20", "990")),
			w.rarely(2, w.some(currency, currency, "NZD")))
	}
}

// statuses draws status records of an order: of changes, of a daily list or of both, some of one moment.
func (w *wildBook) statuses(number string, start int) {
	came := map[string]bool{}
	for range w.IntN(7) {
		source, at := w.some("event", "event", "daily"), w.day(start+w.IntN(12))
		if source == "event" {
			at = w.timed(at)
		}
		if number[len(number)-1]%2 == 0 {
			source = w.some("event", "daily") // many have one source alone
		}
		cells := []any{number, w.some("new", "packing", "packing", "gone", "Gone!"), at, w.rarely(2, w.some("1", "2", "10")), source}
		if key := fmt.Sprint(cells[1:]...); !came[key] {
			came[key] = true
			w.row("records.csv", cells...)
		}
	}
}

// wildMilestones are those that wild questions ask about.
var wildMilestones = []string{"ordered", "requested", "promised", "shipped", "expected", "delivered", "invoiced", "paid", "cancelled",
	"first-shipped", "first-delivered", "first-paid", "invoiced-or-shipped"}

// wildLabels are those of wild books; one asks about the other.
var wildLabels = []api.Label{
	{Name: "speed", Definition: api.LabelDefinition{Rules: []api.LabelRule{{Where: "working_days(ordered, shipped) <= 2", Text: "quick"}, {Where: "shipped > promised", Text: "late"}}, Rest: "slow",
		Missing: "open"}},
	{Name: "care", Definition: api.LabelDefinition{Rules: []api.LabelRule{{Where: `speed == "late" && site != "West"`, Text: "call"}, {Where: "requested == null", Text: "ask"}}, Missing: "none"}},
}

// question draws a question.
func (w *wildBook) question() string {
	words := url.Values{}
	set := func(name string, of ...string) {
		if text := w.some(of...); text != "" {
			words.Set(name, text)
		}
	}
	set("period", "", "", "2025-05", "2025-06", "2025-05-01", "2025-06-15", "2025-06-14/2025-06-16", "2025-W22", "2025-05-20/2025-06-02", "2025-05,2025-06")
	if w.IntN(2) == 0 {
		words.Set("where", w.condition(2))
	}
	fields := []string{"site", "channel", "place", "country", "currency", "customer", "region", "berth"}
	if w.IntN(3) == 0 { // told by lists, by statuses, by all orders together, and by rule
		fields = []string{"customer-country", "customer-contact", "site-region", "place-region", "status", "status-since", "asked", "first-order", "speed", "care"}
	}
	by := w.some(append(fields, "", "", "month", "week", "day", "month(shipped)", "quarter(delivered)", "weekday", "month-of-year(delivered)")...)
	if by != "" && w.IntN(3) == 0 {
		if other := w.some(fields...); other != by {
			by += "," + other
		}
	}
	analysis := w.some("took", "took", "took", "places", "open", "immediate", "crosstab", "crosstab", "compare", "due", "orders", "immediate-customers", "status-periods", "status-latest", "status-times", "status-transitions")
	if by != "" && analysis[0] != 'c' && analysis != "due" && analysis[0] != 's' && analysis != "places" && analysis != "immediate-customers" && (analysis == "took" || !strings.ContainsAny(by, "(") && !strings.Contains("month weekday", strings.Split(by, ",")[0])) {
		words.Set("by", by)
	}
	switch analysis {
	case "took":
		set("from", wildMilestones...)
		set("to", wildMilestones...)
		set("basis", append([]string{"", "", ""}, wildMilestones...)...)
		set("in", "", "", "days", "weeks", "months", "years", "months-crossed", "years-crossed", "months-fraction", "hours", "hours", "hours", "hours")
		if in := words.Get("in"); in == "" || in == "days" || in == "weeks" {
			set("count", "", "both-ends")
		}
		set("calendar", "", "destination")
		set("cut_off", "", "off")
		set("show", "", "mean,median,standard-deviation,p25,p90")
		if w.IntN(4) == 0 {
			set("through", "shipped", "delivered", "shipped,delivered", "invoiced,first-paid")
		} else if w.IntN(2) == 0 {
			set(w.some("over", "at_least"), "0", "1", "2", "5")
			set("promise", "", "requested", "promised", "expected", "0", "1", "3", "10", "150")
			set("with_running", "", "true")
			set("keep", "", "50", "25,80,90")
		}
	case "places":
		set("by", "", "region", "country", "site-place")
		set("to", wildMilestones...)
		set("in", "", "days", "weeks")
		switch set("show", "", "mean", "p90", "over", "late"); words.Get("show") {
		case "over":
			set("over", "1", "3")
		case "late":
			set("promise", "", "requested", "2")
		}
		set("calendar", "", "destination")
	case "open":
		set("from", "", "shipped", "delivered", "first-shipped")
		set("to", "", "delivered", "paid", "cancelled")
		set("closing_day", "", "out")
		set("each", "", "", "day", "week", "month")
		switch w.IntN(4) {
		case 0:
			words.Set("timeline", "true")
			set("in", "", "days", "months")
		case 1:
			words.Set("ages", "true")
			set("in", "", "days", "weeks", "months")
			set("count", "", "both-ends")
			set("calendar", "", "destination")
			set("buckets", "", "0,1,3")
			set("at", "", "", "2025-05-31", "2025-06-14")
		}
	case "immediate":
		set("orders", "", "first", "first-within")
		set("cancelled", "", "out")
		set("no_requested_date", "", "in")
		set("achieved", "", "delivered")
		set("basis", "", "", "shipped", "requested")
	}
	if analysis[0] == 's' {
		set("in", "", "", "days", "weeks", "hours")
		set("calendar", "", "destination")
		set("source", "", "", "event", "daily")
		set("max_gap", "", "", "1", "3")
	}
	switch analysis {
	case "status-latest":
		words.Del("period")
		set("at", "", "", "2025-05-01", "2025-05-20", "2025-06-14")
		set("by", append([]string{"", "", "month", "week(shipped)", "weekday"}, fields...)...)
	case "immediate-customers":
		set("basis", "", "", "shipped")
		set("cancelled", "", "out")
		set("change", "", "", "ahead-then-immediate", "immediate-then-ahead", "none")
	case "status-periods":
		set("status_periods", "", "", "period.length > 2", `period.status < "m"`)
		set("status", "", "", "packing", "not seen")
	case "status-times":
		if set("by", append([]string{"", "", "month", "week(shipped)"}, fields...)...); words.Get("by") == "" {
			set("each", "", "day", "week", "month")
		}
		set("status_periods", "", "", "period.length > 2", `period.until == null || period.status < "m"`,
			`!(period.from >= "2025-05-20") && period.length != 1`)
	case "crosstab", "compare":
		set("show", "", "lines", "lines", "units", "value", "value", "shipments", "payments", "median", "mean", "immediate", "one-shipment", "share",
			"units,value", "orders,lines,shipments", "mean,p90,orders", "payments,value,immediate", "value,lines")
	}
	if analysis == "crosstab" || analysis == "compare" {
		w.countParts(analysis, words)
	}
	switch analysis {
	case "crosstab":
		set("basis", append([]string{"", "shipped", "shipped", "shipped", "delivered", "delivered", "shipped,paid", "ordered,delivered,shipped"}, wildMilestones...)...)
		if words.Get("rows") == "" {
			set("rows", append([]string{"", "month", "week", "quarter(delivered)", "weekday", "month-of-year", "week(line.delivered)"}, fields...)...)
		}
		set("columns", append([]string{"", "", "day", "year", "month(shipped)", "day(line.shipped)"}, fields...)...)
		if w.IntN(3) == 0 && !strings.Contains(words.Get("show"), ",") {
			set("top", "1", "2", "3")
			set("sort", "", "total", "name", "2025-06", "2025", "North", "web")
		}
	case "due":
		set("to", "", "delivered", "paid", "first-shipped")
		if w.IntN(2) == 0 {
			set("after", "0", "1", "5", "150")
			set("cut_off", "", "off")
		} else {
			set("plan", "", "requested", "promised")
		}
		set("within", "", "0", "3")
	case "orders":
		set("from", "", "shipped")
		set("to", "", "", "delivered", "paid")
		set("in", "", "", "days", "hours")
		set("basis", "", "", "shipped", "promised")
		set("state", "", "", "running", "counted", "end-before-start", "no-start")
		set("placed", "", "", "", "outside", "undated", "unmet")
		set("sort", "", "-number", "-ordered", "site,-length", "value,shipped")
		set("columns", "", "", "number,ordered,shipped,delivered,value,length,state", `number,status,asked,days(ordered,paid) as "Waited",lines,size(customer),speed`)
		words.Del("by")
		if w.IntN(3) == 0 {
			words.Set("by", "site,status")
			words["group"] = []string{w.some("North", "South", ""), w.some("new", "packing", "")}
		}
	case "compare":
		set("basis", "", "shipped,paid", "promised,first-shipped", "delivered")
		set("each", "", "day", "week", "quarter")
		set("empty", "", "", "hidden", "alone")
	}
	return analysis + "?" + words.Encode()
}

// drawSteadyBook draws half a year of orders from which forecasts can be told, up to a Friday. Of the route of one site exactly as many
// have shipped at the end of February as are enough, half of them after one working day; of that of another one fewer.
func drawSteadyBook(seed uint64) map[string]string {
	w := &wildBook{rand.New(rand.NewPCG(seed, 24)), map[string]*strings.Builder{}}
	w.row("sites.csv", "site", "zone", "cut-off")
	w.row("sites.csv", "North", "Pacific/Auckland", "14:00")
	w.row("orders.csv", "number", "site", "place", "channel", "ordered", "shipped", "cancelled", "value", "currency")
	w.row("lines.csv", "order", "line", "units", "cancelled units", "line cancelled")
	w.row("shipments.csv", "order", "shipment", "shipped")
	count := 0
	order := func(site, place string, ordered string, shipped, cancelled any) string {
		count++
		number := fmt.Sprintf("S-%d", count)
		w.row("orders.csv", number, site, place, w.some("web", "phone", ""), ordered, shipped, cancelled, w.some("5", "20"), "EUR")
		return number
	}
	const february, march = -89, -61 // the days before the first of May on which these months began: both were Saturdays
	for range 900 {
		start := -115 + w.IntN(159)
		number := order(w.some("North", "South", "South", ""), w.some("Quay", "Vell", ""), w.timed(w.day(start)), w.rarely(9, w.day(start+w.IntN(16))),
			w.some("", "", "", "", "", "", w.day(start+w.IntN(30))))
		switch w.IntN(12) {
		case 0:
			w.row("lines.csv", number, 1, 3, w.some("1", "2", "3"), w.day(start+w.IntN(40)))
		case 1:
			w.row("shipments.csv", number, "a"+number, w.day(start+w.IntN(20)))
			w.row("shipments.csv", number, "b"+number, w.day(start+w.IntN(40)))
		}
	}
	for i := range 30 {
		length := 1 + i%2*2
		order("Enough", "Bay", w.day(february+2+i%2), w.day(february+2+i%2+length), "")
		last := w.day(march - 1) // a Friday
		if i == 29 {
			last = w.day(march + 2)
		}
		order("Short", "Bay", w.day(march-2), last, "")
		order("Limit", "Bay", w.day(march+2), w.day(march+16), "")
	}
	order("Limit", "Bay", w.day(29), "", "") // of which the forecast is the data date
	for _, site := range []string{"Enough", "Short"} {
		for _, place := range []string{"Bay", "Cove"} {
			order(site, place, w.day(march-1), w.day(march+3), "")
		}
	}
	files := map[string]string{}
	for name, text := range w.files {
		files[name] = text.String()
	}
	return files
}

// forecastQuestion draws a question about forecasts.
func (w *wildBook) forecastQuestion() string {
	words := url.Values{"period": {w.some("", "2025-02", "2025-05", "2025-02,2025-03", "2025-01-31/2025-04-30")}}
	if w.IntN(3) > 0 {
		words.Set("where", w.some(w.condition(2), w.condition(1), fmt.Sprintf("site == %q", w.some("Enough", "Short", "Limit"))))
	}
	return "forecast?" + words.Encode()
}

// countParts draws groups of parts, and a condition on them, for a count that may have such.
func (w *wildBook) countParts(analysis string, words url.Values) {
	part, groups, conditions := "lines", []string{"product", "category", "batch"}, []string{"line.delivered > requested", "line.shipped == shipped",
		"line.units > 2", `line.product == "P1" && line.line_value != null`, "!(line.line_cancelled < promised)", `line.category != "small"`,
		"line.line_shipped == null || line.shipped > line.line_shipped", `line.delivered >= "2025-05-20" && site == "North"`, "line.cancelled_units >= 1"}
	switch show := words.Get("show"); show {
	case "shipments":
		part, groups, conditions = show, []string{"shipments.carrier"}, []string{"shipment.shipped > promised", "shipment.units < 3",
			"shipment.delivered == null", `shipment.carrier == "Own"`}
	case "payments":
		part, groups, conditions = show, []string{"payments.currency"}, []string{"payment.paid > invoiced", "payment.amount >= 10", "payment.currency == currency"}
	case "orders,lines,shipments", "mean,p90,orders", "payments,value,immediate": // no parts are those of all
		return
	case "", "immediate", "one-shipment":
		conditions = nil
	case "share":
		conditions = nil
		words.Set("meets", w.condition(1))
	case "median", "mean":
		conditions = nil
		words.Set("from", w.some(wildMilestones...))
		words.Set("to", w.some(wildMilestones...))
		words.Set("in", w.some("working-days", "days", "hours"))
	}
	if groups != nil && w.IntN(2) == 0 && analysis == "crosstab" {
		words.Set("rows", w.some(groups...))
	}
	if conditions != nil && w.IntN(2) == 0 {
		words.Set(part, w.some(conditions...))
	}
}

// condition draws a condition.
func (w *wildBook) condition(deep int) string {
	if deep > 0 && w.IntN(2) == 0 {
		switch x, y := w.condition(deep-1), w.condition(deep-1); w.IntN(3) {
		case 0:
			return "(" + x + " && " + y + ")"
		case 1:
			return "(" + x + " || " + y + ")"
		default:
			return "!(" + x + ")"
		}
	}
	date := func() string { return strings.ReplaceAll(w.some(wildMilestones[:12]...), "-", "_") }
	sign := w.some("==", "!=", "<", "<=", ">", ">=")
	switch w.IntN(11) {
	case 10:
		return fmt.Sprintf("%s %s %s", w.some("status_age", "returns", "size(lines)", "size(shipments)", "size(customer)"), sign, w.some("0", "1", "2", "4"))
	case 9:
		part := w.IntN(3)
		on, amount := w.some([][]string{{"line_shipped", "line_delivered", "line_cancelled"}, {"shipped", "delivered"}, {"paid"}}[part]...), []string{"units", "units", "amount"}[part]
		return []string{"lines", "shipments", "payments"}[part] + w.some(".exists(x, ", ".all(x, ") + strings.NewReplacer("DAY", on, "AMOUNT", amount).Replace(
			w.some("x.DAY > promised", "x.DAY == null", `x.DAY <= "2025-05-25"`, "x.AMOUNT > 2 || x.DAY == null", "!(x.DAY >= shipped)")) + ")"
	case 8:
		return fmt.Sprintf("%s(%s, %s) %s %s", w.some("working_days", "days", "working_days_so_far", "days_so_far", "weeks", "hours"), date(), date(), sign, w.some("0", "2", "5"))
	case 7:
		return w.some("part_shipped", "part_delivered", "part_paid", `speed == "quick"`, `care != "none"`, `status in ["new", "gone"]`, `asked != "immediate"`,
			`first_order == "yes"`, `customer_country == "Oman" || site_region == null`, `status_since > "2025-05-20"`, `state(ordered, paid) == "running"`)
	case 6:
		return fmt.Sprintf("%s.%s(%q)", w.some("site", "channel", "number", "place"), w.some("startsWith", "endsWith", "contains"), w.some("o", "W-1", "th", "web", ""))
	case 0:
		return fmt.Sprintf("%s %s %q", w.some("site", "channel", "customer"), sign, w.some("North", "web", "Ivy", "M"))
	case 1:
		return fmt.Sprintf("%s %s null", w.some(date(), "site", "value", "currency"), w.some("==", "!="))
	case 2:
		return fmt.Sprintf("%s %s %s", date(), sign, date())
	case 3:
		return fmt.Sprintf("%s %s %q", date(), sign, w.day(w.IntN(60)))
	case 4:
		return fmt.Sprintf("value %s %s", sign, w.some("0", "10", "7.5"))
	default:
		return fmt.Sprintf("%s in [%q, %q]", w.some("site", "country"), w.some("North", "Oman"), w.some("South", "Canada"))
	}
}

// PostgreSQL finds the same figures as the core, of random questions about wild books: two implementations that share no rule.
func TestPostgreSQLFindsTheSame(t *testing.T) {
	wild := func(seed uint64) map[string]string { return drawWildBook(seed, 120) }
	for _, of := range []struct {
		seed      uint64
		book      func(seed uint64) map[string]string
		dataDate  string
		questions int
		question  func(*wildBook) string
	}{{3, wild, wildDate, 1000, (*wildBook).question}, {5, wild, wildDate, 1000, (*wildBook).question},
		{7, drawSteadyBook, "2025-06-13", 30, (*wildBook).forecastQuestion}} {
		t.Run(fmt.Sprint(of.seed), func(t *testing.T) {
			s := startService(t)
			folder := t.TempDir()
			var paths []string
			for name, text := range of.book(of.seed) {
				paths = append(paths, filepath.Join(folder, name))
				require.NoError(t, os.WriteFile(paths[len(paths)-1], []byte(text), 0o600))
			}
			load, err := s.Load(t.Context(), paths)
			require.NoError(t, err)
			require.Zero(t, load.SetAside)
			_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: of.dataDate})
			require.NoError(t, err)
			for _, l := range wildLabels {
				_, err = s.SaveLabel(t.Context(), l.Name, l.Definition, false)
				require.NoError(t, err)
			}
			w := &wildBook{Rand: rand.New(rand.NewPCG(of.seed, 7))}
			questions := make([]string, of.questions)
			for i := range questions {
				questions[i] = of.question(w)
			}
			assert.Greater(t, s.sameBySQL(t, questions), of.questions*3/4)
		})
	}
}

// It does so of every kind of question about the demo.
func TestPostgreSQLFindsTheSameOfTheDemo(t *testing.T) {
	s, _ := demoService(t)
	questions := []string{"took?by=site,month", "took?to=delivered&calendar=destination&by=month", "took?from=promised&to=delivered",
		"took?from=shipped&to=paid&in=days&by=channel", "took?count=both-ends&by=site", "took?cut_off=off&by=quarter", "took?to=first-paid&by=currency",
		"took?in=months&to=paid", "took?from=delivered&to=invoiced-or-shipped", "took?to=returned&show=mean,standard-deviation,p10",
		"took?where=value+%3E+100+%7C%7C+site+in+%5B%22Galway%22%5D", "took?where=promised+%21%3D+shipped&period=2026-Q3&by=week",
		"open?period=2026-Q3&by=site", "open?period=2026-09&timeline=true", "open?period=2026-Q3,2025-Q3&each=month&by=site", "open?ages=true&by=site,channel", "open?ages=true&each=month&period=2026-Q3", "took?through=shipped,delivered&to=paid&by=site,month", "open?period=2026-07&closing_day=out", "open?from=delivered&to=paid&period=2026-08&by=channel",
		"immediate?by=site", "immediate?orders=first&by=site", "immediate?orders=first-within&period=2026-Q3,2026-Q1", "immediate?cancelled=out&no_requested_date=in&achieved=delivered",
		"crosstab?rows=month&columns=site&period=2026-Q3", "crosstab?rows=site&columns=month(delivered)", "crosstab?rows=week&basis=promised",
		"compare?basis=shipped,delivered,paid&each=week", "due", "due?after=5", "due?to=delivered&plan=promised&period=2026-10",
		"crosstab?rows=site&columns=month&show=value&basis=shipped", "crosstab?rows=site&show=lines&basis=delivered", "crosstab?rows=month&show=payments&basis=paid",
		"compare?show=units", "status-latest", "status-latest?by=site&at=2026-07-01", "status-times?by=site&in=days", "status-times?status_periods=period.length>3", "status-times?source=daily&max_gap=3",
		"status-transitions?period=2026", "places?to=delivered&show=p90", "places?by=site-place", "places?show=late",
		"took?by=site&keep=80,90,95&with_running=true&over=5&promise=promised", "took?by=month,site&at_least=3&in=days&promise=5&period=2025,2026&keep=90", "crosstab?rows=site&columns=month&show=median",
		"crosstab?rows=category&columns=channel&show=units&basis=shipped&period=2026-Q2&where=site+%3D%3D+%22Galway%22&lines=line.delivered+%3E+requested",
		"crosstab?rows=product&columns=quarter&show=value&basis=delivered", "crosstab?rows=category&columns=month&show=share&meets=shipped+%3D%3D+ordered",
		"compare?show=immediate&basis=ordered,shipped", "forecast", "forecast?period=2026-02-10/2026-09-30&where=site+%3D%3D+%22Galway%22"}
	assert.Equal(t, len(questions), s.sameBySQL(t, questions))
}

// sameBySQL holds the answers to questions against what PostgreSQL makes of them, and says how many of them could be.
func (s service) sameBySQL(t *testing.T, questions []string) int {
	next := make(chan string)
	var asking sync.WaitGroup
	var answered, figures atomic.Int64
	for range 3 {
		asking.Go(func() {
			for question := range next {
				status, d, problem := s.secondOpinion(t, question)
				if status == http.StatusUnprocessableEntity {
					continue
				}
				if !assert.Equal(t, http.StatusOK, status, "%s: %s", question, problem) {
					continue
				}
				answered.Add(1)
				table := d.Parts[0].Tables[0]
				figures.Add(int64(table.All))
				for _, r := range table.Rows {
					if *r.Cells[4].Number == 0 {
						assert.Fail(t, "PostgreSQL differs", "%s\n%s: %q, by SQL %q", question, r.Cells[0].Text, r.Cells[1].Text, r.Cells[2].Text)
						break
					}
				}
			}
		})
	}
	for _, question := range questions {
		next <- question
	}
	close(next)
	asking.Wait()
	t.Logf("%d of %d questions answered, with %d figures", answered.Load(), len(questions), figures.Load())
	return int(answered.Load())
}

// secondOpinion asks for what PostgreSQL makes of a question.
func (s service) secondOpinion(t *testing.T, question string) (status int, d *answer.Document, problem string) {
	request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.address+"/api/v1/second-opinion?question="+url.QueryEscape(question), nil)
	if !assert.NoError(t, err) {
		return 0, nil, ""
	}
	request.Header.Set("Authorization", "Bearer "+s.token)
	response, err := http.DefaultClient.Do(request)
	if !assert.NoError(t, err) {
		return 0, nil, ""
	}
	defer response.Body.Close()
	if response.StatusCode != http.StatusOK {
		var said struct{ Detail string }
		_ = json.NewDecoder(response.Body).Decode(&said)
		return response.StatusCode, nil, said.Detail
	}
	d = &answer.Document{}
	return response.StatusCode, d, fmt.Sprint(json.NewDecoder(response.Body).Decode(d))
}
