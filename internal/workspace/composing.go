package workspace

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// Composing is what is to be written into a page.
type Composing struct {
	Page, Text string
	// From and To are the caret or the selection, as byte offsets of the text.
	From, To int
	// What is one of those that package compose names; "" for what is most likely wanted there.
	What string
	// Attributes and Words are those that the tag is to have; nil for those that it has, or begins with.
	Attributes *compose.Attributes
	Words      *string
	// Message takes the place of an e-mail link's address.
	Message *Message
	// Heading is the text of the target's heading, which is given an id if it has none.
	Heading string
	// Targets are the pages of a list, as paths.
	Targets []string
	// Contents are the levels of a list of contents, and whether it is renewed with the page; nil for what it has.
	Contents *compose.ContentsList
}

// Message is what an e-mail link fills in, its addresses parted by commas.
type Message struct{ To, Cc, Bcc, Subject, Body string }

// Composed is what is written, before it is.
type Composed struct {
	// Choices are what can be written there; What is which of them this is.
	Choices []compose.Choice
	What    string
	// Element is the tag as it will be, with what was filled in for its author.
	Element ComposedElement
	// Message is what an e-mail link fills in; nil where it is none.
	Message *Message
	// Contents is the page's list of contents, as it will be.
	Contents compose.ContentsList
	// Edits are those of the page's text, in order, at byte offsets; none while Wants says what is missing. Written is what they
	// put in.
	Edits   []change.Edit
	Written string
	// Wants is the place that has to be filled in first, by the name of its attribute, and WantsWhy a sentence on it; "" for none.
	Wants, WantsWhy string
	// Also says, a sentence each, what else is changed.
	Also []string
	// Leads is the reference in the page as it will be; nil where none is written.
	Leads *Leads
	// Gives is a heading of another page that has to be given an id first; see [Session.PlanHeadingID].
	Gives *HeadingAt
}

// ComposedElement is a tag that is being written.
type ComposedElement struct {
	Name       string
	Attributes compose.Attributes
	Words      string
	// Exists: it is in the text already. Holds is the first tag among its words, which keeps them from being changed. HasWords: it
	// shows words at all.
	Exists, HasWords bool
	Holds            string
}

// Leads is a reference in a page that is being written.
type Leads struct {
	View      *View
	File      int32
	Reference int
	// Target is the path in the folder that it leads to, with its fragment, or its address.
	Target string
}

// HeadingAt is a heading of a page, by its words.
type HeadingAt struct{ Page, Heading string }

// OpenPage opens the text of a page for composing: the given one, or the file's where text is nil. A page of "" is the opened
// folder, as what is written is seen from there.
func (s *Session) OpenPage(v *View, page string, text *string) (*compose.Page, error) {
	if page == "" {
		return compose.Known(v.Snapshot, "", &markup.Document{}), nil
	}
	if _, err := v.File(page); err != nil {
		return nil, err
	}
	if text != nil {
		return compose.Open(v.Snapshot, page, []byte(*text)), nil
	}
	src, err := s.Source(page)
	if err != nil {
		return nil, err
	}
	return compose.Open(v.Snapshot, page, []byte(markup.NewMapper(src).Text)), nil
}

// Compose works out what is to be written. It changes nothing.
func (s *Session) Compose(v *View, c Composing) (Composed, error) {
	if c.Page == "" {
		return Composed{}, &GoneError{"Say which page is to be written in."}
	}
	p, err := s.OpenPage(v, c.Page, &c.Text)
	if err != nil {
		return Composed{}, err
	}
	w := composing{Composing: c, session: s, view: v, page: p}
	w.out.Choices = p.Choices(c.From, c.To)
	if w.What == "" {
		first := w.out.Choices[0]
		w.What, w.From, w.To = first.What, first.From, first.To
	}
	w.out.What = w.What
	write := writers[w.What]
	if write == nil {
		return Composed{}, &compose.PlaceError{Sentence: "Arvel can't write that."}
	}
	edits, err := write(&w)
	if err != nil {
		return Composed{}, err
	}
	if w.out.Edits, err = change.Sorted(append(w.own, edits...), len(p.Text)); err != nil {
		return Composed{}, err
	}
	var written []string
	for _, e := range w.out.Edits {
		written = append(written, string(e.New))
	}
	w.out.Written = strings.Join(written, "…")
	// Where it leads is said as soon as there is an address, even if something else is missing.
	if address := []string{"href", "src", "to"}; !slices.Contains(address, w.out.Wants) {
		if err := w.lead(); err != nil {
			return Composed{}, err
		}
	}
	if w.out.Wants != "" {
		w.out.Edits, w.out.Written = nil, ""
	}
	return w.out, nil
}

