package explain

import (
	"cmp"
	"slices"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/mailbox"
	"arvel/core/site"
)

// Survey is a folder at a glance.
type Survey struct {
	// BrokenPages is how many pages have a broken reference, BrokenFiles how many style sheets, sitemaps and such.
	BrokenPages, BrokenFiles int
	// LinkKinds counts the references by the way they go and the state they are in.
	LinkKinds [site.NumLinkKinds][audit.NumStates]int
	// Rules counts the findings, the most frequent rule of the worst state first.
	Rules []RuleCount
	// Folders are the folders that hold pages, by path.
	Folders []FolderCount
	// Sites and Mailboxes are how many different ones the folder refers to.
	Sites, Mailboxes int
}

// RuleCount is how often a rule found something, and the first file where it did.
type RuleCount struct {
	Rule  *audit.Rule
	State audit.State
	Count int
	First string
}

// FolderCount is what there is in one folder, not counting the folders below it.
type FolderCount struct {
	Path                      string
	Pages, References, Broken int
}

// SurveyOf surveys a judged snapshot.
func SurveyOf(r *audit.Report, s *site.Snapshot) Survey {
	var v Survey
	rules := map[*audit.Rule]*RuleCount{}
	folders := map[string]*FolderCount{}
	sites, mailboxes := map[string]bool{}, map[string]bool{}
	resolver := address.NewResolver(s.Place)
	for i := range s.Files {
		file := int32(i)
		f := &s.Files[i]
		for _, finding := range r.Findings(file) {
			c := rules[finding.Rule]
			if c == nil {
				c = &RuleCount{Rule: finding.Rule, State: finding.State, First: f.Path}
				rules[finding.Rule] = c
			}
			c.Count++
		}
		if f.Doc == nil {
			continue
		}
		broken := r.Tally(file, audit.Broken)
		if broken > 0 && !f.IsPage() {
			v.BrokenFiles++
		}
		if f.IsPage() {
			dir, _ := site.Cut(f.Path)
			if folders[dir] == nil {
				folders[dir] = &FolderCount{Path: dir}
			}
			n := folders[dir]
			n.Pages++
			n.References += len(f.Doc.References)
			n.Broken += broken
			if broken > 0 {
				v.BrokenPages++
			}
		}
		links := s.Links(file)
		states := r.States(file)
		resolver.At(f.Path, f.Doc.Base, f.Doc.HasBase)
		for k, l := range links {
			v.LinkKinds[l.Kind][states[k]]++
			if l.Outcome == site.Elsewhere {
				value := f.Doc.References[k].Value()
				if t := resolver.Resolve(value); t.Kind == address.Mail {
					for _, to := range mailbox.Parse(value).To {
						if mailbox.IsAddress(to) {
							mailboxes[to] = true
						}
					}
				} else if host := address.Host(t.URL); host != "" {
					sites[host] = true
				}
			}
		}
	}
	for _, c := range rules {
		v.Rules = append(v.Rules, *c)
	}
	slices.SortFunc(v.Rules, func(a, b RuleCount) int {
		return cmp.Or(cmp.Compare(b.State, a.State), cmp.Compare(b.Count, a.Count), cmp.Compare(a.Rule.Name, b.Rule.Name))
	})
	for _, n := range folders {
		v.Folders = append(v.Folders, *n)
	}
	slices.SortFunc(v.Folders, func(a, b FolderCount) int { return cmp.Compare(a.Path, b.Path) })
	v.Sites, v.Mailboxes = len(sites), len(mailboxes)
	return v
}
