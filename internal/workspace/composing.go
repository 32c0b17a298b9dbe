package workspace

import (
	"cmp"
	"strings"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/explain"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/phrase"
)

// Composing is what is to be written into a page.
type Composing struct {
	Page, Text string
	// From and To are the caret or the selection, as byte offsets of the text.
	From, To int
	// Action is one of those that the API names.
	Action string
	// Target is what is to be led to, Targets are those of a list; paths in the folder with their fragments, or addresses.
	Target  string
	Targets []string
	// Heading is the text of the target's heading, which is given an id if it has none.
	Heading                string
	Words, Title, Language string
	NewTab                 bool
	// LevelFrom and LevelTo are the headings that a list of contents is made of, 1 to 6.
	LevelFrom, LevelTo int
	Message            *Message
}

// Message is what an e-mail link fills in.
type Message struct{ To, Cc, Bcc, Subject, Body string }

// Composed is what is written, before it is.
type Composed struct {
	// Edits are those of the page's text, in order, at byte offsets. Written is what they put in.
	Edits   []change.Edit
	Written string
	// Lands says where it leads, as the end of a sentence.
	Lands string
	// Link is the link around the caret, if it was asked for and there is one.
	Link *LinkAt
	// GivesPage and GivesHeading are a heading of another page that has to be given an id first; see [Session.PlanHeadingID].
	GivesPage, GivesHeading string
}

// LinkAt is a link as it is in a text.
type LinkAt struct {
	Href, Words, Title string
	NewTab             bool
}

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
	write := actions[c.Action]
	if write == nil {
		return Composed{}, &compose.PlaceError{Sentence: "That is nothing that can be written."}
	}
	if puts[c.Action] && c.From == c.To {
		if err := p.Within(c.From); err != nil {
			return Composed{}, err
		}
	}
	edits, err := write(&w)
	if err != nil {
		return Composed{}, err
	}
	if w.out.Edits, err = change.Sorted(edits, len(p.Text)); err != nil {
		return Composed{}, err
	}
	var written []string
	for _, e := range w.out.Edits {
		written = append(written, string(e.New))
	}
	w.out.Written = strings.Join(written, "…")
	err = w.land() // which adds to what is returned
	return w.out, err
}

// composing is a [Composing] while it is worked out.
type composing struct {
	Composing
	session *Session
	view    *View
	page    *compose.Page
	out     Composed
	given   []byte // the text of the other page with the id that a heading of it is given
}

// puts are the actions that put something new at the caret.
var puts = map[string]bool{"contents": true, "picture": true, "frame": true, "list": true, "e-mail": true, "link": true}

// actions is the table of what can be written.
var actions = map[string]func(*composing) ([]change.Edit, error){
	"look":   (*composing).look,
	"link":   (*composing).writeLink,
	"e-mail": (*composing).writeEMail,
	"paste":  (*composing).paste,
	"unlink": func(c *composing) ([]change.Edit, error) { return c.page.Unlink(c.From) },
	"id": func(c *composing) ([]change.Edit, error) {
		_, edits, err := c.page.GiveID(c.From, c.Words)
		return edits, err
	},
	"contents": func(c *composing) ([]change.Edit, error) {
		return c.page.Contents(c.From, cmp.Or(c.LevelFrom, 2), cmp.Or(c.LevelTo, 3))
	},
	"top": func(c *composing) ([]change.Edit, error) { return c.page.BackToTop(cmp.Or(c.Words, "Back to the top")) },
	"picture": func(c *composing) ([]change.Edit, error) {
		width, height := c.session.PictureSize(c.Target)
		return c.page.Picture(c.From, c.Target, c.Words, width, height), nil
	},
	"frame": func(c *composing) ([]change.Edit, error) { return c.page.Frame(c.From, c.Target, c.Words), nil },
	"list": func(c *composing) ([]change.Edit, error) {
		if len(c.Targets) == 0 {
			return nil, &compose.PlaceError{Sentence: "Choose the pages first."}
		}
		return c.page.List(c.From, c.Targets), nil
	},
}