// composing is a [Composing] while it is worked out.
type composing struct {
	Composing
	session *Session
	view    *View
	page    *compose.Page
	out     Composed
	own     []change.Edit // those that give a heading of the page an id
	given   []byte        // the text of the other page with the id that a heading of it is given
	tag     int           // where the tag that is written begins, before the edits; -1 for none
}

// writers is the table of what can be written.
var writers = map[string]func(*composing) ([]change.Edit, error){
	compose.Tag:      (*composing).changeTag,
	compose.Tags:     (*composing).changeTags,
	compose.Unlink:   (*composing).unlink,
	compose.Link:     (*composing).writeLink,
	compose.EMail:    (*composing).writeLink,
	compose.Picture:  (*composing).writePicture,
	compose.Frame:    (*composing).writeFrame,
	compose.ID:       (*composing).writeID,
	compose.List:     (*composing).writeList,
	compose.Contents: (*composing).writeContents,
	compose.Top:      (*composing).writeTop,
	compose.NewPage:  func(c *composing) ([]change.Edit, error) { return c.nothing() },
	compose.Menu:     func(c *composing) ([]change.Edit, error) { return c.nothing() },
}

func (c *composing) nothing() ([]change.Edit, error) {
	c.tag = -1
	return nil, nil
}

// wants says what has to be filled in first, the first that is.
func (c *composing) wants(place, why string) {
	if c.out.Wants == "" {
		c.out.Wants, c.out.WantsWhy = place, why
	}
}

func (c *composing) also(format string, args ...any) {
	c.out.Also = append(c.out.Also, fmt.Sprintf(format, args...))
}

// element begins an element with the attributes that are wanted, or else with those given, and returns what they are now.
func (c *composing) element(name string, begin ...compose.Attribute) compose.Attributes {
	as := compose.Attributes(begin)
	if c.Attributes != nil {
		as = *c.Attributes
	}
	c.out.Element = ComposedElement{Name: name, Attributes: as}
	return as
}

// changeTag writes the tag at the selection with other attributes.
func (c *composing) changeTag() ([]change.Edit, error) {
	e, ok := c.page.ElementAt(c.From, c.To)
	if !ok {
		return nil, &compose.PlaceError{Sentence: "There is no tag here."}
	}
	return c.rewrite(&e, e.Attributes)
}

// rewrite writes a tag that is there. begin are its attributes as they are offered.
func (c *composing) rewrite(e *compose.Element, begin compose.Attributes) ([]change.Edit, error) {
	c.tag = e.Start()
	as := c.element(e.Name, begin...)
	if as = c.fillIn(as, e.Attributes); e.Name == "a" && as != nil {
		if href, has := as.Get("href"); has && href == "" {
			c.wants("href", "Where does it lead?")
		}
	}
	if err := c.giveID(&as); err != nil {
		return nil, err
	}
	o := &c.out.Element
	o.Attributes, o.Words, o.Exists, o.Holds, o.HasWords = as, e.Words, true, e.Holds, !e.Void
	words := c.Words
	if words != nil {
		if o.Words = *words; strings.TrimSpace(*words) == "" && e.Holds == "" && e.Words != "" {
			c.wants("words", "A link needs words: visitors click on them.")
		}
	}
	return c.page.Rewrite(e, as, words)
}

