package secondopinion

import (
	"fmt"
	"slices"
	"strings"

	"prairiedusk/internal/core/book"
	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/milestone"
	"prairiedusk/internal/present"
)

// dates are the first steps of every statement: the sites with their calendars, and the orders with the days on which they reached
// their milestones, as their lines, shipments and payments tell them. The last of them is the relation known, with a column for each
// milestone, as it is known at the data date, another for the day as recorded, and one for each field. With all lines it is
// followed of each what shipments take of it.
func dates(b *book.Book, allLines bool, of *told) string {
	return fmt.Sprintf(`-- The day up to which the records are complete.
ends AS (SELECT %s AS data_date),

-- Currencies, with how many decimals they have.
currency_decimals (currency, decimals) AS (VALUES %s),

%s-- Sites: the zone of their clocks, the time of day from which an order counts as one of the next working day, and the first calendar
-- that has the name of their own, of the site, of its region or of its country.
site AS (
  SELECT s.name, r.zone, nullif(r.cut_off, '')::time AS cut_off, (
    SELECT c.calendar FROM unnest(ARRAY[r.calendar, s.name, r.region, r.country]) WITH ORDINALITY AS n (name, place)
    JOIN (SELECT DISTINCT calendar FROM calendar_days) c ON lower(c.calendar) = lower(n.name)
    ORDER BY n.place LIMIT 1) AS calendar
  FROM (SELECT DISTINCT site AS name FROM orders WHERE site <> '') s
  LEFT JOIN sites r ON lower(r.site) = lower(s.name)),

-- Orders as recorded. A day that came with a time of day and its distance from UTC is that of the site's zone.
recorded AS (
  SELECT o.id, o."order", o.value, o.extra, s.zone, s.cut_off, coalesce(s.calendar, %s) AS calendar,
%s,
%s,
    %s AS ordered_time,
    %s AS ordered_at
  FROM orders o LEFT JOIN site s ON s.name = o.site),

%s,

-- What is known at the data date: a fact after it is not.
%s AS (
  SELECT id, "order", calendar, cut_off, ordered_time, ordered_at, form, worth, open_ended, part_paid, data_date,
%s
  FROM dated CROSS JOIN ends)%s`, date(b.Bounds().DataDate), currencies(b), shownPlaces(b), text(b.Calendars().All()[0].Name()), recordedDays(b), recordedFields(b),
		timeOf("o.extra ->> 'ordered'"), momentOf("(o.extra ->> 'ordered')", "s.zone"), goods(allLines), of.days(),
		knownDays(b), of.steps())
}

// knownDays are the columns of the relation known: each milestone as known and as recorded, and each field.
func knownDays(b *book.Book) string {
	var columns []string
	for _, m := range b.Milestones() {
		if m.Of != "" {
			continue
		}
		day := name(m.Name)
		if slices.Contains(toldByParts, m.Name) || slices.Contains(ofParts, m.Name) {
			day = name("told " + m.Name)
		}
		known := fmt.Sprintf("CASE WHEN %[1]s <= data_date THEN %[1]s END", day)
		if m.Plan {
			known = day
		}
		columns = append(columns, fmt.Sprintf("    %s AS %s, %s AS %s", known, name(m.Name), day, name("recorded "+m.Name)))
	}
	for _, f := range fields(b) {
		columns = append(columns, "    "+name("field "+f))
	}
	return strings.Join(columns, ",\n")
}

// date is a day as SQL has it.
func date(d day.Day) string { return "DATE '" + d.String() + "'" }

