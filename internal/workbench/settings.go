package workbench

import (
	"path/filepath"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/site"
	"arvel/internal/store"
)

// settle returns what the folder is resolved and judged by with these settings. A place of "" stands for the one that is
// set; any other one is judged alone.
func (w *Workbench) settle(kept store.Settings, place string, ignoreCase bool) (*set, error) {
	o := site.Options{IndexNames: kept.IndexNames}
	terms := audit.Terms{Off: map[string]bool{}}
	places := placesOf(kept)
	if place != "" {
		places = []store.PlaceSetting{{Place: place, IgnoreCase: ignoreCase, Chosen: true}}
	}
	for _, p := range places {
		parsed, err := w.place(p)
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
	if !w.forget {
		var err error
		if terms.Aside, err = w.store.Aside(w.ID); err != nil {
			return nil, err
		}
	}
	return &set{kept, o, terms}, nil
}

// place parses a place as it is set.
func (w *Workbench) place(p store.PlaceSetting) (address.Place, error) {
	return address.ParsePlace(p.Place, filepath.ToSlash(w.folder.Path), p.IgnoreCase)
}

// Settings returns what is set for the folder.
func (w *Workbench) Settings() store.Settings {
	s := w.set.Load().kept
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

// A SettingError says what in some settings can't be.
type SettingError struct{ Sentence string }

func (e *SettingError) Error() string { return e.Sentence }

// SetSettings keeps new settings and judges the folder by them. What can't be gives a *SettingError, and nothing is
// kept.
func (w *Workbench) SetSettings(s store.Settings) error {
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
		if audit.Named(name) == nil {
			return &SettingError{"There is no rule " + name + "."}
		}
	}
	for _, name := range s.IndexNames {
		if name == "" || strings.Contains(name, "/") {
			return &SettingError{"An index page is named like " + audit.Mono("index.html") + ", without a folder, not " + audit.Mono(name) + "."}
		}
	}
	if s.HistoryDays < 0 || s.HistoryMegabytes < 0 {
		return &SettingError{"A limit of the history is a number of days or megabytes; 0 stands for the usual one."}
	}
	next, err := w.settle(s, "", false)
	if err != nil {
		return &SettingError{err.Error() + "."}
	}
	if err := w.store.SetSettings(w.ID, s); err != nil {
		return w.store.Explained(err)
	}
	w.set.Store(next)
	w.prune()
	w.judgeAnew()
	return nil
}

// SetAside sets the findings with the mark aside, for the reason given; they stay listed.
func (w *Workbench) SetAside(marks []audit.Mark, reason string) error {
	return w.mark(marks, func(m audit.Mark) error { return w.store.SetAside(w.ID, m, reason) })
}

// BringBack brings findings back that were set aside.
func (w *Workbench) BringBack(marks []audit.Mark) error {
	return w.mark(marks, func(m audit.Mark) error { return w.store.BringBack(w.ID, m) })
}

func (w *Workbench) mark(marks []audit.Mark, keep func(audit.Mark) error) error {
	w.changes.Lock()
	defer w.changes.Unlock()
	for _, m := range marks {
		if err := keep(m); err != nil {
			return err
		}
	}
	if err := w.takeAside(); err != nil {
		return w.store.Explained(err)
	}
	w.judgeAnew()
	return nil
}

// takeAside takes over what is set aside by now.
func (w *Workbench) takeAside() error {
	aside, err := w.store.Aside(w.ID)
	if err != nil {
		return err
	}
	next := *w.set.Load()
	next.terms.Aside = aside
	w.set.Store(&next)
	return nil
}

// judgeAnew resolves and judges what was read by the settings as they are now.
func (w *Workbench) judgeAnew() {
	v := w.View()
	if v == nil {
		return
	}
	now := w.set.Load()
	o := now.at(v.listing)
	snapshot := v.Snapshot
	if !slices.Equal(snapshot.Options.IndexNames, o.IndexNames) || snapshot.Options.Place != o.Place || snapshot.Published != o.Published {
		snapshot = site.Build(snapshot.Files, o)
	}
	w.show(w.newView(v.Version+1, snapshot, audit.Judge(snapshot, now.terms), now, v.listing))
}

// recordAnew shows the folder as it was judged, with what the record has of it now.
func (w *Workbench) recordAnew() {
	if v := w.View(); v != nil {
		w.show(w.newView(v.Version+1, v.Snapshot, v.Report, v.set, v.listing))
	}
}

// show makes a view the current one, and tells what differs.
func (w *Workbench) show(next *View) {
	v := w.View()
	w.view.Store(next)
	w.hub.send(compare(v, next))
}

// Fates returns the places that count for the view, the chosen one first, the references whose state differs between
// them, and how many are in which state at each.
func (v *View) Fates() ([]address.Place, []audit.Fate, []audit.Counts) {
	places := append([]address.Place{v.Snapshot.Place}, v.set.terms.Also...)
	v.fates.Do(func() { v.differing, v.atPlaces = v.Report.Fates(v.Snapshot, places) })
	return places, v.differing, v.atPlaces
}