func (c *composing) writeEMail() ([]change.Edit, error) {
	if c.Message == nil {
		return nil, &compose.PlaceError{Sentence: "Say whom the message is to go to."}
	}
	m := c.Message
	c.Target = mailbox.Compose(m.To, m.Cc, m.Bcc, m.Subject, m.Body)
	c.Words = cmp.Or(c.Words, m.To)
	return c.writeLink()
}

func (c *composing) writeLink() ([]change.Edit, error) {
	own, err := c.giveID()
	if err != nil {
		return nil, err
	}
	if problems := mailbox.Parse(c.Target).Problems; strings.HasPrefix(c.Target, "mailto:") && len(problems) > 0 {
		return nil, &compose.PlaceError{Sentence: "A mail program would not read that as meant: " + problems[0] + "."}
	}
	l := compose.Link{Target: c.Target, Text: c.Words, Title: c.Title, Language: c.Language, NewTab: c.NewTab}
	if open, _ := c.page.Around(c.From); open == nil && c.From != c.To {
		l.Text = "" // that of the selection
	}
	edits, err := c.page.Make(c.From, c.To, l)
	return append(own, edits...), err
}

// giveID gives the heading that is led to an id, if it has none. That of another page only has one in what is said of the
// landing: the page is changed when that is asked for.
func (c *composing) giveID() ([]change.Edit, error) {
	file, fragment, has := strings.Cut(c.Target, "#")
	if !has || fragment != "" || c.Heading == "" {
		return nil, nil
	}
	page := c.page
	if file != c.Page {
		var err error
		if page, err = c.session.OpenPage(c.view, file, nil); err != nil {
			return nil, err
		}
	}
	id, edits, err := page.GiveHeadingID(c.Heading)
	if err != nil || id == "" {
		return nil, err
	}
	c.Target = file + "#" + id
	if file == c.Page {
		return edits, nil
	}
	c.out.GivesPage, c.out.GivesHeading = file, c.Heading
	c.given, err = change.Apply(page.Text, edits)
	return nil, err
}

// paste makes the paths of what was pasted right for the page, if it was copied from another page of the folder.
func (c *composing) paste() ([]change.Edit, error) {
	from, edits := c.page.Pasted(c.Text[c.From:c.To])
	for i := range edits {
		edits[i].Start, edits[i].End = edits[i].Start+c.From, edits[i].End+c.From
	}
	if from != "" {
		c.out.Lands = "was copied from " + phrase.Mono(from)
	}
	return edits, nil
}

// look looks at the link around the caret.
func (c *composing) look() ([]change.Edit, error) {
	open, end := c.page.Around(c.From)
	if open == nil {
		return nil, nil
	}
	value := func(name string) string {
		a, b, _, ok := markup.AttributeOf(c.page.Text, open.Start, name)
		if !ok {
			return ""
		}
		ref := markup.Reference{Written: string(c.page.Text[a:b]), Flags: markup.Escaped}
		return ref.Value()
	}
	stop := len(c.page.Text)
	if end != nil {
		stop = end.Start
	}
	c.out.Link = &LinkAt{Href: value("href"), Words: c.page.Excerpt(open.End, stop), Title: value("title"), NewTab: value("target") == "_blank"}
	return nil, nil
}

// land says where what is written leads among the pages as they are once it is written, with the id that a heading is given.
func (c *composing) land() error {
	if c.Target == "" || c.out.Lands != "" {
		return nil
	}
	fresh, err := change.Apply(c.page.Text, c.out.Edits)
	if err != nil {
		return err
	}
	after, own, err := c.view.WithText(c.Page, fresh)
	if err == nil && c.given != nil {
		after, _, err = after.WithText(c.out.GivesPage, c.given)
	}
	if err != nil {
		return err
	}
	verb, where, note := explain.Destination(audit.Imagine(after.Snapshot, own, c.page.AddressOf(c.Target)))
	c.out.Lands = strings.TrimSpace(verb + " " + phrase.Mono(where) + " " + note)
	return nil
}
