package test

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/answer"
)

// Places on the map are zoomed by key and pointer, those gathered in a circle come apart, bars and table keep figure and filter, and
// each opens its orders.
func TestConsolePlaces(t *testing.T) {
	s, _ := demoService(t)
	d, err := s.Answer(t.Context(), "/places", url.Values{"to": {"delivered"}, "period": {"2026-Q3"}, "show": {"p90"}})
	require.NoError(t, err)
	table := d.Parts[0].Table("places")
	require.Greater(t, len(table.Rows), 30)
	cell := func(row answer.Row, code string) string { return row.Cells[table.At(code)].Text }
	first, off := table.Rows[0], d.Parts[0].Table("off-map")

	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/places?to=delivered&period=2026-Q3&show=p90"))
	b.text("table"+test("places"), cell(first, "place")+" 1 "+cell(first, "orders")+" "+cell(first, "n")+" "+cell(first, "figure"))
	b.text("table"+test("off-map"), "no co-ordinates in the list of places")
	circles := func() []string {
		return evaluate[[]string](b, `[...document.querySelectorAll('[data-test=chart] svg text')].map(t => t.textContent)`)
	}
	zoom := func() float64 {
		text := evaluate[string](b, `document.querySelector('[data-test=map]').dataset.zoom`)
		x, err := strconv.ParseFloat(text, 64)
		require.NoError(t, err)
		return x
	}
	b.comes("circles of several places", func() bool { return len(circles()) >= 4 })
	before, whole := circles(), zoom()
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent("+"), chromedp.KeyEvent("+"))
	b.comes("a closer look", func() bool { return zoom() > whole*2 && fmt.Sprint(circles()) != fmt.Sprint(before) })
	closer := fmt.Sprint(circles()) // what is looked at is drawn a moment later
	b.do(chromedp.KeyEvent("0"))
	b.comes("the whole world", func() bool { return zoom() == 1 })
	b.comes("its circles", func() bool { return len(circles()) > 0 && fmt.Sprint(circles()) != closer })
	// The arrows walk along the circles; Enter leads into one of several places, and to the orders of one.
	b.do(chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), "zoom in to tell them apart")
	b.do(chromedp.KeyEvent(kb.Enter))
	b.comes("the places of the circle", func() bool { return zoom() > 5 })
	b.comes("circles of single places", func() bool { return fmt.Sprint(circles()) != fmt.Sprint(before) })
	b.do(chromedp.Click(test("all-places")))
	b.comes("all places again", func() bool { return zoom() == whole })

	// Where a place is can be said here, and the load that says it can be undone.
	b.do(chromedp.Focus(test("north")+" input"), chromedp.KeyEvent("-37.95"), chromedp.Focus(test("east")+" input"), chromedp.KeyEvent("476.99"+kb.Enter))
	b.text(test("place-form"), "Write degrees")
	b.do(chromedp.Focus(test("east")+" input"), chromedp.KeyEvent(kb.Home+kb.Delete+"1"+kb.Enter))
	b.comes("the place on the map", func() bool {
		return !strings.Contains(evaluate[string](b, `document.querySelector('[data-test=off-map]').textContent`), off.Rows[0].Cells[0].Text)
	})
	loads, err := s.Loads(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "places (edited)", loads.Loads[0].Files[0].Name)

	b.do(chromedp.Click(test("picture-bars")))
	b.text("table"+test("places"), cell(first, "place"))
	assert.Contains(t, evaluate[string](b, "location.search"), "show=p90")
	b.do(chromedp.Focus(test("walk")), chromedp.KeyEvent(kb.ArrowRight))
	b.text(test("point"), cell(first, "place")+": "+cell(first, "figure"))
	b.do(chromedp.KeyEvent(kb.Enter))
	b.text(test("orders"), "SD-")
	b.text("main", cell(first, "n")+" orders in "+cell(first, "n")+" rows")
	assert.Empty(t, b.wentWrong())
}
