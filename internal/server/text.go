package server

import (
	"bytes"
	"errors"
	"io"
	"math"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"prairiedusk/internal/core/request"
	"prairiedusk/internal/escape"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
)

// isText says whether an address, and every value in it, is text: what is not can be the name of nothing here, and PostgreSQL
// refuses it.
func isText(address *url.URL) bool {
	bad := func(text string) bool { return strings.ContainsRune(text, 0) || !utf8.ValidString(text) }
	for name, values := range address.Query() {
		if bad(name) || slices.ContainsFunc(values, bad) {
			return false
		}
	}
	return !bad(address.Path)
}

// numberWords are the parameters that are numbers and may have decimals.
var numberWords = []string{"over", "at_least", "shortest", "longest", "youngest", "oldest"}

// notFinite finds a number among the parameters that no bound keeps out, such as NaN, and that JSON cannot even name.
func notFinite(address *url.URL) (word, value string, found bool) {
	query := address.Query()
	for _, word := range numberWords {
		for _, value := range query[word] {
			if n, err := strconv.ParseFloat(value, 64); err == nil && (math.IsNaN(n) || math.IsInf(n, 0)) {
				return word, value, true
			}
		}
	}
	return "", "", false
}

// checkName refuses a name with characters that nobody sees.
func checkName(word, name string) error {
	if escape.Plain(name) {
		return nil
	}
	return request.Invalid(word, name, "a name has no control characters, and none that turn the direction of writing")
}

var errNoText = errors.New("the body holds characters that are no text: NUL, half of a pair of UTF-16, or others than UTF-8 has")

// checkBody refuses a body of JSON whose strings are not all text. It leaves the body to be read again.
func checkBody(c *gin.Context) error {
	kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type"))
	if kind != "application/json" || c.Request.Body == nil {
		return nil
	}
	text, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, bodyLimitOf(c.Request)))
	if err != nil {
		return err
	}
	c.Request.Body = readBody{io.NopCloser(bytes.NewReader(text))}
	if !isJSONText(text) {
		return errNoText
	}
	return nil
}

// A readBody is the body of a request that has been read already.
type readBody struct{ io.ReadCloser }

// An unhurried request has no deadline for a body that has been read, or that there is not. The server reads on while a request is
// answered, to see whether its client has gone, and takes the end of such a deadline for that.
type unhurried struct{ humaContext }

// humaContext is a name that no method has.
type humaContext huma.Context

func (c unhurried) SetReadDeadline(deadline time.Time) error {
	body := humagin.Unwrap(c.humaContext).Request.Body
	if _, read := body.(readBody); read || body == nil || body == http.NoBody {
		return nil
	}
	return c.humaContext.SetReadDeadline(deadline)
}

// Unwrap is the request as it is.
func (c unhurried) Unwrap() huma.Context { return c.humaContext }

// unhurry gives requests the time that they need.
func unhurry(c huma.Context, next func(huma.Context)) { next(unhurried{c}) }

// bodyLimitOf bounds the body of a request: a check can hold some hundred thousand order numbers.
func bodyLimitOf(r *http.Request) int64 {
	if r.URL.Path == checkPath || strings.HasPrefix(r.URL.Path, checksPath+"/") {
		return largestCheck
	}
	return bodyLimit
}

// isJSONText says whether every string in JSON, which may be broken otherwise, is text.
func isJSONText(text []byte) bool {
	if !utf8.Valid(text) {
		return false
	}
	unit := func(at int) (uint64, bool) { // the UTF-16 code unit of an escape
		if at+6 > len(text) || text[at] != '\\' || text[at+1] != 'u' {
			return 0, false
		}
		value, err := strconv.ParseUint(string(text[at+2:at+6]), 16, 16)
		return value, err == nil
	}
	for at := 0; at < len(text); at++ {
		if text[at] != '\\' {
			continue
		}
		value, is := unit(at)
		switch {
		case !is:
			at++ // an escape of one character
		case value == 0, value >= 0xDC00 && value < 0xE000:
			return false
		case value >= 0xD800 && value < 0xDC00:
			if low, is := unit(at + 6); !is || low < 0xDC00 || low >= 0xE000 {
				return false
			}
			at += 11
		default:
			at += 5
		}
	}
	return true
}
