package render

import (
	"cmp"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"

	"prairiedusk/internal/answer"
	"prairiedusk/internal/core/day"
)

// clockColumn follows a column of days that can have a time of day, which stands there as the clocks of the site showed it, with its
// distance from UTC.
const clockColumn = ", time of day"

// unixEpoch is the day from which Parquet counts dates.
var unixEpoch = day.Of(1970, 1, 1)

// An orderedGroup keeps its fields in the order of the list; a plain group sorts them.
type orderedGroup struct {
	parquet.Group
	names []string
}

func (g orderedGroup) Fields() []parquet.Field {
	fields := g.Group.Fields()
	slices.SortFunc(fields, func(x, y parquet.Field) int {
		return cmp.Compare(slices.Index(g.names, x.Name()), slices.Index(g.names, y.Name()))
	})
	return fields
}

// writeParquet writes days as dates and numbers as doubles; the sentence stands in the file's own words.
func writeParquet(w io.Writer, s sheet) error {
	group := orderedGroup{Group: parquet.Group{}}
	add := func(name string, node parquet.Node) {
		group.names = append(group.names, name)
		group.Group[name] = parquet.Optional(node)
	}
	for _, c := range s.columns {
		switch c.Kind {
		case answer.Day:
			add(c.Heading, parquet.Date())
			if c.Timed {
				add(c.Heading+clockColumn, parquet.String())
			}
		case answer.Count, answer.Number, answer.Percent:
			add(c.Heading, parquet.Leaf(parquet.DoubleType))
		case answer.YesNo:
			add(c.Heading, parquet.Leaf(parquet.BooleanType))
		default:
			add(c.Heading, parquet.String())
		}
	}
	for _, name := range s.headings()[len(s.columns):] {
		add(name, parquet.String())
	}
	out := parquet.NewGenericWriter[any](w, parquet.NewSchema("orders", group), parquet.Compression(&parquet.Zstd),
		parquet.MaxRowsPerRowGroup(1<<16))
	out.SetKeyValueMetadata("sentence", s.sentence)
	out.SetKeyValueMetadata("about", strings.Join(s.lines, "\n"))
	row := make(parquet.Row, 0, len(group.names))
	for r := range s.rows {
		row = row[:0]
		put := func(v parquet.Value, has bool) {
			if !has {
				row = append(row, parquet.NullValue().Level(0, 0, len(row)))
				return
			}
			row = append(row, v.Level(0, 1, len(row)))
		}
		for i, c := range s.columns {
			cell := r.Cells[i]
			has := cell.Text != ""
			switch c.Kind {
			case answer.Day:
				d, _ := day.Parse(cell.Text[:min(len(cell.Text), len(time.DateOnly))]) // an empty text is no day
				put(parquet.Int32Value(int32(d-unixEpoch)), has)
				if c.Timed {
					at := timeOf(cell)
					put(parquet.ByteArrayValue([]byte(at)), at != "")
				}
			case answer.Count, answer.Number, answer.Percent:
				if has = cell.Number != nil; has {
					put(parquet.DoubleValue(*cell.Number), true)
				} else {
					put(parquet.Value{}, false)
				}
			case answer.YesNo:
				put(parquet.BooleanValue(cell.Number != nil && *cell.Number != 0), cell.Number != nil)
			default:
				put(parquet.ByteArrayValue([]byte(cell.Text)), has)
			}
		}
		for _, words := range s.besides(r) {
			put(parquet.ByteArrayValue([]byte(words)), words != "")
		}
		if _, err := out.WriteRows([]parquet.Row{row}); err != nil {
			return err
		}
	}
	return out.Close()
}
