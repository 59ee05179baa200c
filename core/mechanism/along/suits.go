package along

// Suits tells how well joints suit a chain along a curve: the more of them the better.
func Suits(chosen []string) float64 {
	switch n := len(chosen); {
	case n >= 6:
		return 0.9
	case n >= 4:
		return 0.55
	case n == 3:
		return 0.48
	}
	return 0.1
}
