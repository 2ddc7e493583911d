package recognise

import (
	"fmt"
	"math/bits"
	"strconv"
	"strings"
	"time"

	"prairiedusk/internal/core/day"
)

// A DateForm is how dates of a column are written.
type DateForm uint8

const (
	DayFirst     DateForm = iota // 04/07/2026 is 4 July
	MonthFirst                   // 04/07/2026 is 7 April
	YearFirst                    // 26-07-04 is 4 July 2026
	DayNumbers                   // of a spreadsheet: 46207
	Seconds                      // since 1970, in UTC
	Milliseconds                 // since 1970, in UTC
	dateForms
)

func (f DateForm) String() string {
	return [...]string{"day-first", "month-first", "year-first", "day numbers", "seconds since 1970", "milliseconds since 1970"}[f]
}

// ParseDateForm reads the name of a form that can be asked for.
func ParseDateForm(name string) (DateForm, bool) {
	for f := DayFirst; f <= YearFirst; f++ {
		if f.String() == name {
			return f, true
		}
	}
	return 0, false
}

type dateMask uint8

const (
	// written are the forms in which days and months stand beside each other; whatever tells them apart fits all of these.
	written  dateMask = 1<<DayFirst | 1<<MonthFirst | 1<<YearFirst
	allDates dateMask = 1<<dateForms - 1
)

func (m dateMask) has(f DateForm) bool { return m&(1<<f) != 0 }

func (m dateMask) words() string {
	var names []string
	for f := range dateForms {
		if m.has(f) {
			names = append(names, f.String())
		}
	}
	return strings.Join(names, " or ")
}

// Dates looks at the cells of a column of dates.
type Dates struct {
	left     dateMask
	seen     int
	timed    int               // cells with a time of day
	midnight int               // of those, midnight in UTC
	forms    int               // cells that do not tell day and month apart by themselves
	differ   [3][3]Reason      // the first cell that two forms read as different days
	excluded [dateForms]Reason // the first cell that excludes a form
	odd      []Reason          // the first cells that are no dates at all
	strange  int               // all of them
	latest   [dateForms]day.Day
}

// NewDates begins to look.
func NewDates() *Dates { return &Dates{left: allDates} }

// mostOdd is how many cells that are no dates are named.
const mostOdd = 3

// Look takes a filled cell in.
func (c *Dates) Look(row int, text string) {
	c.seen++
	read := readDate(text)
	if read.fits == 0 {
		if c.strange++; len(c.odd) < mostOdd {
			c.odd = append(c.odd, Reason{row, text, "is no date"})
		}
		return
	}
	if read.clock != "" {
		c.timed++
		if read.midnight() {
			c.midnight++
		}
	}
	for f := DayFirst; f <= YearFirst; f++ {
		c.latest[f] = max(c.latest[f], read.days[f])
	}
	for f := DayNumbers; f < dateForms; f++ {
		if read.fits.has(f) {
			c.latest[f] = max(c.latest[f], day.FromTime(read.instant(f)))
		}
	}
	if !read.tells() {
		c.forms++
		for f := DayFirst; f <= YearFirst; f++ {
			for g := DayFirst; g < f; g++ {
				if read.fits.has(f) && read.fits.has(g) && read.days[f] != read.days[g] && c.differ[f][g].Row == 0 {
					c.differ[f][g] = Reason{Row: row, Text: text}
				}
			}
		}
	}
	if lost := c.left &^ read.fits; lost != 0 {
		c.left &^= lost
		for f := range dateForms {
			if lost.has(f) {
				c.excluded[f] = Reason{row, text, "can only be " + read.fits.words()}
			}
		}
	}
}

// A DateVerdict is what the cells of a column of dates come to.
type DateVerdict struct {
	Answer Answer
	// Forms are those that fit all dates; of Sure it is one, which says nothing where all cells tell day and month apart.
	Forms []DateForm
	// Plain says that every cell is written as ISO 8601 has it, or tells day and month apart in another way.
	Plain bool
	// Days says that all cells are midnights in UTC: days, whatever they look like.
	Days bool
	// Example is a cell that can be read in several ways, with what each makes of it: "04/07/2026 is 4 July 2026 or 7 April 2026".
	Example string
	// Because are the cells that exclude forms.
	Because []Reason
	// Seen and Strange are how many cells are filled, and how many of them are no dates in any form; Odd are the first of those.
	Seen, Strange int
	Odd           []Reason
	// Latest is the last day, by form.
	Latest [dateForms]day.Day
}

