package workspace_test

import (
	"context"

	"arvel/core/change"
	"arvel/core/compose"
	"arvel/core/plan"
	"arvel/core/repair"
	"arvel/internal/workspace"
)

// acting is a session that plans and applies in one go, as a request for both does.
type acting struct{ *workspace.Session }

func (a acting) apply(p *workspace.Plan, err error) (*plan.Plan, int64, error) {
	if err != nil {
		return nil, 0, err
	}
	id, err := a.Apply(context.Background(), p)
	if err != nil {
		return nil, 0, err
	}
	return &p.Plan, id, nil
}

func (a acting) carry(set change.Set) (int64, error) {
	_, id, err := a.apply(a.PlanSet(set))
	return id, err
}

func (a acting) move(moves []plan.Move, o plan.Options) (*plan.Plan, int64, error) {
	return a.apply(a.PlanMoves(moves, o))
}

func (a acting) planMoves(moves []plan.Move, o plan.Options) *plan.Plan {
	p, err := a.PlanMoves(moves, o)
	if err != nil {
		panic(err)
	}
	return &p.Plan
}

func (a acting) follow(moves []plan.Move) (*plan.Plan, int64, error) {
	return a.apply(a.PlanFollow(moves))
}

func (a acting) retarget(from, to string) (*plan.Plan, int64, error) {
	return a.apply(a.PlanRetarget(from, to, nil))
}

func (a acting) renameID(page, from, to string) (*plan.Plan, int64, error) {
	return a.apply(a.PlanIDRename(page, from, to))
}

func (a acting) delete(deletions []plan.Deletion) (*plan.Plan, int64, error) {
	return a.apply(a.PlanDeletion(deletions))
}

func (a acting) makeFolder(path string) (int64, error) {
	_, id, err := a.apply(a.PlanFolder(path))
	return id, err
}

func (a acting) save(page, text string, base change.Hash) (int64, error) {
	p, err := a.PlanSave(context.Background(), workspace.Saving{Page: page, Text: text, Base: base})
	if err != nil {
		return 0, err
	}
	return a.Apply(context.Background(), &p.Plan)
}

func (a acting) rewrite(page, key, written string) (id int64, fresh string, err error) {
	p, err := a.PlanRewrite(page, key, written)
	if err != nil {
		return 0, "", err
	}
	id, err = a.Apply(context.Background(), &p.Plan)
	return id, p.Key(a.View()), err
}

func (a acting) repair(least repair.Certainty) (repaired, broken int, err error) {
	p, err := a.PlanRepairs(repair.Key{}, least, nil)
	if err != nil {
		return 0, 0, err
	}
	_, err = a.Apply(context.Background(), &p.Plan)
	return len(p.Picks), p.Broken, err
}

func (a acting) undo(id int64, partly bool) (undone int64, left []string, err error) {
	p, err := a.PlanUndo(id, partly)
	if err != nil {
		return 0, nil, err
	}
	undone, err = a.Apply(context.Background(), &p.Plan)
	return undone, p.Left, err
}

func (a acting) undoLast() (workspace.Change, error) { return a.taken(a.PlanUndoLast()) }

func (a acting) redo() (workspace.Change, error) { return a.taken(a.PlanRedo()) }

func (a acting) taken(p *workspace.UndoPlan, err error) (workspace.Change, error) {
	if err != nil {
		return workspace.Change{}, err
	}
	_, err = a.Apply(context.Background(), &p.Plan)
	return p.Undone, err
}

func (a acting) newPage(pattern, path string, n compose.New) (string, int64, error) {
	p, err := a.PlanPage(pattern, path, n)
	if err != nil {
		return "", 0, err
	}
	id, err := a.Apply(context.Background(), &p.Plan)
	return p.Path, id, err
}

func (a acting) addPicture(name string, bytes []byte) (path string, width, height int, err error) {
	p, err := a.PlanPicture(name, bytes)
	if err != nil {
		return "", 0, 0, err
	}
	_, err = a.Apply(context.Background(), &p.Plan)
	return p.Path, p.Width, p.Height, err
}
