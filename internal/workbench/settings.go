package workbench

import (
	"errors"
	"path/filepath"
	"slices"
	"strings"

	"arvel/core/address"
	"arvel/core/audit"
	"arvel/core/site"
	"arvel/internal/store"
)

// settle makes what is set for the folder what it is resolved and judged by. A place of "" stands for the one that is
// set; any other one is judged alone.
func (w *Workbench) settle(place string, ignoreCase bool) error {
	o := site.Options{IndexNames: w.kept.IndexNames}
	terms := audit.Terms{Off: map[string]bool{}}
	places := w.Places()
	if place != "" {
		places = []store.PlaceSetting{{Place: place, IgnoreCase: ignoreCase, Chosen: true}}
	}
	for _, p := range places {
		parsed, err := w.place(p)
		if err != nil {
			return err
		}
		switch {
		case p.Chosen:
			o.Place = parsed
		case p.Ticked:
			terms.Also = append(terms.Also, parsed)
		}
	}
	if w.kept.Published != "" {
		published, err := address.ParsePublished(w.kept.Published)
		if err != nil {
			return err
		}
		o.Published = published
	}
	for _, name := range w.kept.Off {
		terms.Off[name] = true
	}
	var err error
	if terms.Aside, err = w.store.Aside(w.ID); err != nil {
		return err
	}
	w.options, w.terms = o, terms
	return nil
}

// place parses a place as it is set.
func (w *Workbench) place(p store.PlaceSetting) (address.Place, error) {
	return address.ParsePlace(p.Place, filepath.ToSlash(w.folder.Path), p.IgnoreCase)
}

// Settings returns what is set for the folder.
func (w *Workbench) Settings() store.Settings {
	w.changes.Lock()
	defer w.changes.Unlock()
	s := w.kept
	s.Places = w.Places()
	return s
}

// Places returns the places that are set for the folder, or the usual ones.
func (w *Workbench) Places() []store.PlaceSetting {
	if len(w.kept.Places) == 0 {
		return store.DefaultPlaces
	}
	return w.kept.Places
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
	before := w.kept
	w.kept = s
	if err := w.settle("", false); err != nil {
		w.kept = before
		return &SettingError{err.Error() + "."}
	}
	if err := w.store.SetSettings(w.ID, s); err != nil {
		w.kept = before
		return errors.Join(err, w.settle("", false))
	}
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
	aside, err := w.store.Aside(w.ID)
	if err != nil {
		return err
	}
	w.terms.Aside = aside
	w.judgeAnew()
	return nil
}

// judgeAnew resolves and judges what was read by the settings as they are now.
func (w *Workbench) judgeAnew() {
	v := w.View()
	if v == nil {
		return
	}
	snapshot := v.Snapshot
	if !slices.Equal(snapshot.Options.IndexNames, w.options.IndexNames) || snapshot.Options.Place != w.options.Place || snapshot.Published != w.options.Published {
		snapshot = site.Build(snapshot.Files, w.options)
	}
	w.show(w.newView(v.Version+1, snapshot, audit.Judge(snapshot, w.terms), v.Trouble))
}

// recordAnew shows the folder as it was judged, with what the record has of it now.
func (w *Workbench) recordAnew() {
	if v := w.View(); v != nil {
		w.show(w.newView(v.Version+1, v.Snapshot, v.Report, v.Trouble))
	}
}

// show makes a view the current one, and tells what differs.
func (w *Workbench) show(next *View) {
	v := w.View()
	w.view.Store(next)
	w.hub.send(compare(v, next))
}

// Fates returns the places that count for the folder, the chosen one first, the references whose state differs between
// them, and how many are in which state at each.
func (w *Workbench) Fates(v *View) ([]address.Place, []audit.Fate, []audit.Counts) {
	w.changes.Lock()
	places := append([]address.Place{v.Snapshot.Place}, w.terms.Also...)
	w.changes.Unlock()
	v.fates.Do(func() { v.differing, v.atPlaces = v.Report.Fates(v.Snapshot, places) })
	return places[:len(v.atPlaces)], v.differing, v.atPlaces
}