// Verdict ends the looking.
func (c *Dates) Verdict() DateVerdict {
	v := DateVerdict{Seen: c.seen, Strange: c.strange, Odd: c.odd, Latest: c.latest, Days: c.timed > 0 && c.midnight == c.seen-c.strange}
	for f := range dateForms {
		if c.left.has(f) {
			v.Forms = append(v.Forms, f)
		}
		if r := c.excluded[f]; r.Row != 0 && written.has(f) && !contains(v.Because, r) && c.forms > 0 {
			v.Because = append(v.Because, r)
		}
	}
	switch {
	case c.seen == c.strange || c.left == 0:
		v.Forms = nil
	case c.forms == 0:
		v.Answer, v.Plain, v.Forms = Sure, true, []DateForm{DayFirst}
	case bits.OnesCount8(uint8(c.left)) > 1:
		v.Answer, v.Example = c.example()
		if v.Answer == Sure {
			v.Forms = v.Forms[:1] // they agree on every cell
		}
	default:
		v.Answer = Sure
	}
	return v
}

// example is a cell on which two forms that are left differ; sure where there is none.
func (c *Dates) example() (Answer, string) {
	for f := DayFirst; f <= YearFirst; f++ {
		for g := DayFirst; g < f; g++ {
			differs := c.differ[f][g]
			if differs.Row == 0 || !c.left.has(f) || !c.left.has(g) {
				continue
			}
			var ways []string
			for form := DayFirst; form <= YearFirst; form++ {
				if at, ok := form.moment(differs.Text); ok && c.left.has(form) {
					ways = append(ways, at)
				}
			}
			return Ask, differs.Text + " is " + strings.Join(ways, " or ")
		}
	}
	return Sure, ""
}

func contains(all []Reason, r Reason) bool {
	for _, other := range all {
		if other == r {
			return true
		}
	}
	return false
}

// moment is a date in words, as a form reads it.
func (f DateForm) moment(text string) (string, bool) {
	iso, ok := f.ISO(text, true)
	if !ok {
		return "", false
	}
	d, err := day.Parse(iso)
	if err != nil {
		return "", false
	}
	return d.Time().Format("2 January 2006"), true
}

// ISO is a date as ISO 8601 has it, read in a form; daysAlone leaves the time of day out. False for what is no date in that form.
func (f DateForm) ISO(text string, daysAlone bool) (string, bool) {
	read := readDate(text)
	if !read.fits.has(f) {
		return "", false
	}
	var d day.Day
	clock := read.clock
	switch f {
	case DayNumbers, Seconds, Milliseconds:
		at := read.instant(f)
		d = day.FromTime(at)
		if at.Hour()+at.Minute()+at.Second() > 0 || f != DayNumbers {
			clock = at.Format("15:04:05")
			if f != DayNumbers {
				clock += "Z"
			}
		}
	default:
		d = read.days[f]
	}
	if daysAlone || clock == "" {
		return d.String(), true
	}
	return d.String() + "T" + clock, true
}

// A readCell is what a cell can be.
type readCell struct {
	fits  dateMask
	days  [3]day.Day // by form, of those that are written
	clock string     // as ISO 8601 has it, with its distance from UTC
	value float64    // of a number
}

// tells says that no form reads the cell in another way.
func (r readCell) tells() bool {
	return r.fits == written && r.days[DayFirst] == r.days[MonthFirst] && r.days[DayFirst] == r.days[YearFirst]
}

func (r readCell) midnight() bool {
	return strings.HasPrefix(r.clock, "00:00") && strings.TrimLeft(r.clock[:8], "0:") == "" &&
		(strings.HasSuffix(r.clock, "Z") || strings.HasSuffix(r.clock, "+00:00"))
}

// instant is what a number counts to.
func (r readCell) instant(f DateForm) time.Time {
	switch f {
	case Seconds:
		return time.Unix(int64(r.value), 0).UTC()
	case Milliseconds:
		return time.UnixMilli(int64(r.value)).UTC()
	}
	// Spreadsheets count a 29 February 1900, which never was; no order is from before it.
	const seconds = 24 * 3600
	return time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.value*seconds+0.5) * time.Second)
}

