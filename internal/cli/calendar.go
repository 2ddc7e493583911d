package cli

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"prairiedusk/internal/api"
	"prairiedusk/internal/core/numfmt"
)

func newCalendar(e *environment) *cobra.Command {
	cmd := &cobra.Command{Use: "calendar", Short: "The working calendars by which orders are counted"}
	cmd.AddCommand(newCalendarList(e), newCalendarShow(e), newCalendarCompare(e))
	return cmd
}

func newCalendarList(e *environment) *cobra.Command {
	cmd := &cobra.Command{
		Use:   "list",
		Short: "The calendars, what they know, and how many orders they count",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			calendars, err := c.Calendars(cmd.Context())
			if err != nil {
				return err
			}
			return e.print(cmd, calendarsSheet(calendars))
		},
	}
	addFormat(cmd)
	return cmd
}

func calendarsSheet(calendars *api.Calendars) sheet {
	s := sheet{title: "Working calendars; an order is counted by that of its site, of the site's region or country, or by the default",
		answer: calendars}
	s.columns = append(texts("calendar", "week", "holidays known"), numbers("holidays", "half days", "extra days", "orders")...)
	for _, c := range calendars.Calendars {
		name := c.Name
		if c.Default && name != "default" {
			name += " (default)"
		}
		s.rows = append(s.rows, []string{name, weekWords(c), coverageWords(c), strconv.Itoa(c.Holidays), strconv.Itoa(c.HalfDays),
			strconv.Itoa(c.ExtraDays), numfmt.Count(c.Orders)})
	}
	return s
}

// weekWords is the latest weekly pattern, and since when it holds where there were others.
func weekWords(c api.Calendar) string {
	last := c.Weeks[len(c.Weeks)-1]
	if len(c.Weeks) == 1 {
		return last.Days
	}
	return last.Days + " since " + last.From
}

func coverageWords(c api.Calendar) string {
	if c.CoverageFrom == "" {
		return "none"
	}
	return c.Coverage
}

func newCalendarShow(e *environment) *cobra.Command {
	var year int
	cmd := &cobra.Command{
		Use:   "show NAME",
		Short: "One calendar over a year, or as a file: working days by month, holidays, extra working days",
		Long: `One calendar over a year: working days by month, holidays, half days, extra working
days. As csv or ics it is the whole calendar, as a file that can be loaded again.`,
		Example: `  prairie-dusk calendar show Hamilton
  prairie-dusk calendar show Muscat --year 2025
  prairie-dusk calendar show Galway --format ics > galway.ics`,
		Args: cobra.ExactArgs(1),
		ValidArgsFunction: func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.completeCalendars(cmd), cobra.ShellCompDirectiveNoFileComp
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			if form := e.settings.GetString("format"); form == asCSV || form == asICalendar {
				text, err := c.CalendarFile(cmd.Context(), args[0], form)
				if err != nil {
					return err
				}
				_, err = dataOut(cmd).Write(text)
				return err
			}
			calendar, err := c.Calendar(cmd.Context(), args[0], year)
			if err != nil {
				return err
			}
			return e.print(cmd, calendarSheet(calendar))
		},
	}
	cmd.Flags().IntVar(&year, "year", 0, "`year` to show; default that of the data date")
	addFormat(cmd, asICalendar)
	return cmd
}

// asICalendar is a form in which only a calendar is printed.
const asICalendar = "ics"

func newCalendarCompare(e *environment) *cobra.Command {
	var year int
	cmd := &cobra.Command{
		Use:     "compare ONE OTHER",
		Short:   "The days of a year on which two calendars differ",
		Example: `  prairie-dusk calendar compare Galway Hamilton --year 2026`,
		Args:    cobra.ExactArgs(2),
		ValidArgsFunction: func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			return e.completeCalendars(cmd), cobra.ShellCompDirectiveNoFileComp
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			c, err := e.client()
			if err != nil {
				return err
			}
			answer, err := c.CompareCalendars(cmd.Context(), args[0], args[1], year)
			if err != nil {
				return err
			}
			s := sheet{title: answer.Sentence, answer: answer, columns: texts("day", args[0], args[1])}
			words := func(d api.CalendarDay) string {
				text := d.Kind
				if d.Name != "" {
					text += ", " + d.Name
				}
				if d.Hours != "" {
					text += ", " + d.Hours
				}
				return text
			}
			for _, d := range answer.Days {
				s.rows = append(s.rows, []string{withWeekday(d.One.Day), words(d.One), words(d.Other)})
			}
			s.below = []string{fmt.Sprintf("%s. Working days: %s %d, %s %d.", numfmt.Counted(len(answer.Days), "day"), args[0],
				answer.Working[0], args[1], answer.Working[1])}
			if answer.OtherHours > 0 {
				s.below = append(s.below, fmt.Sprintf("On %s both work, in other hours.", numfmt.Counted(answer.OtherHours, "further day")))
			}
			return e.print(cmd, s)
		},
	}
	cmd.Flags().IntVar(&year, "year", 0, "`year` to compare; default that of the data date")
	addFormat(cmd)
	return cmd
}

func (e *environment) completeCalendars(cmd *cobra.Command) []string {
	return e.complete(cmd, func(k known) []string { return k.Calendars })
}

func calendarSheet(c *api.Calendar) sheet {
	s := sheet{title: fmt.Sprintf("%s in %d: %d working days, week %s", c.Name, c.Year.Year, c.Year.WorkingDays, weekWords(*c)),
		answer: c, columns: texts("day", "kind", "name")}
	for _, d := range c.Year.NamedDays {
		s.rows = append(s.rows, []string{d.Weekday + " " + d.Day, d.Kind, d.Name})
	}
	months := make([]string, 12)
	for i, n := range c.Year.Months {
		months[i] = fmt.Sprintf("%s %d", time.Month(i + 1).String()[:3], n)
	}
	if hours := c.Definition.Hours; len(hours) > 0 {
		s.title += ", hours " + hours[len(hours)-1].Hours
	}
	s.below = []string{"Working days: " + strings.Join(months, " · "), "Holidays are known for: " + coverageWords(*c)}
	if !c.Year.Known {
		s.below = append(s.below, fmt.Sprintf(notePrefix+"holidays unknown in %d, at least in part; its days follow the weekly pattern there.", c.Year.Year))
	}
	return s
}
