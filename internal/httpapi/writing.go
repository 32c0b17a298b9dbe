package httpapi

import (
	"bytes"
	"context"
	"encoding/hex"
	"fmt"
	"io"
	"mime"
	"net/mail"
	"slices"
	"strings"

	"arvel/api"
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/explain"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/internal/preview"
	"arvel/internal/workspace"
)

func hashOf(text string) change.Hash {
	b, _ := hex.DecodeString(text) // what is no hash is that of no file
	return change.HashFrom(b)
}

// SaveSource saves the text of a file.
func (h writing) SaveSource(ctx context.Context, r api.SaveSourceRequestObject) (api.SaveSourceResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	save := workspace.Saving{Page: r.Body.Page, Text: r.Body.Text, Base: hashOf(r.Body.Base)}
	if g := r.Body.Gives; g != nil {
		save.Gives = &workspace.HeadingAt{Page: g.Page, Heading: g.Heading}
	}
	if l := r.Body.Words; l != nil {
		words := linkedWords(l)
		save.Words = &words
	}
	p, err := w.PlanSave(ctx, save)
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, &p.Plan)
	if err != nil {
		return nil, err
	}
	return api.SaveSource200JSONResponse{Change: id, Text: p.Text}, nil
}

func linkedWords(l *api.LinkedWords) workspace.LinkedWords {
	return workspace.LinkedWords{Words: l.Words, Target: l.Target, Attributes: attributesOf(l.Attributes), Leave: l.Leave}
}

func attributesOf(list []api.TagAttribute) compose.Attributes {
	out := compose.Attributes{}
	for _, a := range list {
		out = append(out, compose.Attribute{Name: a.Name, Value: a.Value})
	}
	return out
}

// GetSource answers with the text of a file and where its references are in it.
func (h writing) GetSource(_ context.Context, r api.GetSourceRequestObject) (api.GetSourceResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, err := v.File(r.Params.Page)
	if err != nil {
		return nil, err
	}
	src, err := w.Source(r.Params.Page)
	if err != nil {
		return nil, err
	}
	m := markup.NewMapper(src)
	hash := change.HashOf(src)
	begin := func(text string) int {
		return markup.Units(text[:compose.Open(v.Snapshot, r.Params.Page, []byte(text)).Begin()])
	}
	out := api.GetSource200JSONResponse{Text: m.Text, Encoding: m.Encoding, Begin: begin(m.Text), Hash: hex.EncodeToString(hash[:]), Spans: spans(w, v, file, m, 0)}
	draft, ok, err := w.Drafts.Get(r.Params.Page)
	if err != nil {
		return nil, err
	}
	if ok {
		out.Draft = &api.Draft{Text: draft.Text, Begin: begin(draft.Text), Base: hex.EncodeToString(draft.Base[:]), Stale: !draft.Base.Is(src)}
		if out.Draft.Stale {
			out.Draft.Difference = change.Compared("in the file", "not saved", m.Text, draft.Text)
		}
	}
	return out, nil
}

// KeepDraft keeps text that is not saved yet, or forgets it.
func (h writing) KeepDraft(_ context.Context, r api.KeepDraftRequestObject) (api.KeepDraftResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	if r.Body.Text == nil || r.Body.Base == nil {
		return api.KeepDraft204Response{}, w.Drafts.Drop(r.Body.Page)
	}
	return api.KeepDraft204Response{}, w.Drafts.Keep(r.Body.Page, *r.Body.Text, hashOf(*r.Body.Base))
}

// JudgeText judges the references in text that is not saved yet.
func (h writing) JudgeText(_ context.Context, r api.JudgeTextRequestObject) (api.JudgeTextResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	text := []byte(r.Body.Text)
	judged, file, err := v.WithText(r.Body.Page, text)
	if err != nil {
		return nil, err
	}
	return api.JudgeText200JSONResponse{
		Spans: spans(w, judged, file, markup.NewMapper(append([]byte("\xEF\xBB\xBF"), text...)), 3), Marks: preview.Marks(judged, file, reference),
	}, nil
}