// fillIn returns attributes with what goes with them: the address of a message, the id of a heading, the rel of a new tab.
// before are those that the tag had.
func (c *composing) fillIn(as, before compose.Attributes) compose.Attributes {
	href, has := as.Get("href")
	if c.Message != nil {
		m := c.Message
		if old, _ := before.Get("href"); strings.HasPrefix(strings.ToLower(old), "mailto:") {
			href = old
		}
		href, has = mailbox.Rewrite(href, m.To, m.Cc, m.Bcc, m.Subject, m.Body), true
		as = as.With("href", href)
	}
	if has && len(href) >= len("mailto:") && strings.EqualFold(href[:len("mailto:")], "mailto:") {
		m := mailbox.Parse(href)
		list := func(addresses []string) string { return strings.Join(addresses, ", ") }
		c.out.Message = &Message{list(m.To), list(m.Cc), list(m.Bcc), m.Subject, strings.ReplaceAll(m.Body, "\r\n", "\n")}
	}
	fresh := as.WithOpener(before)
	if now, _ := fresh.Get("rel"); len(fresh) > 0 {
		if was, _ := as.Get("rel"); now != was && strings.Contains(now, "noopener") {
			c.also("`rel=%s` comes along, so that the other page can't change this one.", strconv.Quote(now))
		}
	}
	return fresh
}

// changeTags writes the links in the selection with the attributes that are wanted; they keep the others.
func (c *composing) changeTags() ([]change.Edit, error) {
	c.tag = -1
	list := c.page.LinksIn(c.From, c.To)
	if len(list) == 0 {
		return nil, &compose.PlaceError{Sentence: "There is no link in the selection."}
	}
	// What all of them have is offered.
	var common compose.Attributes
	for _, a := range list[0].Attributes {
		if !slices.ContainsFunc(list, func(e compose.Element) bool { v, ok := e.Attributes.Get(a.Name); return !ok || v != a.Value }) {
			common = append(common, a)
		}
	}
	as := c.element("a", common...)
	c.out.Element.Exists = true
	var edits []change.Edit
	for i := range list {
		e := &list[i]
		fresh := e.Attributes
		for _, a := range common {
			if _, kept := as.Get(a.Name); !kept {
				fresh = fresh.Without(a.Name)
			}
		}
		for _, a := range as {
			fresh = fresh.With(a.Name, a.Value)
		}
		own, err := c.page.Rewrite(e, fresh.WithOpener(e.Attributes), nil)
		if err != nil {
			return nil, err
		}
		edits = append(edits, own...)
	}
	return edits, nil
}

func (c *composing) unlink() ([]change.Edit, error) {
	c.tag = -1
	e, ok := c.page.ElementAt(c.From, c.To)
	if !ok || e.Name != "a" {
		return nil, &compose.PlaceError{Sentence: "There is no link here."}
	}
	c.out.Element = ComposedElement{Name: "a", Attributes: e.Attributes, Words: e.Words, Holds: e.Holds, Exists: true, HasWords: true}
	return c.page.Unlink(&e), nil
}

// writeLink writes a new link, or one that opens a message.
func (c *composing) writeLink() ([]change.Edit, error) {
	selected := c.page.Visible(c.From, c.To)
	begin := ""
	switch {
	case c.What == compose.EMail:
		begin = "mailto:"
		if mailbox.IsAddress(selected) {
			begin += selected
		}
	case address.SchemeOf(selected) != "" && !strings.ContainsAny(selected, " "):
		begin = selected // the words are an address
	}
	as := c.fillIn(c.element("a", compose.Attribute{Name: "href", Value: begin}), nil)
	c.tag = c.From
	href, _ := as.Get("href")
	switch m := c.out.Message; {
	case c.What == compose.EMail && (m == nil || m.To+m.Cc+m.Bcc == ""):
		c.wants("to", "Who gets the message?")
	case href == "":
		c.wants("href", "Where does it lead? Type part of a name, a title or a heading, a path, or an address.")
	}
	if err := c.giveID(&as); err != nil {
		return nil, err
	}
	o := &c.out.Element
	o.Attributes, o.HasWords = as, true
	words := c.Words
	if o.Words = selected; strings.HasPrefix(string(c.page.Text[c.From:c.To]), "<") {
		o.Holds = string(c.page.Text[c.From:c.To])
		words = nil
	}
	if c.From == c.To && (words == nil || *words == "") {
		filled := c.page.WordsFor(href)
		words = &filled
	}
	if words != nil {
		o.Words = *words
	}
	return c.page.Enclose(c.From, c.To, "a", as, words)
}

