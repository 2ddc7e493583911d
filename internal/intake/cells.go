package intake

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/money"
	"prairiedusk/internal/record"
)

// Decimals that numbers are kept with.
const (
	amountDecimals  = 4
	unitsDecimals   = 3
	degreesDecimals = 6
)

// value reads a filled cell; the reason says why it cannot be used, and what was expected.
func (t *TableReader) value(kind record.Type, cell string) (v record.Value, reason string) {
	if kind.InText() && len(cell) > maxText {
		return v, tooLong(cell)
	}
	var err error
	switch v.Known = true; kind {
	case record.Text, record.Telephone:
		v.Text = cell
	case record.Day:
		var m day.Moment
		m, err = day.ParseMoment(cell)
		v.Number = int64(m.Day)
		if m.Timed {
			v.Text = cell
		}
		var parse *day.ParseError
		if errors.As(err, &parse) {
			return v, parse.Explanation()
		}
	case record.Currency:
		v.Text = strings.ToUpper(cell)
		err = t.learn(cell)
	case record.Amount:
		v.Number, err = money.Parse(cell, amountDecimals)
	case record.Units:
		v.Number, err = money.Parse(cell, unitsDecimals)
	case record.Degrees:
		v.Number, err = money.Parse(cell, degreesDecimals)
		if err == nil && (v.Number < -180e6 || v.Number > 180e6) {
			err = errors.New("no degrees; want a number from -180 to 180")
		}
	case record.Whole:
		var n int64
		n, err = strconv.ParseInt(cell, 10, 64)
		v.Text = strconv.FormatInt(n, 10)
		if err != nil {
			err = errors.New("no whole number")
		}
	case record.Zone:
		v.Text = cell
		if _, err = time.LoadLocation(cell); err != nil || cell == "Local" {
			err = errors.New("no time zone; want an IANA name such as Pacific/Auckland")
		}
	case record.Clock:
		v.Text = cell
		_, err = day.ClockSeconds(cell)
	case record.Moment:
		v.Text = cell
		if _, err = day.ParseMoment(cell); err != nil {
			err = fmt.Errorf("no day and no instant; want 2026-07-06, 2026-07-06T14:30:00+02:00 or 2026-07-06T14:30, from %v to %v",
				day.First, day.Last)
		}
	case record.Source:
		v.Text = strings.ToLower(cell)
		if v.Text != "event" && v.Text != "daily" {
			err = errors.New("no source; want event or daily")
		}
	case record.YesNo:
		if v.Text = strings.ToLower(cell); v.Text != "yes" && v.Text != "no" {
			err = errors.New("want yes or no")
		}
	case record.Colour:
		if v.Text = strings.ToLower(cell); !slices.Contains(record.Colours(), v.Text) {
			err = fmt.Errorf("no colour of the palette; want one of %s", strings.Join(record.Colours(), ", "))
		}
	}
	if err != nil {
		return v, err.Error()
	}
	return v, ""
}

// money reads a value in the currency of its record.
func (t *TableReader) money(part int, cell string) (v record.Value, reason string) {
	currency := t.rows[part].Values[t.parts[part].Kind.Column("currency")].Text
	units, err := money.Parse(cell, t.decimals[currency])
	if err != nil {
		return v, err.Error()
	}
	return record.Value{Number: units, Known: true}, ""
}

// learn looks a currency up once.
func (t *TableReader) learn(code string) error {
	if _, known := t.decimals[strings.ToUpper(code)]; known {
		return nil
	}
	decimals, err := money.Decimals(code)
	if err == nil {
		t.decimals[strings.ToUpper(code)] = decimals
	}
	return err
}
