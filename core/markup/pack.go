package markup

import (
	"encoding/binary"
	"errors"
)

// packVersion changes whenever a Document has other content for the same bytes, so that what was kept by an
// older program is read anew.
const packVersion = 6

// ErrPacked is returned for bytes that [Pack] did not make, or made in another version.
var ErrPacked = errors.New("not a document of this version")

// Pack turns a document into bytes for keeping, each string once.
func Pack(d *Document) []byte {
	p := packer{index: map[string]uint64{}}
	p.string(d.Encoding)
	p.string(d.Title)
	p.string(d.Base)
	p.bool(d.HasBase)
	p.uint(uint64(d.BaseStart))
	p.uint(uint64(d.BaseEnd))
	p.body = append(p.body, d.BaseQuote)
	p.bool(d.Empty)
	p.uint(uint64(len(d.Faults)))
	for _, f := range d.Faults {
		p.uint(uint64(f))
	}
	p.uint(uint64(len(d.References)))
	last := uint32(0)
	for i := range d.References {
		r := &d.References[i]
		p.string(r.Written)
		p.string(r.Text)
		p.int(int64(r.Start) - int64(last))
		p.uint(uint64(r.End - r.Start))
		p.uint(uint64(r.Line))
		p.uint(uint64(r.Column))
		p.body = append(p.body, byte(r.Element), byte(r.Attribute), byte(r.Role), r.Quote)
		p.uint(uint64(r.Flags))
		last = r.Start
	}
	p.uint(uint64(len(d.Anchors)))
	for i := range d.Anchors {
		a := &d.Anchors[i]
		p.string(a.Name)
		p.uint(uint64(a.Start))
		p.uint(uint64(a.End - a.Start))
		p.uint(uint64(a.After - a.End))
		p.uint(uint64(a.Line))
		p.uint(uint64(a.Column))
		p.bool(a.ByName)
		p.bool(a.Inert)
	}
	p.uint(uint64(len(d.Maps)))
	for _, m := range d.Maps {
		p.string(m)
	}
	p.uint(uint64(len(d.Headings)))
	for i := range d.Headings {
		h := &d.Headings[i]
		p.body = append(p.body, h.Level)
		p.string(h.Text)
		p.string(h.ID)
		p.uint(uint64(h.NameEnd))
		p.uint(uint64(h.Line))
	}
	out := []byte{packVersion}
	out = binary.AppendUvarint(out, uint64(len(p.strings)))
	for _, s := range p.strings {
		out = binary.AppendUvarint(out, uint64(len(s)))
	}
	for _, s := range p.strings {
		out = append(out, s...)
	}
	return append(out, p.body...)
}

type packer struct {
	index   map[string]uint64
	strings []string
	body    []byte
}

func (p *packer) uint(n uint64) { p.body = binary.AppendUvarint(p.body, n) }
func (p *packer) int(n int64)   { p.body = binary.AppendVarint(p.body, n) }

func (p *packer) bool(b bool) {
	n := byte(0)
	if b {
		n = 1
	}
	p.body = append(p.body, n)
}

func (p *packer) string(s string) {
	i, ok := p.index[s]
	if !ok {
		i = uint64(len(p.strings))
		p.index[s] = i
		p.strings = append(p.strings, s)
	}
	p.uint(i)
}

// Unpack makes a document of what [Pack] made.
func Unpack(b []byte) (d *Document, err error) {
	if len(b) == 0 || b[0] != packVersion {
		return nil, ErrPacked
	}
	u := unpacker{b: b[1:]}
	u.table()
	d = &Document{
		Encoding: u.string(), Title: u.string(), Base: u.string(), HasBase: u.bool(), BaseStart: uint32(u.uint()), BaseEnd: uint32(u.uint()),
		BaseQuote: u.byte(), Empty: u.bool(),
	}
	d.Faults = make([]Fault, u.count())
	for i := range d.Faults {
		d.Faults[i] = Fault(u.uint())
	}
	d.References = make([]Reference, u.count())
	last := uint32(0)
	for i := range d.References {
		r := &d.References[i]
		r.Written, r.Text = u.string(), u.string()
		r.Start = uint32(int64(last) + u.int())
		r.End = r.Start + uint32(u.uint())
		r.Line, r.Column = uint32(u.uint()), uint32(u.uint())
		r.Element, r.Attribute, r.Role = Element(u.byte()), Attribute(u.byte()), Role(u.byte())
		r.Quote, r.Flags = u.byte(), Flags(u.uint())
		last = r.Start
		u.check(r.Element < numElements && r.Attribute < numAttributes && int(r.Role) < len(roleNames))
	}
	d.Anchors = make([]Anchor, u.count())
	for i := range d.Anchors {
		a := &d.Anchors[i]
		a.Name, a.Start = u.string(), uint32(u.uint())
		a.End = a.Start + uint32(u.uint())
		a.After = a.End + uint32(u.uint())
		a.Line, a.Column = uint32(u.uint()), uint32(u.uint())
		a.ByName, a.Inert = u.bool(), u.bool()
	}
	d.Maps = make([]string, u.count())
	for i := range d.Maps {
		d.Maps[i] = u.string()
	}
	d.Headings = make([]Heading, u.count())
	for i := range d.Headings {
		d.Headings[i] = Heading{u.byte(), u.string(), u.string(), uint32(u.uint()), uint32(u.uint())}
	}
	if u.bad {
		return nil, ErrPacked
	}
	d.sortAnchors()
	return d, nil
}

type unpacker struct {
	b       []byte
	strings []string
	bad     bool
}

func (u *unpacker) check(ok bool) { u.bad = u.bad || !ok }

func (u *unpacker) uint() uint64 {
	n, size := binary.Uvarint(u.b)
	if size <= 0 {
		u.bad, u.b = true, nil
		return 0
	}
	u.b = u.b[size:]
	return n
}

func (u *unpacker) int() int64 {
	n, size := binary.Varint(u.b)
	if size <= 0 {
		u.bad, u.b = true, nil
		return 0
	}
	u.b = u.b[size:]
	return n
}

// count reads the length of a list, which can't be more than the bytes that are left.
func (u *unpacker) count() int {
	n := u.uint()
	if n > uint64(len(u.b)) {
		u.bad = true
		return 0
	}
	return int(n)
}

func (u *unpacker) byte() byte {
	if len(u.b) == 0 {
		u.bad = true
		return 0
	}
	c := u.b[0]
	u.b = u.b[1:]
	return c
}

func (u *unpacker) bool() bool { return u.byte() == 1 }

// table reads the strings, all as parts of one.
func (u *unpacker) table() {
	lengths := make([]int, u.count())
	total := 0
	for i := range lengths {
		lengths[i] = u.count()
		total += lengths[i]
	}
	if total > len(u.b) {
		u.bad = true
		return
	}
	all := string(u.b[:total])
	u.b = u.b[total:]
	u.strings = make([]string, len(lengths))
	for i, n := range lengths {
		u.strings[i], all = all[:n], all[n:]
	}
}

func (u *unpacker) string() string {
	i := u.uint()
	if i >= uint64(len(u.strings)) {
		u.bad = true
		return ""
	}
	return u.strings[i]
}