func (c *composing) writePicture() ([]change.Edit, error) {
	as := c.element("img", compose.Attribute{Name: "src"})
	c.tag = c.From
	src, _ := as.Get("src")
	if src == "" {
		c.wants("src", "Which picture? Type part of its name, or drop one here.")
	}
	if _, said := as.Get("alt"); !said {
		c.wants("alt", "Say what the picture shows, or mark it as decoration.")
	}
	if f := c.lands(src); f != "" {
		if width, height := c.session.PictureSize(f); width > 0 {
			if _, sized := as.Get("width"); !sized {
				as = as.With("width", strconv.Itoa(width)).With("height", strconv.Itoa(height))
			}
		}
	}
	c.out.Element.Attributes = as
	return c.page.Enclose(c.From, c.From, "img", as, nil)
}

// lands returns the path of the file that a reference on the page lands on; "" for none.
func (c *composing) lands(value string) string {
	file, err := c.view.File(c.Page)
	if err != nil || value == "" {
		return ""
	}
	if f := audit.Imagine(c.view.Snapshot, file, value).Landed(); f != nil {
		return f.Path
	}
	return ""
}

func (c *composing) writeFrame() ([]change.Edit, error) {
	as := c.element("iframe", compose.Attribute{Name: "src"}, compose.Attribute{Name: "title"})
	c.tag = c.From
	if src, _ := as.Get("src"); src == "" {
		c.wants("src", "Which page? Type part of its name or title, or an address.")
	}
	if title, _ := as.Get("title"); title == "" {
		c.wants("title", "Say what is in the frame, for those who hear the page.")
	}
	return c.page.Enclose(c.From, c.From, "iframe", as, nil)
}

func (c *composing) writeID() ([]change.Edit, error) {
	e, id, ok := c.page.IDElement(c.From)
	if !ok {
		return nil, &compose.PlaceError{Sentence: "There is no element here that can have an id."}
	}
	edits, err := c.rewrite(&e, e.Attributes.With("id", id))
	as := c.out.Element.Attributes
	id, _ = as.Get("id")
	was, _ := e.Attributes.Get("id")
	switch {
	case id == "":
		c.wants("id", "Which id?")
	case strings.ContainsAny(id, " \t\n"):
		c.wants("id", "An id has no spaces. Join its words by `-` or `_`.")
	case id != was && c.page.Doc.Anchor(id) != nil:
		c.wants("id", "Another element of this page has this id already.")
	}
	if was != "" && was != id {
		if n := c.referrersOf(was); n > 0 {
			c.also("%s here to `#%s` will no longer work. To change the id with its links, use Anchors.", phrase.Agree(n, "link leads", "links lead"), was)
		}
	}
	c.tag = -1
	return edits, err
}

// referrersOf counts the references of the folder that land on an id of the page.
func (c *composing) referrersOf(id string) (n int) {
	file, ok := c.view.Snapshot.Find(c.Page)
	if !ok {
		return 0
	}
	for _, from := range append(c.view.Snapshot.Referrers(file), file) {
		f := &c.view.Snapshot.Files[from]
		for i, l := range c.view.Snapshot.Links(from) {
			if _, fragment, has := strings.Cut(f.Doc.References[i].Value(), "#"); has && l.File == file && address.UnescapeFragment(fragment) == id {
				n++
			}
		}
	}
	return n
}

func (c *composing) writeList() ([]change.Edit, error) {
	c.tag = -1
	c.out.Element = ComposedElement{Name: "ul"}
	if len(c.Targets) == 0 {
		c.wants("pages", "Which pages? Type part of a name or title.")
		return nil, nil
	}
	if err := c.page.Within(c.From); err != nil {
		return nil, err
	}
	return c.page.List(c.From, c.Targets), nil
}

func (c *composing) writeContents() ([]change.Edit, error) {
	c.tag = -1
	found, has := c.page.FindContents()
	if !has {
		found.Renewed = true
		if err := c.page.Within(c.From); err != nil {
			return nil, err
		}
	}
	if c.Contents != nil {
		found.From, found.To, found.Renewed = c.Contents.From, c.Contents.To, c.Contents.Renewed
	}
	c.out.Contents = found
	c.out.Element = ComposedElement{Name: "ul", Exists: has}
	edits, err := c.page.Contents(c.From, found)
	if n := len(edits) - 1; n > 0 {
		c.also("%s an id.", phrase.Agree(n, "heading gets", "headings get"))
	}
	return edits, err
}

