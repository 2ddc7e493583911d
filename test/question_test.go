package test

import (
	"net/url"
	"strconv"
	"strings"
	"testing"

	"prairiedusk/internal/answer"
)

// A question is a question as the service takes it; an empty word takes its default.
type question struct {
	From, To, In, Count, Calendar, CutOff, Basis, Period string
	By                                                   []string
	Where                                                string   // a condition in CEL
	Over, AtLeast                                        *float64 // a limit; at most one of them
	Through                                              []string // milestones that make a chain of legs
	Promise                                              string   // a plan, or a number of working days
	Show                                                 []string // statistics; only where Took is asked, as WithRunning is
	WithRunning                                          bool     // an estimate with running orders
}

// Words are the words of an address that asks the question.
func (q question) Words() url.Values {
	v := filled(map[string]string{"from": q.From, "to": q.To, "in": q.In, "count": q.Count,
		"calendar": q.Calendar, "cut_off": q.CutOff, "basis": q.Basis, "period": q.Period, "by": strings.Join(q.By, ","), "where": q.Where,
		"through": strings.Join(q.Through, ","), "promise": q.Promise, "show": strings.Join(q.Show, ",")})
	for name, limit := range map[string]*float64{"over": q.Over, "at_least": q.AtLeast} {
		if limit != nil {
			v.Set(name, strconv.FormatFloat(*limit, 'g', -1, 64))
		}
	}
	if q.WithRunning {
		v.Set("with_running", "true")
	}
	return v
}

// A selection picks orders behind an answer.
type selection struct {
	Placed     string // outside, undated; empty for those selected
	State      string
	Group      []string // nil: all groups
	Behind     string   // the address of the orders behind a number
	Sort       string
	Offset     int
	Limit      int // 0: the service's default
	Columns    string
	Rows       string   // orders, lines, shipments or payments; empty for orders
	Highlights []string // "amber: CONDITION"
}

// Words are the words of an address that asks for a list.
func (s selection) Words(q question) url.Values {
	v := q.Words()
	for name, value := range map[string]string{"placed": s.Placed, "state": s.State, "behind": s.Behind, "sort": s.Sort,
		"columns": s.Columns, "rows": s.Rows} {
		if value != "" {
			v.Set(name, value)
		}
	}
	if s.Offset != 0 {
		v.Set("offset", strconv.Itoa(s.Offset))
	}
	if s.Limit != 0 {
		v.Set("limit", strconv.Itoa(s.Limit))
	}
	for _, key := range s.Group {
		v.Add("group", key)
	}
	for _, highlight := range s.Highlights {
		v.Add("highlight", highlight)
	}
	return v
}

// filled leaves out empty words.
func filled(words map[string]string) url.Values {
	v := url.Values{}
	for name, value := range words {
		if value != "" {
			v.Set(name, value)
		}
	}
	return v
}

// A listing is the document of a list, and its one table.
type listing struct {
	answer.Table
	document *answer.Document
}

// list asks for the orders of a selection.
func (s service) list(t *testing.T, q question, of selection) (*listing, error) {
	d, err := s.Answer(t.Context(), "/orders", of.Words(q))
	if err != nil {
		return nil, err
	}
	return &listing{d.Parts[0].Tables[0], d}, nil
}

// cellTexts are the cells of a row as people read them.
func cellTexts(r answer.Row) (texts []string) {
	for _, c := range r.Cells {
		texts = append(texts, c.Text)
	}
	return texts
}