// spans are where the references of a file are in its text. shift is how many bytes the mapper has before the file's.
func spans(w *workspace.Session, v *workspace.View, file int32, m *markup.Mapper, shift int) []api.Span {
	out := []api.Span{}
	f := &v.Snapshot.Files[file]
	if f.Doc == nil {
		return out
	}
	keys, tried := workspace.Keys(f.Doc), w.Tried(v, file)
	for i, state := range v.Report.States(file) {
		ref := &f.Doc.References[i]
		one := reference(audit.NewCase(v.Snapshot, file, i), state, keys[i])
		one.Tried = tried != nil && tried[i]
		out = append(out, api.Span{From: m.Unit(int(ref.Start) + shift), To: m.Unit(int(ref.End) + shift), Reference: one})
	}
	return out
}

// ListOffers lists what can be referred to.
func (h writing) ListOffers(_ context.Context, r api.ListOffersRequestObject) (api.ListOffersResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.OpenPage(v, r.Body.Page, r.Body.Text)
	if err != nil {
		return nil, err
	}
	var list []compose.Offer
	var typing *compose.Typing
	switch {
	case r.Body.At != nil:
		t, ok := p.TypingAt(markup.ByteOf(string(p.Text), *r.Body.At))
		if !ok {
			return api.ListOffers200JSONResponse{}, nil
		}
		typing = &t
		list = p.Complete(t.Value, t.Element)
	case r.Body.Value != nil:
		list = p.Complete(*r.Body.Value, text(r.Body.Element))
	case r.Body.Target != nil:
		if o, ok := p.OfferOf(*r.Body.Target, text(r.Body.Heading)); ok {
			list = append(list, o)
		}
	case r.Body.Words != nil:
		list = p.Search(*r.Body.Words, 40)
	}
	out := api.ListOffers200JSONResponse{}
	for _, o := range list {
		one := api.Offer{Written: o.Written, Target: o.Target, Name: o.Name, Title: o.Title, Kind: o.Kind, Shown: o.Shown(), NeedsId: o.NeedsID()}
		if typing != nil {
			from, insert := markup.Units(string(p.Text[:typing.From])), typing.Insert(o.Written)
			one.From, one.Insert = &from, &insert
		}
		out = append(out, one)
	}
	return out, nil
}

// Locate finds in a page's text what was selected in the page itself.
func (h writing) Locate(_ context.Context, r api.LocateRequestObject) (api.LocateResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.OpenPage(v, r.Body.Page, &r.Body.Text)
	if err != nil {
		return nil, err
	}
	var from, to int
	var ok bool
	if r.Body.Key != nil {
		if i := slices.Index(workspace.Keys(p.Doc), *r.Body.Key); i >= 0 {
			from, to, ok = p.Tag(&p.Doc.References[i])
		}
	} else {
		from, to, ok = p.Find(text(r.Body.Words), number(r.Body.Before, 0))
	}
	if !ok {
		return api.Locate200JSONResponse{}, nil
	}
	begin, end := markup.Units(r.Body.Text[:from]), markup.Units(r.Body.Text[:to])
	return api.Locate200JSONResponse{From: &begin, To: &end}, nil
}

// Compose works out what is to be written.
func (h writing) Compose(_ context.Context, r api.ComposeRequestObject) (api.ComposeResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	b := r.Body
	from, to := markup.ByteOf(b.Text, b.From), markup.ByteOf(b.Text, b.To)
	c := workspace.Composing{Page: b.Page, Text: b.Text, From: min(from, to), To: max(from, to), Words: b.Words, Heading: text(b.Heading)}
	if b.What != nil {
		c.What = string(*b.What)
	}
	if b.Attributes != nil {
		as := attributesOf(*b.Attributes)
		c.Attributes = &as
	}
	if b.Targets != nil {
		c.Targets = *b.Targets
	}
	if l := b.Contents; l != nil {
		c.Contents = &compose.ContentsList{From: l.From, To: l.To, Renewed: l.Renewed}
	}
	if m := b.Message; m != nil {
		c.Message = &workspace.Message{To: m.To, Cc: m.Cc, Bcc: m.Bcc, Subject: m.Subject, Body: m.Body}
	}
	done, err := w.Compose(v, c)
	if err != nil {
		return nil, err
	}
	e := done.Element
	out := api.Compose200JSONResponse{
		Choices: []api.Choice{}, What: api.Writable(done.What), Edits: textEdits(b.Text, done.Edits), Written: done.Written,
		Wants: done.Wants, WantsWhy: done.WantsWhy, Also: append([]string{}, done.Also...),
		Contents: api.ContentsList{From: done.Contents.From, To: done.Contents.To, Renewed: done.Contents.Renewed},
		Element: api.TagInLine{
			Name: e.Name, Attributes: []api.TagAttribute{}, Words: e.Words, Exists: e.Exists, HasWords: e.HasWords, Holds: e.Holds,
		},
	}
	for _, one := range done.Choices {
		out.Choices = append(out.Choices, api.Choice{
			What: api.Writable(one.What), Label: one.Label, From: markup.Units(b.Text[:one.From]), To: markup.Units(b.Text[:one.To]),
		})
	}
	for _, a := range e.Attributes {
		out.Element.Attributes = append(out.Element.Attributes, api.TagAttribute{Name: a.Name, Value: a.Value})
	}
	if m := done.Message; m != nil {
		out.Message = &api.Message{To: m.To, Cc: m.Cc, Bcc: m.Bcc, Subject: m.Subject, Body: m.Body}
	}
	if g := done.Gives; g != nil {
		out.Gives = &api.HeadingAt{Page: g.Page, Heading: g.Heading}
	}
	if done.Leads != nil {
		leads := leadsOf(done.Leads)
		out.Leads = &leads
	}
	return out, nil
}

