package array

// uncovered lists, by going through every set of factors and every combination, those that no row has and that feasible lets be.
func uncovered(levels []int, t int, rows []Row, feasible func(factors, levels []int) bool) [][2][]int {
	var out [][2][]int
	var sets func(from int, set []int)
	var combinations func(set, at []int)
	combinations = func(set, at []int) {
		if len(at) < len(set) {
			for level := range levels[set[len(at)]] {
				combinations(set, append(at[:len(at):len(at)], level))
			}
			return
		}
		for _, row := range rows {
			has := true
			for i, f := range set {
				has = has && row[f] == at[i]
			}
			if has {
				return
			}
		}
		if feasible == nil || feasible(set, at) {
			out = append(out, [2][]int{set, at})
		}
	}
	sets = func(from int, set []int) {
		if len(set) == t {
			combinations(set, nil)
			return
		}
		for f := from; f < len(levels); f++ {
			sets(f+1, append(set[:len(set):len(set)], f))
		}
	}
	sets(0, nil)
	return out
}
