package test

import (
	"encoding/csv"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/api"
)

// The second book: a ship chandler with two sites, weeks and holidays that the demo does not have, written as
// text and answered by walking days with time.Time. It shares no code with the generator or the core.
type depot struct {
	name     string
	rest     map[time.Weekday]bool
	holidays map[string]string
	extra    map[string]string
	weekend  string // BYDAY of the rest days
}

var depots = []depot{
	{"Port Vell", map[time.Weekday]bool{time.Sunday: true}, map[string]string{"2031-05-01": "May Day", "2031-05-12": "Regatta"},
		map[string]string{"2031-05-18": "Boat Show"}, "SU"},
	{"Dhow Quay", map[time.Weekday]bool{time.Thursday: true, time.Friday: true}, map[string]string{"2031-05-06": "Pearl Day",
		"2031-05-07": "Pearl Day", "2031-05-15": "Founders' Day"}, map[string]string{"2031-05-22": "Stocktake"}, "TH,FR"},
}

func (d depot) works(at time.Time) bool {
	day := at.Format(time.DateOnly)
	if d.extra[day] != "" {
		return true
	}
	return !d.rest[at.Weekday()] && d.holidays[day] == ""
}

func (d depot) calendarFile() string {
	lines := []string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//second book//EN", "NAME:" + d.name}
	event := func(day, summary, category string, more ...string) {
		lines = append(lines, "BEGIN:VEVENT", "UID:"+category+day, "DTSTAMP:20310101T000000Z",
			"DTSTART;VALUE=DATE:"+strings.ReplaceAll(day, "-", ""), "SUMMARY:"+summary, "CATEGORIES:"+category)
		lines = append(append(lines, more...), "END:VEVENT")
	}
	event("2030-01-01", "Rest", "WEEKEND", "RRULE:FREQ=WEEKLY;BYDAY="+d.weekend)
	for day, name := range d.holidays {
		event(day, name, "HOLIDAY")
	}
	for day, name := range d.extra {
		event(day, name, "WORKING DAY")
	}
	return strings.Join(append(lines, "END:VCALENDAR", ""), "\r\n")
}

// chandlerOrder is a row of the second book.
type chandlerOrder struct {
	number, depot, ordered, shipped, cancelled string
}

// chandlerBook draws orders whose legs come to every state; known says up to which day the records go.
func chandlerBook(random *rand.Rand, orders int) (rows []chandlerOrder, text string) {
	day := func(n int) string {
		return time.Date(2031, 4, 20, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n).Format(time.DateOnly)
	}
	var out strings.Builder
	writer := csv.NewWriter(&out)
	_ = writer.Write([]string{"Shipped", "NUMBER", "cancelled", "site", "ordered", "berth"})
	for i := range orders {
		start := random.IntN(40)
		o := chandlerOrder{number: fmt.Sprintf("CH/%d", i), depot: depots[random.IntN(2)].name, ordered: day(start)}
		switch random.IntN(10) {
		case 0: // waits
		case 1:
			o.cancelled = day(start + random.IntN(5))
		case 2:
			o.cancelled = day(start - 1 - random.IntN(5))
		case 3:
			o.shipped = day(start - 1 - random.IntN(5))
		case 4:
			o.ordered, o.shipped = "", day(start)
		default:
			o.shipped = day(start + random.IntN(20))
		}
		rows = append(rows, o)
		_ = writer.Write([]string{o.shipped, o.number, o.cancelled, o.depot, o.ordered, "B" + strconv.Itoa(i%7)})
	}
	writer.Flush()
	return rows, out.String()
}

// chandlerDate is the data date of the second book; its rows go beyond it.
const chandlerDate = "2031-05-24"

// loadChandler serves the second book.
func loadChandler(t *testing.T) (service, []chandlerOrder) {
	s := startService(t)
	rows, text := chandlerBook(rand.New(rand.NewPCG(20310501, 9)), 700)
	folder := t.TempDir()
	var paths []string
	for name, content := range map[string]string{"chandler.csv": text, "vell.ics": depots[0].calendarFile(),
		"dhow.ics": depots[1].calendarFile()} {
		path := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(path, []byte(content), 0o600))
		paths = append(paths, path)
	}
	load, err := s.Load(t.Context(), paths)
	require.NoError(t, err)
	require.Zero(t, load.SetAside)
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: chandlerDate})
	require.NoError(t, err)
	return s, rows
}

