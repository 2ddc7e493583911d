package source

import (
	"archive/zip"
	"bytes"
	"compress/bzip2"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/klauspost/compress/gzip"
	"github.com/klauspost/compress/zstd"
)

// The bounds of what is packed: a few kilobytes can unpack to any number of gigabytes.
const (
	mostMembers  = 1000
	mostUnpacked = 64 << 30
	mostRatio    = 200
	ratioFrom    = 64 << 20 // what unpacks to less may be packed as well as it likes
	deepest      = 3        // archives within archives
)

// An Opened is a file with its tables.
type Opened struct {
	Tables []Table
	spools []*Spool
}

// Close lets go of what was unpacked.
func (o *Opened) Close() error {
	var errs []error
	for _, s := range o.spools {
		errs = append(errs, s.Close())
	}
	return errors.Join(errs...)
}

// Open tells what a file is and gives its tables. The error is a *Refusal where it is something that is not read.
func Open(file *Spool) (*Opened, error) {
	o := &Opened{}
	if err := o.open(file, "", 0); err != nil {
		return nil, errors.Join(err, o.Close())
	}
	return o, nil
}

// headSize is how much of a file is looked at first.
const headSize = 64 << 10

func (o *Opened) open(file *Spool, member string, depth int) error {
	head := make([]byte, min(headSize, file.size))
	if _, err := io.ReadFull(file.Open(), head); err != nil {
		return err
	}
	has := func(mark string) bool { return bytes.HasPrefix(head, []byte(mark)) }
	packed := func(unpack func(io.Reader) (io.Reader, error), ending string) error {
		if depth == deepest {
			return &Refusal{"packed too often", "want it unpacked"}
		}
		r, err := unpack(file.Open())
		if err == nil {
			var inner *Spool
			if inner, err = o.unpack(r, file.size); err == nil {
				return o.open(inner, strings.TrimSuffix(member, ending), depth+1)
			}
		}
		return broken(err)
	}
	switch {
	case len(head) == 0:
		return &Refusal{"an empty file", "want one with a header and a row for each record"}
	case has("\x1f\x8b"):
		return packed(func(r io.Reader) (io.Reader, error) { return gzip.NewReader(r) }, ".gz")
	case has("\x28\xb5\x2f\xfd"):
		return packed(func(r io.Reader) (io.Reader, error) {
			d, err := zstd.NewReader(r, zstd.WithDecoderMaxMemory(256<<20))
			if err != nil {
				return nil, err
			}
			return d.IOReadCloser(), nil
		}, ".zst")
	case has("BZh"):
		return packed(func(r io.Reader) (io.Reader, error) { return bzip2.NewReader(r), nil }, ".bz2")
	case has("PK\x03\x04"), has("PK\x05\x06"):
		return o.openZip(file, member, depth)
	case has("PAR1"):
		return o.openParquet(file, member)
	}
	for _, known := range refused {
		if has(known.mark) {
			return known.refusal(head)
		}
	}
	return o.openText(file, member, head)
}

// refused are the forms of files that are not read, by how they begin.
var refused = []struct {
	mark    string
	refusal func(head []byte) error
}{
	{"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", func(head []byte) error {
		if bytes.Contains(head, []byte("E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00")) {
			return &Refusal{"a workbook with a password", "save it without one"}
		}
		return &Refusal{"an old binary workbook (XLS)", "open it and save it as XLSX or CSV"}
	}},
	{"%PDF", plainly("a PDF document", "want its data, as CSV or XLSX")},
	{"Rar!", plainly("a RAR archive", "unpack it, or pack it as ZIP")},
	{"7z\xbc\xaf\x27\x1c", plainly("a 7z archive", "unpack it, or pack it as ZIP")},
	{"\xfd7zXZ\x00", plainly("an XZ archive", "unpack it, or pack it as gzip or zstd")},
	{"SQLite format 3\x00", plainly("an SQLite database", "export its tables as CSV")},
	{"\x89PNG", plainly("a picture", "want the data in it as CSV or XLSX")},
	{"\xff\xd8\xff", plainly("a picture", "want the data in it as CSV or XLSX")},
}

func plainly(is, instead string) func([]byte) error {
	return func([]byte) error { return &Refusal{is, instead} }
}

// broken says of an archive that it cannot be unpacked.
func broken(err error) error {
	var refusal *Refusal
	if errors.As(err, &refusal) {
		return err
	}
	return fmt.Errorf("the archive is cut short or broken: %w; want it whole", err)
}

// unpack receives what comes out of an archive of some size.
func (o *Opened) unpack(r io.Reader, size int64) (*Spool, error) {
	inner, err := Keep(&bounded{r: r, most: min(mostUnpacked, max(ratioFrom, size*mostRatio))})
	if err != nil {
		return nil, err
	}
	o.spools = append(o.spools, inner)
	return inner, nil
}

// A bounded reader refuses what is larger than it should be.
type bounded struct {
	r          io.Reader
	read, most int64
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.read += int64(n); b.read > b.most {
		return n, &Refusal{fmt.Sprintf("an archive that unpacks to more than %d MiB", b.most>>20),
			"want it unpacked, if it is what you think"}
	}
	return n, err
}

func (o *Opened) openZip(file *Spool, member string, depth int) error {
	archive, err := zip.NewReader(file.Open(), file.size)
	if err != nil {
		return broken(err)
	}
	named := func(name string) bool {
		return slices.ContainsFunc(archive.File, func(f *zip.File) bool { return f.Name == name })
	}
	switch {
	case named("xl/workbook.xml"):
		return o.openWorkbook(file, member)
	case named("xl/workbook.bin"):
		return &Refusal{"a binary workbook (XLSB)", "open it and save it as XLSX or CSV"}
	case named("word/document.xml"):
		return &Refusal{"a text document (DOCX)", "want the table in it as CSV or XLSX"}
	case named("content.xml") && named("mimetype"):
		return &Refusal{"an OpenDocument file", "save it as XLSX or CSV"}
	case depth == deepest:
		return &Refusal{"packed too often", "want it unpacked"}
	case len(archive.File) > mostMembers:
		return &Refusal{fmt.Sprintf("an archive of %d files", len(archive.File)), fmt.Sprintf("want at most %d", mostMembers)}
	}
	total := int64(0)
	for _, f := range archive.File {
		base := path.Base(f.Name)
		if f.FileInfo().IsDir() || strings.HasPrefix(base, ".") || strings.HasPrefix(f.Name, "__MACOSX/") {
			continue // a folder, and what an operating system adds of its own
		}
		if f.Flags&1 != 0 {
			return &Refusal{"an archive with a password", "unpack it, or pack it without one"}
		}
		r, err := f.Open()
		if err != nil {
			return broken(err)
		}
		inner, err := o.unpack(r, file.size-total/mostRatio)
		if err := errors.Join(err, r.Close()); err != nil {
			return broken(fmt.Errorf("%s: %w", f.Name, err))
		}
		total += inner.size
		name := f.Name
		if member != "" {
			name = member + "/" + name
		}
		if err := o.open(inner, name, depth+1); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	if len(o.Tables) == 0 {
		return &Refusal{"an archive without files", "want files of records in it"}
	}
	return nil
}
