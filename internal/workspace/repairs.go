package workspace

import (
	"fmt"
	"slices"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/explain"
	"arvel/core/markup"
	"arvel/core/phrase"
	"arvel/core/plan"
	"arvel/core/repair"
)

// Cause returns the cause with the key, or a *GoneError if what it explained is mended or changed: all causes of a kind, too, and
// that of a folder which is not there with the folder that was chosen for it.
func (v *View) Cause(key repair.Key) (*repair.Cause, error) {
	causes := v.Causes()
	if all := repair.OfKind(key, causes); all != nil {
		return all, nil
	}
	for i := range causes {
		if causes[i].Key == key {
			return &causes[i], nil
		}
		if into := v.Planner().Into(&causes[i], key.Other); into != nil && into.Key == key {
			return into, nil
		}
	}
	return nil, &GoneError{"This has changed: it was repaired, or the files were edited."}
}

// Certain counts the references that have a certain repair: those that are broken, and those that are fragile.
func (v *View) Certain() (broken, fragile int) {
	for _, p := range repair.Best(v.Causes(), repair.Certain) {
		if v.Report.States(p.File)[p.Ref] == audit.Broken {
			broken++
		} else {
			fragile++
		}
	}
	return broken, fragile
}

// At names a reference on its page by its key.
type At struct{ Page, Key string }

// RepairPlan writes the best repairs of one cause or of all.
type RepairPlan struct {
	Plan
	// Picks are the repairs, Broken is how many of the references are broken.
	Picks  []repair.Pick
	Broken int
}

// PlanRepairs plans to write the best repairs of a cause that are at least so certain, but for those to leave; of all causes
// where the key is zero.
func (s *Session) PlanRepairs(key repair.Key, least repair.Certainty, leave []At) (*RepairPlan, error) {
	p := &RepairPlan{Plan: Plan{none: "There is nothing left to repair here."}}
	return p, s.plan(&p.Plan, func(v *View) (err error) {
		causes, title := v.Causes(), ""
		if key != (repair.Key{}) {
			c, err := v.Cause(key)
			if err != nil {
				return err
			}
			causes, title = []repair.Cause{*c}, "Repaired: "+c.Message
		}
		left := map[[2]int32]bool{}
		for _, at := range leave {
			if file, ref, err := v.Find(at.Page, at.Key); err == nil {
				left[[2]int32{file, int32(ref)}] = true
			}
		}
		p.Picks, p.Broken = nil, 0
		for _, pick := range repair.Best(causes, least) {
			if left[[2]int32{pick.File, pick.Ref}] {
				continue
			}
			p.Picks = append(p.Picks, pick)
			if v.Report.States(pick.File)[pick.Ref] == audit.Broken {
				p.Broken++
			}
		}
		switch {
		case title != "":
		case len(p.Picks) == 1:
			title = "1 reference repaired, " + least.String()
		default:
			title = fmt.Sprintf("%d references repaired, %s", len(p.Picks), least)
		}
		p.Set, err = v.Planner().Set(title, p.Picks)
		return err
	})
}

// PlanTakeAway plans to take away the references of a cause, and to keep what they show.
func (s *Session) PlanTakeAway(key repair.Key) (*Plan, error) {
	p := &Plan{none: "None of this can be taken away by itself."}
	return p, s.plan(p, func(v *View) error {
		c, err := v.Cause(key)
		if err != nil {
			return err
		}
		refs := map[int32][]int{}
		for _, e := range c.Findings {
			if e.Finding.Ref >= 0 && !slices.Contains(refs[e.File], int(e.Finding.Ref)) {
				refs[e.File] = append(refs[e.File], int(e.Finding.Ref))
			}
		}
		p.Plan = *plan.TakeAway(v.Snapshot, refs, s.folder.Read)
		p.Set.Title = "Taken away: " + c.Message
		return nil
	})
}

// PlanMend plans to put right what a rule found on a reference, by its page and key, or on all references of a cause where page is
// "".
func (s *Session) PlanMend(rule string, at At, key repair.Key) (*Plan, error) {
	p := &Plan{none: "There is nothing left to change here."}
	return p, s.plan(p, func(v *View) error {
		refs := map[int32][]int{}
		title := ""
		if at.Page != "" {
			file, ref, err := v.Find(at.Page, at.Key)
			if err != nil {
				return err
			}
			refs[file] = []int{ref}
			title = explain.Mends(rule) + " on " + phrase.Mono(at.Page)
		} else {
			c, err := v.Cause(key)
			if err != nil {
				return err
			}
			title = "Repaired: " + c.Message
			for _, e := range c.Findings {
				if e.Finding.Ref >= 0 && e.Finding.Rule.Name == rule {
					refs[e.File] = append(refs[e.File], int(e.Finding.Ref))
				}
			}
		}
		p.Plan = *plan.Mend(v.Snapshot, rule, refs, s.folder.Read)
		p.Set.Title = title
		return nil
	})
}

// RewritePlan writes a new value for one reference.
type RewritePlan struct {
	Plan
	page string
	ref  int
}

// PlanRewrite plans to write a new value for one reference into its file, as a change of its own.
func (s *Session) PlanRewrite(page, key, written string) (*RewritePlan, error) {
	p := &RewritePlan{page: page}
	return p, s.plan(&p.Plan, func(v *View) error {
		file, ref, err := v.Find(page, key)
		if err != nil {
			return err
		}
		p.ref = ref
		f := &v.Snapshot.Files[file]
		r := &f.Doc.References[ref]
		edit, err := repair.Edit(f.Doc.Encoding, r, written)
		if err != nil {
			return err
		}
		p.Set = change.Set{
			Title: rewriteTitle(page, r, written),
			Files: []change.File{{Path: page, Before: f.Hash, Edits: []change.Edit{edit}}},
		}
		return nil
	})
}

// Key returns the key that the reference has in a view once it is rewritten; "" if it is not there.
func (p *RewritePlan) Key(v *View) string {
	if i, ok := v.Snapshot.Find(p.page); ok {
		if d := v.Snapshot.Files[i].Doc; d != nil && p.ref < len(d.References) {
			return Key(d, p.ref)
		}
	}
	return ""
}

func rewriteTitle(page string, r *markup.Reference, written string) string {
	if r.Flags&markup.NoValue != 0 {
		return phrase.Mono(written) + " given to a link on " + phrase.Mono(page)
	}
	return phrase.Mono(r.Written) + " became " + phrase.Mono(written) + " on " + phrase.Mono(page)
}

// SetCauseAside sets all findings of a cause aside.
func (s *Session) SetCauseAside(key repair.Key, reason string) error {
	v := s.View()
	if v == nil {
		return ErrNotReady
	}
	c, err := v.Cause(key)
	if err != nil {
		return err
	}
	var marks []audit.Mark
	for _, e := range c.Findings {
		marks = append(marks, audit.MarkOf(v.Snapshot, e.File, e.Finding))
	}
	return s.SetAside(marks, reason)
}
