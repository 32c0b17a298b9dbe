package workspace

import "arvel/core/change"

// PlanSet plans to carry out a set that a test worked out.
func (s *Session) PlanSet(set change.Set) (*Plan, error) {
	p := &Plan{}
	return p, s.plan(p, func(*View) error {
		p.Set = set
		return nil
	})
}