func (c *composing) writeTop() ([]change.Edit, error) {
	c.tag = -1
	words := "Back to the top"
	if c.Words != nil {
		words = *c.Words
	}
	if strings.TrimSpace(words) == "" {
		c.wants("words", "A link needs words: visitors click on them.")
	}
	c.out.Element = ComposedElement{Name: "a", Attributes: compose.Attributes{{Name: "href", Value: "#top"}}, Words: words, HasWords: true}
	edits, err := c.page.BackToTop(words)
	c.also("%s on this page.", phrase.Agree(len(edits), "link is written", "links are written"))
	return edits, err
}

// giveID gives the heading that is led to an id, if it has none. That of another page only has one in what is said of the
// landing: the page is changed when that is asked for.
func (c *composing) giveID(as *compose.Attributes) error {
	href, _ := as.Get("href")
	part, _, has := strings.Cut(href, "#")
	if !has || c.Heading == "" {
		return nil
	}
	file, page := c.Page, c.page
	if part != "" {
		if file = c.lands(part); file == "" {
			return nil
		}
	}
	if file != c.Page {
		var err error
		if page, err = c.session.OpenPage(c.view, file, nil); err != nil {
			return err
		}
	}
	id, edits, err := page.GiveHeadingID(c.Heading)
	if err != nil || id == "" {
		return err
	}
	*as = as.With("href", part+"#"+address.EscapeFragment(id))
	heading := "“" + strings.ReplaceAll(c.Heading, "`", "ˋ") + "”"
	if file == c.Page {
		c.own = edits
		c.also("The heading %s gets the id %s.", heading, phrase.Mono(id))
		return nil
	}
	c.also("The heading %s in %s gets the id %s: that file is changed when you press Enter.", heading, phrase.Mono(file), phrase.Mono(id))
	c.out.Gives = &HeadingAt{file, c.Heading}
	c.given, err = change.Apply(page.Text, edits)
	return err
}

// lead finds the reference that is written in the page as it will be.
func (c *composing) lead() error {
	if c.tag < 0 {
		return nil
	}
	edits := c.out.Edits
	if len(edits) == 0 && !c.out.Element.Exists {
		return nil
	}
	fresh, err := change.Apply(c.page.Text, edits)
	if err != nil {
		return err
	}
	at := c.tag
	for _, e := range edits {
		if e.End <= c.tag && e.Start < c.tag {
			at += len(e.New) - (e.End - e.Start)
		}
	}
	before := c.view
	if c.given != nil {
		if before, _, err = before.WithText(c.out.Gives.Page, c.given); err != nil {
			return err
		}
	}
	after, own, err := before.WithText(c.Page, fresh)
	if err != nil {
		return err
	}
	doc := after.Snapshot.Files[own].Doc
	tags := markup.Tags(fresh)
	end, _ := slices.BinarySearchFunc(tags, at+1, func(t markup.Tag, at int) int { return cmp.Compare(t.Start, at) })
	stop := len(fresh)
	if end < len(tags) {
		stop = tags[end].Start
	}
	for i := range doc.References {
		if s := int(doc.References[i].Start); s >= at && s < stop && doc.References[i].Attribute != markup.NoAttribute {
			c.out.Leads = &Leads{View: after, File: own, Reference: i, Target: targetOf(audit.NewCase(after.Snapshot, own, i))}
			break
		}
	}
	return nil
}

// targetOf returns the path that a reference lands on, with its fragment, or its address.
func targetOf(a *audit.Case) string {
	f := a.Landed()
	if f == nil {
		return a.Value
	}
	target := f.Path
	if t := a.Target(); t.HasFragment {
		target += "#" + address.UnescapeFragment(t.Fragment)
	}
	return target
}

// Pasted says which page of the folder text was copied from that was pasted between two places of a page, if its references
// don't land as they are but would from there, and returns the edits of the page's text that make them land.
func (s *Session) Pasted(v *View, page, text string, from, to int) (source string, edits []change.Edit, err error) {
	p, err := s.OpenPage(v, page, &text)
	if err != nil {
		return "", nil, err
	}
	source, edits = p.Pasted(text[from:to])
	for i := range edits {
		edits[i].Start, edits[i].End = edits[i].Start+from, edits[i].End+from
	}
	return source, edits, nil
}
