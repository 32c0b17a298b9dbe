package httpapi

import (
	"bytes"
	"context"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"net/url"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"

	"arvel/api"
	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/distance"
	"arvel/core/explain"
	"arvel/core/mailbox"
	"arvel/core/markup"
	"arvel/core/repair"
	"arvel/core/site"
	"arvel/internal/workspace"
)

// othersShown is how many other pages that refer to a target are named.
const othersShown = 8

// GetLanding answers where a reference lands, why, and how it can be repaired.
func (h references) GetLanding(_ context.Context, r api.GetLandingRequestObject) (api.GetLandingResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	file, ref, err := v.Find(r.Params.Page, r.Params.Key)
	if err != nil {
		return nil, err
	}
	c := audit.NewCase(v.Snapshot, file, ref)
	findings := v.Report.Of(file, ref)
	out := api.GetLanding200JSONResponse{
		Reference: reference(c, v.Report.States(file)[ref], r.Params.Key), Page: r.Params.Page,
		LeadsTo: explain.RetargetFrom(c, v.Report.States(file)[ref]), Makes: explain.PageToMake(c, findings), Renames: explain.FileToRename(c, findings),
		Start: c.Start(), Stair: treads(explain.Stair(c)), Target: target(w, r.Folder, c), Repairs: []api.Repair{},
	}
	out.Headline, out.Sentences = explain.Explain(c, findings)
	out.Rules = &[]string{}
	out.Mends = []api.Mending{}
	for _, f := range findings {
		*out.Rules = append(*out.Rules, f.Rule.Name)
		if label := explain.Mends(f.Rule.Name); label != "" {
			out.Mends = append(out.Mends, api.Mending{Rule: f.Rule.Name, Label: label})
		}
	}
	out.Message = message(c)
	if c.Target().HasFragment {
		out.Fragment = c.Fragment()
	}
	out.Others, out.OthersInAll = others(v, file, c)
	src, err := w.Source(r.Params.Page)
	if err != nil {
		return nil, err
	}
	for _, p := range v.Repairs(file, ref) {
		if one, ok := repairOf(c, p, src); ok {
			out.Repairs = append(out.Repairs, one)
		}
	}
	return out, nil
}

// NextBroken answers with the next broken reference.
func (h references) NextBroken(_ context.Context, r api.NextBrokenRequestObject) (api.NextBrokenResponseObject, error) {
	_, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	page, key, ok := v.NextBroken(r.Params.Page, text(r.Params.Key), r.Params.Back != nil && *r.Params.Back)
	if !ok {
		return api.NextBroken200JSONResponse{}, nil
	}
	return api.NextBroken200JSONResponse{Page: &page, Key: &key}, nil
}

var stepKinds = map[address.StepKind]api.TreadKind{
	address.Stay: api.TreadKindStay, address.Climb: api.TreadKindClimb, address.ToTop: api.TreadKindTop, address.Enter: api.TreadKindEnter,
	address.Name: api.TreadKindName, address.Query: api.TreadKindQuery, address.Fragment: api.TreadKindFragment, address.Outside: api.TreadKindOutside,
}

func treads(stair []explain.Tread) []api.Tread {
	out := []api.Tread{}
	for _, t := range stair {
		out = append(out, api.Tread{
			Kind: stepKinds[t.Kind], Written: t.Written, Depth: t.Depth, Path: t.Path, Stands: t.Exists, Beyond: t.Beyond,
			Names: append([]string{}, t.Names...), Near: t.Near,
		})
	}
	return out
}

func runsOf(runs []distance.Run) []api.Run {
	out := []api.Run{}
	for _, r := range runs {
		out = append(out, api.Run{Written: r.Written, Real: r.Real, Same: r.Same})
	}
	return out
}

// repairOf shows a repair with the line that it changes; not if the file is no longer as it was read.
func repairOf(c *audit.Case, p repair.Repair, src []byte) (api.Repair, bool) {
	edit, err := repair.Edit(c.File.Doc.Encoding, c.Ref, p.Written)
	if err != nil {
		return api.Repair{}, false
	}
	decode := func(b []byte) string { return markup.Decode(b, src) }
	lines, err := change.Lines(src, []change.Edit{edit}, markup.Unit(src), decode)
	if err != nil {
		return api.Repair{}, false
	}
	return api.Repair{
		Written: p.Written, Certainty: api.RepairCertainty(p.Certainty.String()), Why: p.Why, Target: p.Target,
		Runs: runsOf(distance.Align(c.Ref.Written, p.Written)),
		Line: lines[0].Number, Before: lines[0].Before, After: lines[0].After,
	}, true
}

