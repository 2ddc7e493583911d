package source

import (
	"errors"
	"fmt"
	"io"
	"math/big"
	"strconv"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/format"
)

func (o *Opened) openParquet(file *Spool, member string) (err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = errors.New("the Parquet file is broken; want it whole")
		}
	}()
	opened, err := parquet.OpenFile(file.reader, file.size)
	if err != nil {
		return fmt.Errorf("the Parquet file is cut short or broken: %w; want it whole", err)
	}
	s := &parquetTable{file: opened}
	for _, path := range opened.Schema().Columns() {
		leaf, _ := opened.Schema().Lookup(path...)
		s.names = append(s.names, strings.Join(path, "."))
		s.kinds = append(s.kinds, leaf.Node.Type().LogicalType())
	}
	if len(s.names) > mostColumns {
		return &Refusal{fmt.Sprintf("a Parquet file of %d columns", len(s.names)), fmt.Sprintf("want at most %d", mostColumns)}
	}
	o.Tables = append(o.Tables, Table{Member: member, Form: "Parquet", Plain: true, file: file, rows: func() (Rows, error) {
		return &parquetRows{table: s, size: file.size}, nil
	}})
	return nil
}

type parquetTable struct {
	file  *parquet.File
	names []string
	kinds []*format.LogicalType
}

// parquetRows reads rows, some at a time.
type parquetRows struct {
	table  *parquetTable
	size   int64
	group  int
	rows   parquet.Rows
	buffer [64]parquet.Row
	read   int // in the buffer
	at     int // in the buffer
	number int // of the row, from 1; 0 is the header
	begun  bool
	cells  []string
}

func (s *parquetRows) Next(row *Row) (err error) {
	defer func() {
		if fault := recover(); fault != nil {
			err = fmt.Errorf("the Parquet file is broken at record %d; want it whole", s.number+1)
		}
	}()
	if !s.begun {
		s.begun = true
		s.cells = make([]string, len(s.table.names))
		row.At, row.Cells = Place{}, append(s.cells[:0], s.table.names...)
		row.place = func(column int) Place { return Place{Record: s.number, Key: s.table.names[column]} }
		row.raw = func() string { return Line(row.Cells) }
		return nil
	}
	if err := s.fill(); err != nil {
		return err
	}
	clear(s.cells)
	for _, value := range s.buffer[s.at] {
		if value.IsNull() {
			continue
		}
		column := value.Column()
		if s.cells[column] != "" { // of a list
			s.cells[column] += ", "
		}
		s.cells[column] += written(value, s.table.kinds[column])
	}
	s.at++
	s.number++
	row.At, row.Cells = Place{Record: s.number}, s.cells
	return nil
}

// fill makes sure that there is a row in the buffer.
func (s *parquetRows) fill() error {
	groups := s.table.file.RowGroups()
	for s.at == s.read {
		if s.rows == nil {
			if s.group == len(groups) {
				return io.EOF
			}
			s.rows = groups[s.group].Rows()
			s.group++
		}
		n, err := s.rows.ReadRows(s.buffer[:])
		s.at, s.read = 0, n
		if errors.Is(err, io.EOF) {
			if err := s.rows.Close(); err != nil {
				return err
			}
			s.rows = nil
		} else if err != nil {
			return fmt.Errorf("the Parquet file cannot be read after record %d: %w", s.number, err)
		}
	}
	return nil
}

// written is a value as a plain decimal, as ISO 8601, or as its text.
func written(value parquet.Value, kind *format.LogicalType) string {
	if kind != nil {
		switch kind := kind.Value.(type) {
		case *format.DateType:
			return time.Unix(int64(value.Int32())*24*3600, 0).UTC().Format(time.DateOnly)
		case *format.TimestampType:
			return moment(value.Int64(), kind)
		case *format.DecimalType:
			return decimal(value, int(kind.Scale))
		}
	}
	switch value.Kind() {
	case parquet.Boolean:
		return strconv.FormatBool(value.Boolean())
	case parquet.Int32:
		return strconv.FormatInt(int64(value.Int32()), 10)
	case parquet.Int64:
		return strconv.FormatInt(value.Int64(), 10)
	case parquet.Float:
		return strconv.FormatFloat(float64(value.Float()), 'f', -1, 32)
	case parquet.Double:
		return strconv.FormatFloat(value.Double(), 'f', -1, 64)
	}
	return string(value.ByteArray())
}

// moment is an instant, or a local time where it is of no zone.
func moment(n int64, kind *format.TimestampType) string {
	at := time.Unix(0, n)
	switch kind.Unit.Value.(type) {
	case *format.MilliSeconds:
		at = time.UnixMilli(n)
	case *format.MicroSeconds:
		at = time.UnixMicro(n)
	}
	if kind.IsAdjustedToUTC {
		return at.UTC().Format("2006-01-02T15:04:05Z07:00")
	}
	return at.UTC().Format("2006-01-02T15:04:05")
}

// decimal is a whole number with its point.
func decimal(value parquet.Value, scale int) string {
	var n big.Int
	switch value.Kind() {
	case parquet.Int32:
		n.SetInt64(int64(value.Int32()))
	case parquet.Int64:
		n.SetInt64(value.Int64())
	default: // two's complement, the highest byte first
		bytes := value.ByteArray()
		n.SetBytes(bytes)
		if len(bytes) > 0 && bytes[0]&0x80 != 0 {
			n.Sub(&n, new(big.Int).Lsh(big.NewInt(1), uint(8*len(bytes))))
		}
	}
	return new(big.Rat).SetFrac(&n, new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil)).FloatString(scale)
}

// Offset is a guess by the rows: columns are read from all over the file.
func (s *parquetRows) Offset() int64 {
	return s.size * int64(s.number) / max(1, s.table.file.NumRows())
}

func (s *parquetRows) Close() error {
	if s.rows == nil {
		return nil
	}
	return s.rows.Close()
}