func textEdits(text string, edits []change.Edit) []api.TextEdit {
	out := []api.TextEdit{}
	for _, e := range edits {
		out = append(out, api.TextEdit{From: markup.Units(text[:e.Start]), To: markup.Units(text[:e.End]), Insert: string(e.New)})
	}
	return out
}

// leadsOf shows where a reference leads on a page that is being written.
func leadsOf(l *workspace.Leads) api.Leads {
	v := l.View
	c := audit.NewCase(v.Snapshot, l.File, l.Reference)
	state := v.Report.States(l.File)[l.Reference]
	one := reference(c, state, workspace.Key(c.File.Doc, l.Reference))
	out := api.Leads{
		Key: one.Key, State: one.State, Destination: one.Destination, Start: c.Start(), Stair: treads(explain.Stair(c)), Target: l.Target, Meant: []api.Meant{},
	}
	out.Headline, out.Sentences = explain.Explain(c, v.Report.Of(l.File, l.Reference))
	for _, p := range v.Repairs(l.File, l.Reference) {
		fresh := markup.Reference{Written: p.Written, Flags: c.Ref.Flags}
		out.Meant = append(out.Meant, api.Meant{Value: fresh.Value(), Why: p.Why, Certainty: p.Certainty.String()})
	}
	return out
}

// JudgePasted answers whether pasted text was copied from another page.
func (h writing) JudgePasted(_ context.Context, r api.JudgePastedRequestObject) (api.JudgePastedResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	b := r.Body
	from, to := markup.ByteOf(b.Text, b.From), markup.ByteOf(b.Text, b.To)
	source, edits, err := w.Pasted(v, b.Page, b.Text, min(from, to), max(from, to))
	if err != nil {
		return nil, err
	}
	return api.JudgePasted200JSONResponse{Source: source, Edits: textEdits(b.Text, edits)}, nil
}

func text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

func number(n *int, otherwise int) int {
	if n == nil {
		return otherwise
	}
	return *n
}

// PlanWords finds the words of a link on other pages.
func (h writing) PlanWords(ctx context.Context, r api.PlanWordsRequestObject) (api.PlanWordsResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	at, err := w.WordsElsewhere(ctx, v, linkedWords(r.Body))
	if err != nil {
		return nil, err
	}
	out := api.PlanWords200JSONResponse{}
	for _, a := range at {
		out = append(out, api.WordsAt{Page: a.Path, Line: a.Line, Written: a.Written})
	}
	return out, nil
}

// BringBlock brings a block of links to other pages.
func (h writing) BringBlock(ctx context.Context, r api.BringBlockRequestObject) (api.BringBlockResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	p, err := w.PlanMenu(ctx, workspace.Menu{
		Page: r.Body.Page, Text: r.Body.Text, At: markup.ByteOf(r.Body.Text, r.Body.At), Block: number(r.Body.Block, -1), Leave: r.Body.Leave, Added: r.Body.Added,
	})
	if err != nil {
		return nil, err
	}
	id, err := applied(ctx, w, &p.Plan, r.Body.Carry)
	if err != nil {
		return nil, err
	}
	out := api.BringBlock200JSONResponse{Blocks: []api.LinkBlock{}, Block: p.Block, Pages: []api.BroughtTo{}, Change: id}
	for _, one := range p.Blocks {
		out.Blocks = append(out.Blocks, api.LinkBlock{Name: one.Name, Links: one.Links})
	}
	for _, replaces := range []bool{true, false} {
		for _, one := range p.Pages {
			if one.Replaces != replaces {
				continue
			}
			same := len(one.Edits) == 0
			switch {
			case same:
				out.Same++
			case replaces:
				out.Replaced++
			default:
				out.Added++
			}
			if len(out.Pages) < plannedShown && !same {
				out.Pages = append(out.Pages, api.BroughtTo{
					Page: one.Page, Title: one.Title, Line: one.Line, Replaces: replaces, Notes: append([]string{}, one.Notes...), Difference: one.Difference,
				})
			}
		}
	}
	return out, nil
}

