package duration

// SmallGroup is the number of lengths below which a group is marked: its 90th percentile is little more than its longest.
const SmallGroup = 10

// Small says that a group has so few lengths that its statistics say little.
func (g Group) Small() bool { return len(g.Lengths) > 0 && g.Lengths.Orders() < SmallGroup }
