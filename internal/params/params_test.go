package params

import (
	"reflect"
	"strings"
	"testing"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"prairiedusk/internal/api"
)

// Every parameter of every question goes into an address and comes back, and can be said on the command line; what is as by
// default is in no address.
func TestParametersGoAndComeBack(t *testing.T) {
	for _, question := range []any{&api.TookQuestion{}, &api.OpenQuestion{}, &api.DueQuestion{}, &api.ImmediateQuestion{},
		&api.ImmediateCustomersQuestion{}, &api.QualityQuestion{}, &api.OrdersQuestion{},
		&api.StatusLatestQuestion{}, &api.StatusTimesQuestion{}, &api.StatusTransitionsQuestion{}, &api.StatusPeriodsQuestion{},
		&api.CrosstabQuestion{}, &api.CompareQuestion{}} {
		name := reflect.TypeOf(question).Elem().Name()
		fresh := func() any { return reflect.New(reflect.TypeOf(question).Elem()).Interface() }
		flags, byDefault := pflag.NewFlagSet("", pflag.ContinueOnError), fresh()
		Flags(flags, byDefault)
		assert.Empty(t, Values(byDefault), "%s: defaults", name)

		said, sent := []string{}, fresh()
		for f := range Fields(sent) {
			text := "x" + f.Name
			switch f.value.Interface().(type) {
			case bool:
				text = "true"
			case int:
				text = "17"
			case api.Number:
				text = "2.5"
			}
			if f.Enum != nil {
				text = f.Enum[len(f.Enum)-1]
			}
			require.NoError(t, (value{f}).Set(text), "%s.%s", name, f.Name)
			assert.NotEmpty(t, f.Doc, "%s.%s", name, f.Name)
			if f.Flag != hidden {
				assert.Contains(t, f.Doc, f.Arg, "%s.%s: what --help calls its value", name, f.Name)
				said = append(said, "--"+f.Flag+"="+text)
			}
		}
		words := Values(sent)
		words.Set("pick", "running")
		read := fresh()
		others, err := Parse(read, words)
		require.NoError(t, err)
		assert.Equal(t, sent, read, name)
		assert.Equal(t, []string{"running"}, others["pick"])
		assert.Len(t, others, 1)

		require.NoError(t, flags.Parse(said), "%s: %s", name, strings.Join(said, " "))
		for f := range Fields(byDefault) {
			if f.Flag != hidden {
				assert.Equal(t, words[f.Name], Values(byDefault)[f.Name], "%s.%s", name, f.Name)
			}
		}
	}
	_, err := Parse(&api.TookQuestion{}, map[string][]string{"over": {"NaN"}})
	assert.ErrorContains(t, err, "over")
	_, err = Parse(&api.TookQuestion{}, map[string][]string{"format": {"pdf"}})
	assert.ErrorContains(t, err, "want one of json")
}
