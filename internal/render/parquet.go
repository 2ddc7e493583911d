package render

import (
	"cmp"
	"io"
	"iter"
	"slices"
	"strings"

	"github.com/parquet-go/parquet-go"

	"prairiedusk/internal/core/day"
	"prairiedusk/internal/core/list"
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
func writeParquet(w io.Writer, head Head, rows iter.Seq[list.Row]) error {
	group := orderedGroup{Group: parquet.Group{}}
	add := func(name string, node parquet.Node) {
		group.names = append(group.names, name)
		group.Group[name] = parquet.Optional(node)
	}
	for _, c := range head.Columns {
		switch c.Kind {
		case list.OnDay:
			add(c.Heading, parquet.Date())
			if c.Timed {
				add(c.Heading+clockColumn, parquet.String())
			}
		case list.Number:
			add(c.Heading, parquet.Leaf(parquet.DoubleType))
		case list.YesNo:
			add(c.Heading, parquet.Leaf(parquet.BooleanType))
		default:
			add(c.Heading, parquet.String())
		}
	}
	for _, name := range head.headings()[len(head.Columns):] {
		add(name, parquet.String())
	}
	out := parquet.NewGenericWriter[any](w, parquet.NewSchema("orders", group), parquet.Compression(&parquet.Zstd),
		parquet.MaxRowsPerRowGroup(1<<16))
	out.SetKeyValueMetadata("sentence", head.Sentence)
	out.SetKeyValueMetadata("about", strings.Join(head.Lines, "\n"))
	row := make(parquet.Row, 0, len(group.names))
	for r := range rows {
		row = row[:0]
		put := func(v parquet.Value, has bool) {
			if !has {
				row = append(row, parquet.NullValue().Level(0, 0, len(row)))
				return
			}
			row = append(row, v.Level(0, 1, len(row)))
		}
		for i, c := range head.Columns {
			cell := r.Cells[i]
			has := cell.Text != ""
			switch c.Kind {
			case list.OnDay:
				put(parquet.Int32Value(int32(cell.Day-unixEpoch)), has)
				if c.Timed {
					at := clock(cell) + cell.Moment.OffsetText()
					put(parquet.ByteArrayValue([]byte(at)), at != "")
				}
			case list.Number:
				put(parquet.DoubleValue(cell.Number), has)
			case list.YesNo:
				put(parquet.BooleanValue(cell.Text == list.Yes), cell.Text != list.Undecided)
			default:
				put(parquet.ByteArrayValue([]byte(cell.Text)), has)
			}
		}
		for _, words := range head.besides(r) {
			put(parquet.ByteArrayValue([]byte(words)), words != "")
		}
		if _, err := out.WriteRows([]parquet.Row{row}); err != nil {
			return err
		}
	}
	return out.Close()
}