// MakePage makes a page.
func (h writing) MakePage(ctx context.Context, r api.MakePageRequestObject) (api.MakePageResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	if r.Body.Check != nil && *r.Body.Check {
		n := compose.NameFor(v.Snapshot, r.Body.Path, r.Body.Title, text(r.Body.Pattern))
		return api.MakePage200JSONResponse{Path: n.Path, Faults: append([]string{}, n.Faults...), Refused: n.Refused, Better: n.Better}, nil
	}
	p, err := w.PlanPage(text(r.Body.Pattern), r.Body.Path, compose.New{Title: r.Body.Title, Back: text(r.Body.Back)})
	if err != nil {
		return nil, err
	}
	id, err := w.Apply(ctx, &p.Plan)
	if err != nil {
		return nil, err
	}
	return api.MakePage200JSONResponse{Path: p.Path, Faults: []string{}, Change: id}, nil
}

// AddPicture takes a picture in.
func (h writing) AddPicture(ctx context.Context, r api.AddPictureRequestObject) (api.AddPictureResponseObject, error) {
	w, _, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	b, err := io.ReadAll(io.LimitReader(r.Body, workspace.PictureLimit+1))
	if err != nil {
		return nil, err
	}
	p, err := w.PlanPicture(r.Params.Name, b)
	if err != nil {
		return nil, err
	}
	if _, err := w.Apply(ctx, &p.Plan); err != nil {
		return nil, err
	}
	return api.AddPicture200JSONResponse{Path: p.Path, Width: p.Width, Height: p.Height}, nil
}

// NoteTried notes that a link was followed.
func (h writing) NoteTried(_ context.Context, r api.NoteTriedRequestObject) (api.NoteTriedResponseObject, error) {
	w, err := h.session(r.Folder)
	if err != nil {
		return nil, err
	}
	return api.NoteTried204Response{}, w.MarkTried(r.Body.Page, r.Body.Key)
}

// GetMessage answers with the message that an e-mail link opens.
func (h writing) GetMessage(_ context.Context, r api.GetMessageRequestObject) (api.GetMessageResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, ref, err := v.Find(r.Params.Page, r.Params.Key)
	if err != nil {
		return nil, err
	}
	c := audit.NewCase(v.Snapshot, file, ref)
	if c.Target().Kind != address.Mail {
		return nil, &workspace.GoneError{Sentence: "This is not an e-mail link."}
	}
	b := letter(mailbox.Parse(c.Value))
	return api.GetMessage200Messagerfc822Response{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// letter writes a message as mail programs read it (RFC 5322), unsent.
func letter(m mailbox.Message) []byte {
	var b bytes.Buffer
	line := func(name, value string) {
		if value != "" {
			// A line break in a value would begin a field of its own.
			fmt.Fprintf(&b, "%s: %s\r\n", name, strings.NewReplacer("\r", " ", "\n", " ").Replace(value))
		}
	}
	people := func(list []string) string {
		var out []string
		for _, a := range list {
			out = append(out, (&mail.Address{Address: a}).String())
		}
		return strings.Join(out, ", ")
	}
	line("To", people(m.To))
	line("Cc", people(m.Cc))
	line("Bcc", people(m.Bcc))
	line("Subject", mime.QEncoding.Encode("utf-8", m.Subject))
	line("X-Unsent", "1")
	line("MIME-Version", "1.0")
	line("Content-Type", "text/plain; charset=utf-8")
	b.WriteString("\r\n" + strings.ReplaceAll(strings.ReplaceAll(m.Body, "\r\n", "\n"), "\n", "\r\n"))
	return b.Bytes()
}
