package mechanism

// Looseness is an error that tells of joints that would still be loose: with them in a role of the kind, what it builds has no freedom left.
type Looseness interface {
	error
	// Loose returns these joints and the name of the role; no joints where no role would help.
	Loose() (joints []string, role string)
	// Sways tells how they, and what moves with them, can move meanwhile; nil where that is not known.
	Sways() []Sway
}
