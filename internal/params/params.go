// Package params lets one struct declare the parameters of a question. huma reads its tags for the address, the checks
// and the OpenAPI document; Flags gives a command the same words, Values writes the address of a request, and Parse
// reads it. A field is a string, bool, int, float64, []string, or a struct with the two text methods.
//
//	query    name in the address; ",explode" repeats it instead of putting commas between; underscores become hyphens in flags
//	flag     name on the command line, where it is another; - for none
//	doc      what it means; the word of arg in it names the value in --help
//	default  what it is where nothing is said; enum the words allowed; complete what the service completes it from
package params

import (
	"cmp"
	"encoding"
	"fmt"
	"iter"
	"maps"
	"net/url"
	"reflect"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// A Field is one parameter of a struct.
type Field struct {
	Name, Flag, Doc, Default, Arg, Complete string
	Enum                                    []string
	Explode                                 bool
	value                                   reflect.Value
}

// hidden parameters are of the address alone: a command has its own way of saying them.
const hidden = "-"

// Fields are the parameters of the struct that in points to, those of embedded structs too, in their order.
func Fields(in any) iter.Seq[Field] {
	return func(yield func(Field) bool) { walk(reflect.ValueOf(in).Elem(), yield) }
}

func walk(v reflect.Value, yield func(Field) bool) bool {
	for i := range v.NumField() {
		f := v.Type().Field(i)
		name, rest, _ := strings.Cut(f.Tag.Get("query"), ",")
		switch {
		case f.Anonymous:
			if !walk(v.Field(i), yield) {
				return false
			}
		case name != "":
			p := Field{name, cmp.Or(f.Tag.Get("flag"), strings.ReplaceAll(name, "_", "-")), f.Tag.Get("doc"), f.Tag.Get("default"),
				f.Tag.Get("arg"), f.Tag.Get("complete"), nil, rest == "explode", v.Field(i)}
			if enum := f.Tag.Get("enum"); enum != "" {
				p.Enum = strings.Split(enum, ",")
			}
			if !yield(p) {
				return false
			}
		}
	}
	return true
}

// Flags adds a flag for each parameter, and sets the struct to the defaults. It panics on a default that is none.
func Flags(flags *pflag.FlagSet, in any) {
	for f := range Fields(in) {
		if f.Flag == hidden {
			continue
		}
		usage := f.Doc
		if f.Arg != "" {
			usage = strings.Replace(usage, f.Arg, "`"+f.Arg+"`", 1)
		}
		flag := flags.VarPF(value{f}, f.Flag, "", usage)
		if f.value.Kind() == reflect.Bool {
			flag.NoOptDefVal = "true"
		}
		if f.Default != "" {
			if err := flag.Value.Set(f.Default); err != nil {
				panic(fmt.Sprintf("params: default of %s: %v", f.Name, err))
			}
			flag.DefValue = f.Default
		}
	}
}

// Completions asks words for what completes each parameter; those of an enum are known.
func Completions(cmd *cobra.Command, in any, words func(cmd *cobra.Command, of string) []string) {
	for f := range Fields(in) {
		if f.Flag == hidden {
			continue
		}
		_ = cmd.RegisterFlagCompletionFunc(f.Flag, func(cmd *cobra.Command, _ []string, _ string) ([]string, cobra.ShellCompDirective) {
			if f.Enum != nil {
				return f.Enum, cobra.ShellCompDirectiveNoFileComp
			}
			return words(cmd, f.Complete), cobra.ShellCompDirectiveNoFileComp
		})
	}
}

// Values are the words of an address that asks the question; what is as by default is left out.
func Values(in any) url.Values {
	words := url.Values{}
	for f := range Fields(in) {
		if texts, ok := f.value.Interface().([]string); ok && f.Explode {
			for _, text := range texts {
				words.Add(f.Name, text)
			}
		} else if text := (value{f}).String(); text != "" && text != f.Default && !(f.Default == "" && f.value.IsZero()) {
			words.Set(f.Name, text)
		}
	}
	return words
}

// Parse reads the words of an address; those that are no parameters are given back. The error names the parameter.
func Parse(in any, words url.Values) (others url.Values, err error) {
	others = maps.Clone(words)
	for f := range Fields(in) {
		texts, given := words[f.Name]
		delete(others, f.Name)
		if !given {
			texts = []string{f.Default}
			if f.Default == "" {
				continue
			}
		}
		for _, text := range texts {
			if f.Enum != nil && !slices.Contains(f.Enum, text) {
				return others, fmt.Errorf("%s: %q: want one of %s", f.Name, text, strings.Join(f.Enum, ", "))
			}
			if err := (value{f}).Set(text); err != nil {
				return others, fmt.Errorf("%s: %q: %w", f.Name, text, err)
			}
		}
	}
	return others, nil
}

// A value is a field as a flag.
type value struct{ Field }

func (v value) Type() string {
	if v.value.Kind() == reflect.Bool {
		return "bool"
	}
	return "word"
}

func (v value) String() string {
	if !v.value.IsValid() {
		return "" // pflag asks a zero value whether a default is one
	}
	switch x := v.value.Interface().(type) {
	case encoding.TextMarshaler:
		text, _ := x.MarshalText()
		return string(text)
	case []string:
		return strings.Join(x, ",")
	}
	return fmt.Sprint(v.value.Interface())
}

func (v value) Set(text string) error {
	switch to := v.value.Addr().Interface().(type) {
	case encoding.TextUnmarshaler:
		return to.UnmarshalText([]byte(text))
	case *string:
		*to = text
		return nil
	case *[]string:
		if v.Explode {
			*to = append(*to, text)
		} else {
			*to = strings.Split(text, ",")
		}
		return nil
	}
	if n, err := fmt.Sscan(text, v.value.Addr().Interface()); n != 1 || err != nil {
		return fmt.Errorf("want a %s", v.value.Kind())
	}
	return nil
}
