package change

import "github.com/aymanbagabas/go-udiff"

// Between returns the edits that make one text into another, as few letters as a comparison line by line leaves.
func Between(before, after string) []Edit {
	var out []Edit
	for _, e := range udiff.Strings(before, after) {
		start, end, fresh := e.Start, e.End, e.New
		// What the ends of a changed stretch have in common is left alone, but for the parts of one letter.
		for start < end && len(fresh) > 0 && before[start] == fresh[0] && before[start] < 0x80 {
			start, fresh = start+1, fresh[1:]
		}
		for end > start && len(fresh) > 0 && before[end-1] == fresh[len(fresh)-1] && before[end-1] < 0x80 {
			end, fresh = end-1, fresh[:len(fresh)-1]
		}
		if start < end || fresh != "" {
			out = append(out, Edit{Start: start, End: end, New: []byte(fresh)})
		}
	}
	return out
}

// Merge returns what both texts made of another one: the changes of mine and of theirs, if none of them touch.
func Merge(before, theirs, mine string) (string, bool) {
	a, b := Between(before, theirs), Between(before, mine)
	for _, x := range a {
		for _, y := range b {
			if x.Start <= y.End && y.Start <= x.End {
				return "", false
			}
		}
	}
	out, err := Apply([]byte(before), append(a, b...))
	return string(out), err == nil
}