// all is a day that no form reads in another way.
func (r *readCell) all(year, month, of int) {
	if d, ok := valid(year, month, of); ok {
		r.fits, r.days = written, [3]day.Day{d, d, d}
	}
}

func (r *readCell) as(f DateForm, year, month, of int) {
	if d, ok := valid(year, month, of); ok {
		r.fits |= 1 << f
		r.days[f] = d
	}
}

func valid(year, month, of int) (day.Day, bool) {
	if year < 1900 || year > 2199 || month < 1 || month > 12 || of < 1 || of > 31 {
		return 0, false
	}
	d := day.Of(year, time.Month(month), of)
	y, m, dom := d.Date()
	return d, d.Known() && y == year && int(m) == month && dom == of
}

// readDate tells what a cell can be.
func readDate(text string) (r readCell) {
	if len(text) == len("2026-07-04") && text[4] == '-' && text[7] == '-' { // most are
		r.numbers(text)
		return r
	}
	text = strings.TrimSpace(text)
	if len(text) > 60 {
		return r
	}
	date, clock, ok := cutClock(text)
	if !ok {
		return r
	}
	switch {
	case strings.ContainsFunc(date, isLetter):
		r.named(date)
	default:
		r.numbers(date)
		if r.fits == 0 && clock == "" {
			r.count(date)
		}
	}
	if r.fits != 0 {
		r.clock = clock
	}
	return r
}

// numbers reads three numbers with one separator between them, or eight digits.
func (r *readCell) numbers(text string) {
	var parts, widths [3]int
	at, separator, trailing := 0, byte(0), false
	for i := range len(text) {
		switch c := text[i]; {
		case c >= '0' && c <= '9':
			if parts[at], widths[at] = parts[at]*10+int(c-'0'), widths[at]+1; widths[at] > 8 {
				return
			}
		case (c == '/' || c == '-' || c == '.' || c == ' ') && widths[at] > 0 && at < 2 && (separator == 0 || separator == c):
			separator = c
			at++
		case c == ' ' && separator == '.' && widths[at] == 0: // "4. 7. 2026"
		case c == '.' && at == 2 && i == len(text)-1 && widths[2] > 0: // "26.07.04."
			trailing = true
		default:
			return
		}
	}
	a, b, c := parts[0], parts[1], parts[2]
	switch {
	case at == 0 && widths[0] == 8:
		if r.all(a/10000, a/100%100, a%100); r.fits == 0 {
			r.as(DayFirst, a%10000, a/10000%100, a/1000000)
			r.as(MonthFirst, a%10000, a/1000000, a/10000%100)
		}
	case at != 2 || widths[2] == 0 || widths[1] > 2:
	case widths[0] == 4 && widths[2] <= 2:
		r.all(a, b, c)
	case widths[0] > 2:
	case widths[2] == 4:
		r.as(DayFirst, c, b, a)
		r.as(MonthFirst, c, a, b)
	case widths[2] == 2:
		r.as(DayFirst, century(c), b, a)
		r.as(MonthFirst, century(c), a, b)
		if widths[0] == 2 && (separator != '.' || trailing) { // with points between them, a year of two digits comes last
			r.as(YearFirst, century(a), b, c)
		}
	}
}

// century is a year of two digits: of 1970 to 2069.
func century(year int) int {
	if year < 70 {
		return 2000 + year
	}
	return 1900 + year
}

// count reads a number that counts days or seconds, from about 1990 to 2100.
func (r *readCell) count(text string) {
	value, err := strconv.ParseFloat(text, 64)
	whole, _, fraction := strings.Cut(text, ".")
	if err != nil || strings.ContainsAny(text, "eE+-xXpPiInN_") {
		return
	}
	r.value = value
	switch {
	case len(whole) == 5 && value >= 32874 && value < 73415:
		r.fits = 1 << DayNumbers
	case fraction:
	case len(whole) == 10 && value < 4102444800 || len(whole) == 9 && value >= 631152000:
		r.fits = 1 << Seconds
	case len(whole) == 13 && value < 4102444800000 || len(whole) == 12 && value >= 631152000000:
		r.fits = 1 << Milliseconds
	}
}

