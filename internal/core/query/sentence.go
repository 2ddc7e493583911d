package query

import "strings"

// A SentencePart is a stretch of the question sentence. Slot names the word of the request that it stands
// for; it is empty for the words between.
type SentencePart struct {
	Slot string
	Text string
}

// A Sentence is the question in words: the title of every answer.
type Sentence []SentencePart

func (s Sentence) String() string {
	var text strings.Builder
	for _, p := range s {
		text.WriteString(p.Text)
	}
	return text.String()
}

// Part is a part of a sentence.
func Part(slot, text string) SentencePart { return SentencePart{slot, text} }

// GroupWords are the parts of a sentence that say by what orders are grouped.
func (q Question) GroupWords() (s Sentence) {
	for i, g := range q.By {
		s = append(s, Part("", []string{", by ", " and "}[i]), Part("by", g.Words(q.Basis)))
	}
	return s
}

// Words are the parts of a sentence that say which orders a condition picks; none without one.
func (w Where) Words() Sentence {
	if w.Condition == nil {
		return nil
	}
	return Sentence{Part("", ", where "), Part("where", w.Text)}
}
