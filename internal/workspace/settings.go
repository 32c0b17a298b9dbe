package workspace

import (
	"path/filepath"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/audit/rule"
	"arvel/core/phrase"
	"arvel/core/site"
	"arvel/internal/store"
)

// conditions is what is set for a folder, as it is resolved and judged by.
type conditions struct {
	kept    store.Settings
	options site.Options
	terms   audit.Terms
}

// conditionsOf returns what the folder is resolved and judged by with these settings. A place of "" stands for the one that is
// set; any other one is judged alone.
func (s *Session) conditionsOf(kept store.Settings, place string, ignoreCase bool) (*conditions, error) {
	o := site.Options{IndexNames: kept.IndexNames}
	terms := audit.Terms{Off: map[string]bool{}}
	places := placesOf(kept)
	if place != "" {
		places = []store.PlaceSetting{{Place: place, IgnoreCase: ignoreCase, Chosen: true}}
	}
	for _, p := range places {
		parsed, err := s.Place(p)
		if err != nil {
			return nil, err
		}
		switch {
		case p.Chosen:
			o.Place = parsed
		case p.Ticked:
			terms.Also = append(terms.Also, parsed)
		}
	}
	if kept.Published != "" {
		published, err := address.ParsePublished(kept.Published)
		if err != nil {
			return nil, err
		}
		o.Published = published
	}
	for _, name := range kept.Off {
		terms.Off[name] = true
	}
	if !s.forget {
		var err error
		if terms.Aside, err = s.aside(); err != nil {
			return nil, err
		}
	}
	return &conditions{kept, o, terms}, nil
}

// PlaceName returns a place as somebody types it in the way it is kept: a path has one slash at both ends. What is no path is
// left as it is.
func PlaceName(typed string) string {
	typed = strings.TrimSpace(typed)
	if !strings.HasPrefix(typed, "/") || strings.Trim(typed, "/") == "" {
		return typed
	}
	return "/" + strings.Trim(typed, "/") + "/"
}

// Place parses a place as it is set.
func (s *Session) Place(p store.PlaceSetting) (address.Place, error) {
	return address.ParsePlace(p.Place, filepath.ToSlash(s.folder.Path), p.IgnoreCase)
}

// Settings returns what is set for the folder.
func (w *Session) Settings() store.Settings {
	s := w.conditions.Load().kept
	s.Places = placesOf(s)
	return s
}

// placesOf returns the places that are set, or the usual ones.
func placesOf(s store.Settings) []store.PlaceSetting {
	if len(s.Places) == 0 {
		return slices.Clone(store.DefaultPlaces)
	}
	return slices.Clone(s.Places)
}

// SetSettings keeps new settings and judges the folder by them. What can't be gives a *SettingError, and nothing is
// kept.
func (w *Session) SetSettings(s store.Settings) error {
	w.changes.Lock()
	defer w.changes.Unlock()
	chosen := 0
	for _, p := range s.Places {
		if p.Chosen {
			chosen++
		}
	}
	if len(s.Places) > 0 && chosen != 1 {
		return &SettingError{"Choose one place to judge the folder by."}
	}
	for _, name := range s.Off {
		if rule.All.Named(name) == nil {
			return &SettingError{"There is no rule " + name + "."}
		}
	}
	for _, name := range s.IndexNames {
		if name == "" || strings.Contains(name, "/") {
			return &SettingError{"An index page is named like " + phrase.Mono("index.html") + ", without a folder, not " + phrase.Mono(name) + "."}
		}
	}
	if s.HistoryDays < 0 || s.HistoryMegabytes < 0 {
		return &SettingError{"A limit of the history is a number of days or megabytes; 0 means the usual one."}
	}
	next, err := w.conditionsOf(s, "", false)
	if err != nil {
		return &SettingError{err.Error() + "."}
	}
	if err := w.store.SetSettings(w.ID, s); err != nil {
		return w.store.Explained(err)
	}
	w.conditions.Store(next)
	w.prune()
	w.rejudge()
	return nil
}

// SetAside sets the findings with the mark aside, for the reason given; they stay listed.
func (s *Session) SetAside(marks []audit.Mark, reason string) error {
	return s.mark(marks, func(m audit.Mark) error { return s.store.SetAside(s.ID, store.Mark(m), reason) })
}

// BringBack brings findings back that were set aside.
func (s *Session) BringBack(marks []audit.Mark) error {
	return s.mark(marks, func(m audit.Mark) error { return s.store.BringBack(s.ID, store.Mark(m)) })
}

func (s *Session) mark(marks []audit.Mark, keep func(audit.Mark) error) error {
	s.changes.Lock()
	defer s.changes.Unlock()
	for _, m := range marks {
		if err := keep(m); err != nil {
			return err
		}
	}
	if err := s.takeAside(); err != nil {
		return s.store.Explained(err)
	}
	s.rejudge()
	return nil
}

// aside returns what is set aside, with the reasons.
func (s *Session) aside() (map[audit.Mark]string, error) {
	kept, err := s.store.Aside(s.ID)
	out := make(map[audit.Mark]string, len(kept))
	for m, reason := range kept {
		out[audit.Mark(m)] = reason
	}
	return out, err
}

// takeAside takes over what is set aside by now.
func (s *Session) takeAside() error {
	aside, err := s.aside()
	if err != nil {
		return err
	}
	next := *s.conditions.Load()
	next.terms.Aside = aside
	s.conditions.Store(&next)
	return nil
}

// rejudge resolves and judges what was read by the settings as they are now.
func (s *Session) rejudge() {
	v := s.View()
	if v == nil {
		return
	}
	now := s.conditions.Load()
	o := now.at(v.listing)
	snapshot := v.Snapshot
	if !slices.Equal(snapshot.Options.IndexNames, o.IndexNames) || snapshot.Options.Place != o.Place || snapshot.Published != o.Published {
		snapshot = site.Build(snapshot.Files, o)
	}
	s.show(newView(v.Version+1, snapshot, now.judge(snapshot, s.recorded()), now, v.listing, s.recorded()))
}

// refreshRecord shows the folder with what the record has of it now.
func (s *Session) refreshRecord() {
	if v := s.View(); v != nil {
		r := s.recorded()
		s.show(newView(v.Version+1, v.Snapshot, v.Report.Renew(v.Snapshot, []int32{}, r.displaced(v.Snapshot)), v.conditions, v.listing, r))
	}
}

// show makes a view the current one, and says what differs.
func (s *Session) show(next *View) {
	v := s.View()
	s.view.Store(next)
	s.hub.send(compare(v, next))
}