// TestTheSecondBookAgreesWithAPlainWalk compares every number of the answers about the second book.
func TestTheSecondBookAgreesWithAPlainWalk(t *testing.T) {
	s, rows := loadChandler(t)
	const dataDate = chandlerDate
	for _, in := range []string{"days", "working-days"} {
		for _, count := range []string{"elapsed", "both-ends"} {
			for _, month := range []string{"", "2031-05"} {
				t.Run(in+" "+count+" "+month, func(t *testing.T) {
					groups := gridOf(t, s.took(t, question{In: in, Count: count, Period: month, By: []string{"site"}}).Parts[0], "groups")
					require.Len(t, groups.Rows, 2)
					for _, g := range groups.rows() {
						compareGroup(t, groups, g, plainAnswer(rows, strings.TrimPrefix(groups.names(g), "all"), in, count, month,
							dataDate))
					}
				})
			}
		}
	}

	// Any order's strip adds up to its length, and names the holidays that it meets.
	listed, err := s.list(t, question{}, selection{State: "counted", Columns: "length, site", Sort: "-length", Limit: 30})
	require.NoError(t, err)
	for _, entry := range listed.Rows {
		order, err := s.Order(t.Context(), entry.Order, question{}.Words())
		require.NoError(t, err)
		counted := 0
		for _, d := range order.Strip {
			at, err := time.Parse(time.DateOnly, d.Day)
			require.NoError(t, err)
			works := depotNamed(entry.Cells[1].Text).works(at)
			assert.Equal(t, works, d.Part == "counted" || d.Part == "extra working day" || d.Part == "start" && works, "%s %s",
				entry.Order, d.Day)
			if d.Part == "counted" || d.Part == "extra working day" {
				counted++
			}
		}
		assert.Equal(t, entry.Cells[0].Text, fmt.Sprint(counted), entry.Order)
	}
}

type plain struct {
	states  map[string]int
	lengths []float64
}

func depotNamed(name string) depot {
	for _, d := range depots {
		if d.name == name {
			return d
		}
	}
	panic(name)
}

// plainAnswer answers from the rows: every order by itself, every day by itself.
func plainAnswer(rows []chandlerOrder, site, in, count, month, dataDate string) plain {
	p := plain{states: map[string]int{}}
	known := func(day string) string {
		if day > dataDate {
			return ""
		}
		return day
	}
	for _, o := range rows {
		ordered, shipped, cancelled := known(o.ordered), known(o.shipped), known(o.cancelled)
		if site != "" && o.depot != site || month != "" && !strings.HasPrefix(ordered, month) {
			continue
		}
		switch {
		case ordered == "" && o.ordered != "":
			p.states["not-yet-begun"]++
		case ordered == "":
			p.states["no-start"]++
		case shipped >= ordered:
			p.states["counted"]++
			p.lengths = append(p.lengths, walk(depotNamed(o.depot), ordered, shipped, in, count))
		case shipped != "":
			p.states["end-before-start"]++
		case cancelled == "":
			p.states["running"]++
		case cancelled < ordered:
			p.states["cancelled-before-start"]++
		default:
			p.states["cancelled"]++
		}
	}
	sort.Float64s(p.lengths)
	return p
}

func walk(d depot, from, to, in, count string) (length float64) {
	start, _ := time.Parse(time.DateOnly, from)
	end, _ := time.Parse(time.DateOnly, to)
	for at := start; !at.After(end); at = at.AddDate(0, 0, 1) {
		if (at.After(start) || count == "both-ends") && (in == "days" || d.works(at)) {
			length++
		}
	}
	return length
}

func compareGroup(t *testing.T, groups grid, got answer.Row, want plain) {
	sum := 0
	want.states["n"] = want.states["counted"]
	delete(want.states, "counted")
	for code, n := range want.states {
		assert.Equal(t, n, groups.count(got, code), "%v %s", got.Cells[0].Text, code)
		sum += n
	}
	assert.Equal(t, groups.count(got, "asked"), sum, "the reconciliation adds up")
	n := len(want.lengths)
	require.NotZero(t, n)
	total := 0.0
	for _, l := range want.lengths {
		total += l
	}
	rank := func(p float64) float64 {
		at := p * float64(n-1)
		low := want.lengths[int(at)]
		return low + (at-math.Floor(at))*(want.lengths[int(math.Ceil(at))]-low)
	}
	for code, x := range map[string]float64{"n": float64(n), "mean": total / float64(n), "median": rank(0.5), "p90": rank(0.9),
		"min": want.lengths[0], "max": want.lengths[n-1]} {
		assert.InDelta(t, x, groups.number(got, code), 1e-6, code)
	}
}
