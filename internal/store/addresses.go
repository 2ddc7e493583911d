package store

import (
	"cmp"
	"context"
	"database/sql"
	"net/url"
	"slices"
	"strings"

	"github.com/pressly/goose/v3"
)

// viewAddresses brings saved views over to the words that questions have since version 9.
var viewAddresses = goose.NewGoMigration(9, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, "SELECT name, address FROM views")
	if err != nil {
		return err
	}
	defer rows.Close()
	addresses := map[string]string{}
	for rows.Next() {
		var name, address string
		if err := rows.Scan(&name, &address); err != nil {
			return err
		}
		addresses[name] = currentAddress(address)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for name, address := range addresses {
		if _, err := tx.ExecContext(ctx, "UPDATE views SET address = $1 WHERE name = $2", address, name); err != nil {
			return err
		}
	}
	return nil
}}, nil)

// currentAddress is an address of the console, saved before version 9, in the words of today. One that cannot be read stays.
func currentAddress(address string) string {
	page, text, _ := strings.Cut(address, "?")
	words, err := url.ParseQuery(text)
	if err != nil {
		return address
	}
	rename := func(old, name string) {
		if values, found := words[old]; found {
			delete(words, old)
			words[name] = values
		}
	}
	switch page {
	case "/doubts":
		page = "/quality"
	case "/immediate":
		rename("got", "achieved")
	case "/across":
		page = "/crosstab"
		words.Del("currency") // each is shown
	case "/compare":
		words.Del("currency")
	case "/statuses":
		if today, old := map[string]string{"moves": "transitions", "stays": "periods"}[words.Get("show")]; old {
			words.Set("show", today)
		}
	case "/orders":
		rename("mark", "highlight")
		ordersAddress(words)
	case "/open":
		switch show := words.Get("show"); show {
		case "time":
			if !words.Has("each") {
				words.Set("each", "month")
			}
		case "lanes":
			words.Set("timeline", "true")
			words.Del("each")
		case "ages":
			words.Set("ages", "true")
			words.Del("each")
			rename("mix", "each")
		default:
			words.Del("each")
		}
		words.Del("show")
		words.Del("mix")
	}
	if len(words) == 0 {
		return page
	}
	return page + "?" + words.Encode()
}

// ordersAddress puts what picked the orders of a list into the address of the number behind which they stand.
func ordersAddress(words url.Values) {
	if code := words.Get("doubt"); code != "" {
		words.Del("doubt")
		words.Set("behind", "quality?"+url.Values{"code": {code}}.Encode())
	}
	switch {
	case words.Has("status"):
		statusAddress(words)
		return
	case words.Has("figure"):
		countingAddress(words)
		return
	}
	list := words.Get("open")
	if list == "" {
		lengthsAddress(words)
		return
	}
	words.Del("open")
	words.Del("basis")   // the period placed nothing
	words.Del("cut_off") // ages run from the day as it was recorded
	behind := url.Values{"list": {list}}
	for _, word := range []string{"from", "to", "in", "count", "calendar", "period", "by", "where", "closing_day", "group", "youngest",
		"oldest"} {
		if values, found := words[word]; found {
			delete(words, word)
			behind[word] = values
		}
	}
	words.Set("behind", "open?"+behind.Encode())
}

// statusAddress is the same for lists by their statuses.
func statusAddress(words url.Values) {
	list := words.Get("status")
	words.Del("status")
	analysis, takes := "status-transitions", []string{"period"}
	switch what, _, _ := strings.Cut(list, ":"); what {
	case "latest", "none":
		analysis, takes = "status-latest", []string{"by", "group", "at"}
	case "visited":
		analysis, takes = "status-times", []string{"by", "group", "period"}
	}
	behind := url.Values{"list": {strings.Replace(list, "moved:", "went:", 1)}}
	for _, word := range append(takes, "in", "calendar", "source", "max_gap", "where") {
		if values, found := words[word]; found {
			delete(words, word)
			behind[word] = values
		}
	}
	for _, word := range []string{"from", "to", "count", "cut_off", "basis", "period", "by", "group", "at"} {
		delete(words, word) // they placed nothing
	}
	words.Set("behind", analysis+"?"+behind.Encode())
}

// countingAddress is the same for lists behind a number of rows by columns, or of dates beside each other.
func countingAddress(words url.Values) {
	today := map[string]string{"figure": "show", "across_rows": "rows", "across_columns": "columns", "by_date": "date",
		"in_currency": "currency", "without_figure": "without"}
	analysis := "crosstab"
	if words.Has("each") {
		analysis = "compare"
		if !words.Has("basis") {
			words.Set("basis", "ordered")
		}
	}
	behind := url.Values{}
	for _, word := range []string{"figure", "across_rows", "across_columns", "each", "top", "meets", "by_date", "place", "other_place",
		"row", "column", "others", "in_currency", "without_figure",
		"from", "to", "in", "count", "calendar", "cut_off", "basis", "period", "where"} {
		if values, found := words[word]; found {
			delete(words, word)
			behind[cmp.Or(today[word], word)] = values
		}
	}
	words.Set("behind", analysis+"?"+behind.Encode())
}

// lengthsAddress is the same for lists by what only an answer about lengths tells.
func lengthsAddress(words url.Values) {
	told := []string{"through", "promise", "over", "at_least", "note", "beyond", "standing", "shortest", "longest"}
	if !slices.ContainsFunc(told, words.Has) {
		return
	}
	behind := url.Values{}
	for _, word := range append(told, "from", "to", "in", "count", "calendar", "cut_off", "basis", "period", "by", "where", "state",
		"placed", "group") {
		if values, found := words[word]; found {
			delete(words, word)
			behind[word] = values
		}
	}
	words.Set("behind", "took?"+behind.Encode())
}
