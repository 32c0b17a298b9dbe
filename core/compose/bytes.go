package compose

import (
	"bytes"
	"strings"

	"arvel/core/change"
	"arvel/core/markup"
)

// InBytes returns edits of a file's text, as the mapper has it, as those of its bytes: in its encoding, with its line
// ends. Letters that the encoding lacks give a *[markup.EncodeError].
func InBytes(src []byte, m *markup.Mapper, edits []change.Edit) ([]change.Edit, error) {
	ending := "\n"
	lf, _ := markup.Encode("\n", m.Encoding)
	crlf, _ := markup.Encode("\r\n", m.Encoding)
	if n := bytes.Count(src, crlf); n > 0 && n*2 >= bytes.Count(src, lf) {
		ending = "\r\n"
	}
	var out []change.Edit
	for _, e := range edits {
		fresh, err := markup.Encode(strings.ReplaceAll(string(e.New), "\n", ending), m.Encoding)
		if err != nil {
			return nil, err
		}
		out = append(out, change.Edit{Start: m.Offset(markup.Units(m.Text[:e.Start])), End: m.Offset(markup.Units(m.Text[:e.End])), New: fresh})
	}
	return out, nil
}
