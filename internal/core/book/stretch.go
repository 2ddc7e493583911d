package book

// A Stretch is some orders of one block that follow each other.
type Stretch struct {
	Block    *Block
	From, To int // rows of the block, from one to before another
	Row      int // of the order at From, in the book
}

// Stretches are all orders of the book, at most so many in each stretch, in the order of the book.
func (b *Book) Stretches(most int) (stretches []Stretch) {
	for i, block := range b.blocks {
		for from := 0; from < len(block.IDs); from += most {
			stretches = append(stretches, Stretch{block, from, min(from+most, len(block.IDs)), i*blockSize + from})
		}
	}
	return stretches
}

// Locate finds the order in a row of the book: its block, and its row there.
func (b *Book) Locate(row int) (block *Block, at int) {
	return b.blocks[row/blockSize], row % blockSize
}

// An Offset is where an order stands.
type Offset struct {
	Block *Block
	At    int // row of the block
	Row   int // of the book
}

// Offset is that of the order at some place of the stretch.
func (s *Stretch) Offset(i int) Offset { return Offset{s.Block, s.From + i, s.Row + i} }
