package workbench

import (
	"fmt"

	"arvel/core/audit"
	"arvel/core/change"
	"arvel/core/repair"
)

// Cause returns the cause with the key, or a *GoneError if what it explained is mended or changed.
func (v *View) Cause(key repair.Key) (*repair.Cause, error) {
	causes := v.Causes()
	for i := range causes {
		if causes[i].Key == key {
			return &causes[i], nil
		}
	}
	return nil, &GoneError{"This is no longer so: it was mended, or the files changed."}
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

// brokenOf counts the references of a change set's picks that are broken in the view.
func (v *View) brokenOf(picks []repair.Pick) (n int) {
	for _, p := range picks {
		if v.Report.States(p.File)[p.Ref] == audit.Broken {
			n++
		}
	}
	return n
}

// At names a reference on its page by its key.
type At struct{ Page, Key string }

// Planned returns the change set that writes the best repairs of a cause that are at least so certain, but for those to
// leave; of all causes where the key is zero.
func (v *View) Planned(key repair.Key, least repair.Certainty, leave []At) (change.Set, []repair.Pick, error) {
	causes := v.Causes()
	title := ""
	if key != (repair.Key{}) {
		c, err := v.Cause(key)
		if err != nil {
			return change.Set{}, nil, err
		}
		causes, title = []repair.Cause{*c}, c.Message
	}
	left := map[[2]int32]bool{}
	for _, at := range leave {
		if file, ref, err := v.Find(at.Page, at.Key); err == nil {
			left[[2]int32{file, int32(ref)}] = true
		}
	}
	var picks []repair.Pick
	for _, p := range repair.Best(causes, least) {
		if !left[[2]int32{p.File, p.Ref}] {
			picks = append(picks, p)
		}
	}
	switch {
	case title != "":
		title = "Repaired: " + title
	case len(picks) == 1:
		title = "1 reference repaired, " + least.String()
	default:
		title = fmt.Sprintf("%d references repaired, %s", len(picks), least)
	}
	set, err := v.Planner().Set(title, picks)
	return set, picks, err
}

// RepairCauses carries out what [View.Planned] plans and returns how many references it repaired, and how many of them were
// broken.
func (w *Workbench) RepairCauses(key repair.Key, least repair.Certainty, leave []At) (id int64, repaired, broken int, err error) {
	v, done, err := w.toChange()
	if err != nil {
		return 0, 0, 0, err
	}
	defer done()
	set, picks, err := v.Planned(key, least, leave)
	if err != nil {
		return 0, 0, 0, err
	}
	if len(picks) == 0 {
		return 0, 0, 0, &GoneError{"There is nothing left to repair here."}
	}
	id, err = w.carry(set, 0, nil)
	return id, len(picks), v.brokenOf(picks), err
}

// SetCauseAside sets all findings of a cause aside.
func (w *Workbench) SetCauseAside(key repair.Key, reason string) error {
	v := w.View()
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
	return w.SetAside(marks, reason)
}