// text is a text as SQL has it.
func text(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

// name is the name of a column as SQL has it.
func name(s string) string { return `"` + strings.ReplaceAll(s, `"`, `""`) + `"` }

// currencies lists those of the book with their decimals.
func currencies(b *book.Book) string {
	var rows []string
	for _, c := range b.Values(book.Currency) {
		rows = append(rows, fmt.Sprintf("(%s, %d)", text(c), present.Decimals(c)))
	}
	return strings.Join(rows, ", ")
}

// regionOfPlace is the region of where an order goes: its own, or that of the only place of its name in the country.
const regionOfPlace = `CASE WHEN "field place" IS NOT NULL THEN coalesce("field region", (
        SELECT CASE WHEN count(DISTINCT p.region) = 1 THEN min(p.region) END FROM places p
        WHERE p.place = "field place" AND p.country = coalesce("field country", ''))) END`

// shownPlaces is the step with places of which several have one name, and how each is shown; none where there are no such.
func shownPlaces(b *book.Book) string {
	var rows []string
	for code, shown := range b.Values(book.Place) {
		if p := b.Place(uint32(code)); p.Name != shown {
			rows = append(rows, fmt.Sprintf("(%s, %s, %s, %s)", text(p.Name), text(p.Country), text(p.Region), text(shown)))
		}
	}
	if rows == nil {
		return ""
	}
	return "-- Places of one name, and how each is shown.\nshown_place (place, country, region, shown) AS (VALUES " + strings.Join(rows, ", ") + "),\n\n"
}

// place is where an order goes, as it is shown.
func (w *writer) place() string {
	if shownPlaces(w.book) == "" {
		return name("field place")
	}
	return `coalesce((SELECT n.shown FROM shown_place n
      WHERE n.place = "field place" AND n.country = coalesce("field country", '') AND n.region = coalesce("field region", '')), "field place")`
}

// offset ends a time of day that says how far it is from UTC.
const offset = `'([Zz]|[+-]\d\d:\d\d)$'`

// dayOf is the day of a text that may have a time of day, where a site's clocks show it.
func dayOf(text, zone string) string {
	return fmt.Sprintf(`CASE WHEN %[1]s ~ %[3]s AND %[2]s <> '' THEN ((%[1]s)::timestamptz AT TIME ZONE %[2]s)::date ELSE left(%[1]s, 10)::date END`,
		text, zone, offset)
}

// timeOf is the time of day of a text, where the site's clocks are known; null where it has none.
func timeOf(text string) string {
	return fmt.Sprintf(`CASE WHEN s.zone <> '' AND %[1]s ~ %[2]s THEN ((%[1]s)::timestamptz AT TIME ZONE s.zone)::time
      WHEN s.zone <> '' AND length(%[1]s) > 10 THEN substr(%[1]s, 12)::time END`, text, offset)
}

// momentOf is the moment, in whole seconds, of a text with a time of day, where its distance from UTC or the zone is known.
func momentOf(text, zone string) string {
	return fmt.Sprintf("date_trunc('second', CASE WHEN %[1]s ~ %[3]s THEN (%[1]s)::timestamptz\n      WHEN length(%[1]s) > 10 AND %[2]s <> '' THEN (%[1]s)::timestamp AT TIME ZONE %[2]s END)",
		text, zone, offset)
}

// onDay is the day of a column of a record, which may have come with a time of day.
func onDay(table, column, key, zone string) string {
	cell := fmt.Sprintf("%s.extra ->> %s", table, text(key))
	own := "NULL::date"
	if column != "" {
		own = table + "." + name(column)
	}
	return fmt.Sprintf("CASE WHEN coalesce(%s, '') <> '' THEN %s ELSE %s END", cell, dayOf(cell, zone), own)
}

// toldByParts are the milestones of orders that parts can tell.
var toldByParts = []string{milestone.Shipped, milestone.Delivered, milestone.Paid, milestone.Cancelled}

// ofParts are the milestones that only lines, shipments and payments tell.
var ofParts = []string{"first-shipped", "first-delivered", "first-paid"}

func recordedDays(b *book.Book) string {
	var columns []string
	for i, m := range b.Milestones() {
		switch column := m.Name; {
		case m.Of != "" || slices.Contains(ofParts, m.Name):
		default:
			if i >= len(milestone.BuiltIn()) {
				column = "" // a column of the user's own
			}
			columns = append(columns, fmt.Sprintf("    %s AS %s", onDay("o", column, m.Name, "s.zone"), name(m.Name)))
		}
	}
	return strings.Join(columns, ",\n")
}

func recordedFields(b *book.Book) string {
	var columns []string
	for _, f := range fields(b) {
		from := fmt.Sprintf("o.extra ->> %s", text(f))
		if slices.Contains(book.FieldNames(), f) {
			from = "o." + name(f)
		}
		columns = append(columns, fmt.Sprintf("    nullif(%s, '') AS %s", from, name("field "+f)))
	}
	return strings.Join(columns, ",\n")
}

// fields are those of the orders themselves.
func fields(b *book.Book) []string { return append(book.FieldNames(), b.Layout().Extra...) }
