package source

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"io"
	"os"
)

// inMemory is up to which size a file is kept in memory.
const inMemory = 1 << 20

// A Spool is a file that was received whole, and can be read as often as it takes. One of some size lies in a file without a
// name, which goes with its last user, however that ends.
type Spool struct {
	reader io.ReaderAt
	file   *os.File // nil of one in memory
	size   int64
	hash   [sha256.Size]byte
}

// Keep receives a file.
func Keep(r io.Reader) (_ *Spool, err error) {
	s, hash := &Spool{}, sha256.New()
	var head bytes.Buffer
	r = io.TeeReader(r, hash)
	if s.size, err = io.CopyN(&head, r, inMemory); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	s.reader = bytes.NewReader(head.Bytes())
	if s.size == inMemory {
		if s.file, err = os.CreateTemp("", "prairie-dusk-file"); err != nil {
			return nil, err
		}
		defer func() {
			if err != nil {
				s.file.Close()
			}
		}()
		if err := os.Remove(s.file.Name()); err != nil {
			return nil, err
		}
		if _, err := s.file.Write(head.Bytes()); err != nil {
			return nil, err
		}
		rest, err := io.Copy(s.file, r)
		if err != nil {
			return nil, err
		}
		s.reader, s.size = s.file, s.size+rest
	}
	copy(s.hash[:], hash.Sum(nil))
	return s, nil
}

// Open reads the file from its beginning.
func (s *Spool) Open() *io.SectionReader { return io.NewSectionReader(s.reader, 0, s.size) }

// Size is that of the file in bytes.
func (s *Spool) Size() int64 { return s.size }

// SHA256 is the hash of the file.
func (s *Spool) SHA256() []byte { return s.hash[:] }

// Close lets go of the file.
func (s *Spool) Close() error {
	if s.file == nil {
		return nil
	}
	return s.file.Close()
}
