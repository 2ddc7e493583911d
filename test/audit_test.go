package test

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
	"prairiedusk/internal/app"
)

// Every change of what people decide is noted, with who made it and what was there before, and nothing takes it back.
func TestTheAuditListHasEveryChange(t *testing.T) {
	address := ""
	s := startService(t, func(settings *app.Settings) { address = settings.DatabaseURL })
	load, err := s.Load(t.Context(), []string{write(t, "orders.csv", "number,site,ordered,shipped\nA-1,Quay,2026-01-05,2026-01-07\n")})
	require.NoError(t, err)
	_, err = s.SaveLabel(t.Context(), "speed", api.LabelDefinition{Rules: []api.LabelRule{{Where: "shipped != null", Text: "gone"}}}, false)
	require.NoError(t, err)
	_, err = s.SaveLabel(t.Context(), "speed", api.LabelDefinition{Rules: []api.LabelRule{{Where: "shipped == null", Text: "waits"}}}, true)
	require.NoError(t, err)
	_, err = s.SaveSettings(t.Context(), api.Settings{DataDate: "2026-01-31"})
	require.NoError(t, err)
	_, err = s.SaveView(t.Context(), "All", api.ViewContent{Address: "/how-long", Sentence: "How long?"}, false)
	require.NoError(t, err)
	_, err = s.RenameView(t.Context(), "All", "Everything")
	require.NoError(t, err)
	_, err = s.SaveCheck(t.Context(), "One", api.Check{Question: "took?", Expected: api.Expected{Figure: "1"}})
	require.NoError(t, err)
	_, err = s.DeleteCheck(t.Context(), "One")
	require.NoError(t, err)
	_, err = s.Undo(t.Context(), load.Number)
	require.NoError(t, err)

	list := func() (entries []string) {
		table := s.ask(t, "/audit").Parts[0].Tables[0]
		for _, r := range table.Rows {
			assert.Contains(t, r.Cells[1].Text, ", with the token")
			entries = append(entries, strings.TrimSpace(r.Cells[2].Text+" "+r.Cells[3].Text+" "+r.Cells[4].Text))
		}
		return entries
	}
	entries := list()
	assert.Equal(t, []string{"load 1 undone", "check One deleted figure: 1, question: took?", "check One made figure: 1, question: took?",
		"view Everything changed name: All → Everything", "view All made address: /how-long; sentence: How long?",
		"ends of the book changed data date: none → 2026-01-31"}, entries[:6])
	assert.Contains(t, entries[6], "label speed changed rules: + ")
	assert.Contains(t, entries[6], "; rules: − text: gone, where: shipped != null")
	assert.Contains(t, entries[7], "label speed made")
	assert.Contains(t, entries[len(entries)-1], "load 1 made")

	db, err := pgx.Connect(t.Context(), address)
	require.NoError(t, err)
	defer db.Close(context.WithoutCancel(t.Context()))
	for _, statement := range []string{"DELETE FROM audit", "UPDATE audit SET who = 'nobody'", "TRUNCATE audit"} {
		_, err = db.Exec(t.Context(), statement)
		assert.ErrorContains(t, err, "only added to", statement)
	}
	assert.Equal(t, entries, list())

	// A body of a check may be long, any other may not.
	long := `{"question":"took?","orders":{"content":"` + strings.Repeat("QUJD", 400_000) + `"}}`
	for path, want := range map[string]int{"/api/v1/check": http.StatusUnprocessableEntity, "/api/v1/views/x": http.StatusRequestEntityTooLarge} {
		method := http.MethodPost
		if path != "/api/v1/check" {
			method = http.MethodPut
		}
		request, err := http.NewRequestWithContext(t.Context(), method, s.address+path, strings.NewReader(long))
		require.NoError(t, err)
		request.Header.Set("Authorization", "Bearer "+s.token)
		request.Header.Set("Content-Type", "application/json")
		response, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		require.NoError(t, response.Body.Close())
		assert.Equal(t, want, response.StatusCode, path)
	}

	b := newTab(t)
	b.do(letIn(s.entry(t)), chromedp.Navigate(s.address+"/audit"))
	b.text(test("audit"), "view Everything")
	assert.Empty(t, b.wentWrong())
}