func isLetter(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' || r > 0x7f }

// named reads a date whose month is a word.
func (r *readCell) named(text string) {
	month, numbers, widths := 0, []int{}, []int{}
	monthAt := -1
	for _, word := range strings.FieldsFunc(text, func(c rune) bool { return strings.ContainsRune(" -/.,'’\u00a0\u202f", c) }) {
		switch {
		case word[0] >= '0' && word[0] <= '9':
			digits := strings.TrimRight(strings.ToLower(word), "abcdefghijklmnopqrstuvwxyzº°ª")
			n, err := strconv.Atoi(digits)
			if suffix := strings.ToLower(word)[len(digits):]; err != nil || suffix != "" && !ordinals[suffix] {
				return
			}
			numbers, widths = append(numbers, n), append(widths, len(digits))
		default:
			word = Plain(word)
			if m := months[word]; m != 0 && month == 0 {
				month, monthAt = m, len(numbers)
			} else if !fillers[word] {
				return
			}
		}
	}
	if month == 0 || len(numbers) != 2 {
		return
	}
	of, year, yearWidth := numbers[0], numbers[1], widths[1]
	if widths[0] == 4 {
		of, year, yearWidth = numbers[1], numbers[0], widths[0]
	} else if monthAt == 2 {
		return // the day and the year before the month: nobody can tell
	}
	switch yearWidth {
	case 2:
		year = century(year)
	case 4:
	default:
		return
	}
	r.all(year, month, of)
}

// cutClock takes the time of day off a date, and writes it as ISO 8601 has it.
func cutClock(text string) (date, clock string, ok bool) {
	colon := strings.IndexByte(text, ':')
	if colon < 0 {
		return text, "", true
	}
	begin := colon
	for begin > 0 && text[begin-1] >= '0' && text[begin-1] <= '9' {
		begin--
	}
	date = strings.TrimRight(text[:begin], " ,\u00a0")
	if cut, t := strings.CutSuffix(date, "T"); t && cut != "" && cut[len(cut)-1] >= '0' && cut[len(cut)-1] <= '9' {
		date = cut
	}
	clock, ok = readClock(text[begin:])
	return date, clock, ok && date != "" && begin > 0
}

// readClock reads "14:30", "2:30:05.25 pm", "14:30:00Z", "14:30 +0200" and "14:30 UTC".
func readClock(text string) (string, bool) {
	end := strings.IndexFunc(text, func(r rune) bool { return (r < '0' || r > '9') && r != ':' && r != '.' })
	rest := ""
	if end >= 0 {
		text, rest = text[:end], strings.ToLower(strings.TrimSpace(text[end:]))
	}
	text, _, _ = strings.Cut(text, ".")
	parts := strings.Split(text, ":")
	if len(parts) < 2 || len(parts) > 3 {
		return "", false
	}
	var numbers [3]int
	for i, part := range parts {
		n, err := strconv.Atoi(part)
		if err != nil || len(part) > 2 {
			return "", false
		}
		numbers[i] = n
	}
	for _, half := range []struct {
		word string
		adds int
	}{{"am", 0}, {"a.m.", 0}, {"pm", 12}, {"p.m.", 12}} {
		if after, is := strings.CutPrefix(rest, half.word); is {
			if numbers[0] < 1 || numbers[0] > 12 {
				return "", false
			}
			numbers[0], rest = numbers[0]%12+half.adds, strings.TrimSpace(after)
			break
		}
	}
	if numbers[0] > 23 || numbers[1] > 59 || numbers[2] > 59 {
		return "", false
	}
	offset := ""
	switch rest {
	case "", "uhr", "h":
	case "z", "utc", "gmt":
		offset = "Z"
	default:
		rest = strings.TrimPrefix(strings.TrimPrefix(rest, "utc"), "gmt")
		digits := strings.Replace(strings.TrimLeft(rest, "+-"), ":", "", 1)
		if len(digits) == 2 {
			digits += "00"
		}
		n, err := strconv.Atoi(digits)
		if err != nil || len(digits) != 4 || len(rest) == 0 || rest[0] != '+' && rest[0] != '-' || n/100 > 23 || n%100 > 59 {
			return "", false
		}
		offset = rest[:1] + digits[:2] + ":" + digits[2:]
	}
	return fmt.Sprintf("%02d:%02d:%02d%s", numbers[0], numbers[1], numbers[2], offset), true
}
