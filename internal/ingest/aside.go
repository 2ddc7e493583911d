package ingest

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"iter"
	"os"

	"prairiedusk/internal/store"
)

// asideRows are the rows of a file that could not be used. They lie in a file without a name while the load runs: there can be
// many, and long ones.
type asideRows struct {
	spool *os.File // nil as long as there is none
	out   *bufio.Writer
	count int
	first []store.SetAsideRow // as many as the answer shows
}

// shownAside is how many rows the answer to a load can show.
const shownAside = 20

func (a *asideRows) add(row store.SetAsideRow) (err error) {
	if a.spool == nil {
		if a.spool, err = os.CreateTemp("", "prairie-dusk-set-aside"); err != nil {
			return fmt.Errorf("rows cannot be set aside: %w", err)
		}
		if err := os.Remove(a.spool.Name()); err != nil { // it goes with its last user, however that ends
			return err
		}
		a.out = bufio.NewWriterSize(a.spool, 1<<16)
	}
	if a.count++; len(a.first) < shownAside {
		a.first = append(a.first, row)
	}
	text, err := json.Marshal(row)
	if err != nil {
		return err
	}
	_, err = a.out.Write(append(text, '\n'))
	return err
}

// all reads the rows back, once.
func (a *asideRows) all() iter.Seq2[store.SetAsideRow, error] {
	return func(yield func(store.SetAsideRow, error) bool) {
		if a.spool == nil {
			return
		}
		err := a.out.Flush()
		if err == nil {
			_, err = a.spool.Seek(0, io.SeekStart)
		}
		if err != nil {
			yield(store.SetAsideRow{}, err)
			return
		}
		in := json.NewDecoder(bufio.NewReaderSize(a.spool, 1<<16))
		for {
			var row store.SetAsideRow
			err := in.Decode(&row)
			if errors.Is(err, io.EOF) || !yield(row, err) || err != nil {
				return
			}
		}
	}
}

func (a *asideRows) close() {
	if a.spool != nil {
		a.spool.Close()
	}
}