// message shows the fields of an e-mail link, decoded.
func message(c *audit.Case) []api.Field {
	out := []api.Field{}
	if c.Target().Kind != address.Mail {
		return out
	}
	m := mailbox.Parse(c.Value)
	fields := []mailbox.Field{
		{Name: "To", Value: strings.Join(m.To, ", ")},
		{Name: "Cc", Value: strings.Join(m.Cc, ", ")},
		{Name: "Bcc", Value: strings.Join(m.Bcc, ", ")},
		{Name: "Subject", Value: m.Subject},
		{Name: "Text", Value: m.Body},
	}
	for _, f := range append(fields, m.Other...) {
		if f.Value != "" {
			out = append(out, api.Field{Name: f.Name, Value: f.Value})
		}
	}
	return out
}

// target describes the file that the reference lands on.
func target(w *workspace.Session, id int64, c *audit.Case) *api.Target {
	f := c.Landed()
	if f == nil {
		return nil
	}
	t := &api.Target{Path: f.Path, Kind: f.Kind.String(), Size: f.Size}
	switch {
	case f.Doc != nil:
		t.Title = f.Doc.Title
		if text := excerpt(w, f, c); text != "" {
			t.Excerpt = &text
		}
	case f.Kind == site.Image:
		address := "/api/v1/folders/" + strconv.FormatInt(id, 10) + "/picture?path=" + url.QueryEscape(f.Path) +
			"&modified=" + strconv.FormatInt(f.Modified, 36)
		t.Picture = &address
		if width, height := w.PictureSize(f.Path); width > 0 {
			t.Width, t.Height = &width, &height
		}
	}
	return t
}

// excerpt is what a visitor sees at the fragment, or where there is none at the page's first heading.
func excerpt(w *workspace.Session, f *site.File, c *audit.Case) string {
	if c.Link.Outcome == site.NoFragment {
		return ""
	}
	src, err := w.Source(f.Path)
	if err != nil {
		return ""
	}
	if a, _ := f.Doc.Indicated(c.Target().Fragment, address.UnescapeFragment); a != nil {
		return markup.Excerpt(src, int(a.After))
	}
	if len(f.Doc.Headings) == 0 || int(f.Doc.Headings[0].NameEnd) > len(src) {
		return ""
	}
	at := int(f.Doc.Headings[0].NameEnd)
	return markup.Excerpt(src, at+bytes.IndexByte(src[at:], '>')+1)
}

// others names the other pages that refer to the same target.
func others(v *workspace.View, file int32, c *audit.Case) (list []api.PageName, all int) {
	list = []api.PageName{}
	if c.Link.File < 0 {
		return list, 0
	}
	for _, i := range v.Snapshot.Referrers(c.Link.File) {
		if i == file {
			continue
		}
		if all++; len(list) < othersShown {
			f := &v.Snapshot.Files[i]
			first := slices.IndexFunc(v.Snapshot.Links(i), func(l site.Link) bool { return l.File == c.Link.File })
			one := api.PageName{Path: f.Path, Title: f.Doc.Title}
			if first >= 0 {
				one.Key = workspace.Key(f.Doc, first)
			}
			list = append(list, one)
		}
	}
	return list, all
}

// GetPicture answers with a picture of the folder.
func (h references) GetPicture(_ context.Context, r api.GetPictureRequestObject) (api.GetPictureResponseObject, error) {
	w, v, err := h.view(r.Folder)
	if err != nil {
		return nil, err
	}
	f, ok := v.FileAt(r.Params.Path)
	if !ok || f.Kind != site.Image {
		return nil, fs.ErrNotExist
	}
	file, err := w.OpenFile(f.Path)
	if err != nil {
		return nil, err
	}
	return &picture{mime.TypeByExtension(strings.ToLower(path.Ext(f.Path))), file}, nil
}

// picture is a file of the author's, who need not have written it, shown as an image and as nothing else.
type picture struct {
	kind string
	file *os.File
}

// VisitGetPictureResponse writes the picture.
func (p *picture) VisitGetPictureResponse(rw http.ResponseWriter) error {
	defer p.file.Close()
	h := rw.Header()
	if !strings.HasPrefix(p.kind, "image/") {
		p.kind = "application/octet-stream"
	}
	h.Set("Content-Type", p.kind)
	h.Set("Content-Security-Policy", "sandbox; default-src 'none'; style-src 'unsafe-inline'")
	h.Set("Cache-Control", "private, max-age=60")
	_, err := io.Copy(rw, p.file)
	return err
}
