package api

import (
	"fmt"
	"math"
	"reflect"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
)

// A Number is a parameter that may be left out: 0 is another thing.
type Number struct {
	Value float64
	Given bool
}

// mostNumber bounds numbers of a question, so that none in ticks overflows.
const mostNumber = 1_000_000_000

// In is the number in ticks; nil where it is not given.
func (n Number) In(ticks func(float64) int) *int {
	if !n.Given {
		return nil
	}
	t := ticks(n.Value)
	return &t
}

// MarshalText writes the number; nothing where it is not given.
func (n Number) MarshalText() ([]byte, error) {
	if !n.Given {
		return nil, nil
	}
	return strconv.AppendFloat(nil, n.Value, 'g', -1, 64), nil
}

// UnmarshalText reads what MarshalText writes.
func (n *Number) UnmarshalText(text []byte) (err error) {
	n.Value, err = strconv.ParseFloat(string(text), 64)
	if err != nil || math.IsNaN(n.Value) || math.Abs(n.Value) > mostNumber {
		return fmt.Errorf("%q is not a number from -%d to %d", text, mostNumber, mostNumber)
	}
	n.Given = true
	return nil
}

// Schema, Receiver and OnParamSet let huma document and read it as a number: what it reads by UnmarshalText it checks as text.
func (n Number) Schema(r huma.Registry) *huma.Schema {
	schema := huma.SchemaFromType(r, reflect.TypeFor[float64]())
	least, most := -float64(mostNumber), float64(mostNumber)
	schema.Minimum, schema.Maximum = &least, &most
	return schema
}

// Receiver is where huma puts the number.
func (n *Number) Receiver() reflect.Value { return reflect.ValueOf(n).Elem().Field(0) }

// OnParamSet hears from huma whether there is one.
func (n *Number) OnParamSet(isSet bool, _ any) { n.Given = isSet }
