package damage

import (
	"fmt"
	"maps"
	"strings"
)

// Classes are the ways in which folders go wrong that say how far a repair may be trusted.
var Classes = []Class{
	{"a page that one language lacks", unknowable, unknowable, func(w *Words) Scene {
		names := w.Some(4)
		files := map[string]string{"index.html": page("home", "en/index.html", "de/index.html")}
		for _, dir := range []string{"en/", "de/"} {
			tree(files, dir, names[:3]...)
			files[dir+"index.html"] = page(dir+"index", names[0]+".html")
		}
		files["en/"+names[3]+".html"] = page("only in English", names[0]+".html")
		files["de/"+names[0]+".html"] = page("de", names[3]+".html")
		files["en/"+names[0]+".html"] = page("en", names[3]+".html")
		return scene(files, map[[2]string]string{{"de/" + names[0] + ".html", names[3] + ".html"}: ""})
	}},
	{"a page moved within one of two languages", unproven, control, func(w *Words) Scene {
		n := w.Some(5)
		before := map[string]string{}
		for _, dir := range []string{"en/guides/", "de/guides/"} {
			tree(before, dir, n[:4]...)
		}
		before["en/guides/"+n[4]+".html"] = page("moved", n[0]+".html", n[1]+".html", n[2]+".html")
		before["en/index.html"] = page("english", "guides/"+n[4]+".html")
		after := maps.Clone(before)
		move(after, "en/guides/"+n[4]+".html", "en/archive/"+n[4]+".html")
		meant := map[[2]string]string{{"en/index.html", "guides/" + n[4] + ".html"}: "en/archive/" + n[4] + ".html"}
		for _, to := range n[:3] {
			meant[[2]string{"en/archive/" + n[4] + ".html", to + ".html"}] = "en/guides/" + to + ".html"
		}
		return Scene{before, after, meant}
	}},
	{"a page moved, control", control, control, movedPage},
	{"a page copied into a new year", unproven, unproven, func(w *Words) Scene {
		n := w.Some(5)
		before := map[string]string{}
		tree(before, "2025/", n[:4]...)
		before["2025/"+n[4]+".html"] = page("plan", n[0]+".html", n[1]+".html", n[2]+".html")
		after := maps.Clone(before)
		after["2026/"+n[4]+".html"] = before["2025/"+n[4]+".html"]
		meant := map[[2]string]string{}
		for _, to := range n[:3] {
			meant[[2]string{"2026/" + n[4] + ".html", to + ".html"}] = ""
		}
		return Scene{before, after, meant}
	}},
	{"a page begun in a new year", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(5)
		before := map[string]string{}
		tree(before, "2025/", n[:4]...)
		after := maps.Clone(before)
		after["2026/"+n[4]+".html"] = page("plan", n[0]+".html", n[1]+".html", n[2]+".html")
		meant := map[[2]string]string{}
		for _, to := range n[:3] {
			meant[[2]string{"2026/" + n[4] + ".html", to + ".html"}] = ""
		}
		return Scene{before, after, meant}
	}},
	{"one of a series", unknowable, unknowable, func(w *Words) Scene {
		word := w.One()
		series := [][]string{
			{"chapter1", "chapter2", "chapter3"},
			{"appendix-a", "appendix-b", "appendix-c"},
			{"part-i", "part-ii", "part-iii"},
			{word + "-2024", word + "-2025", word + "-2026"},
			{word + "-en", word + "-es", word + "-it"},
			{word + "_v1", word + "_v2", word + "_v3"},
		}[w.r.IntN(6)]
		files := map[string]string{}
		tree(files, "", series[0], series[2])
		files["index.html"] = page("home", series[0]+".html", series[1]+".html", series[2]+".html")
		return scene(files, map[[2]string]string{{"index.html", series[1] + ".html"}: ""})
	}},
	{"a folder of a series", unknowable, unknowable, func(w *Words) Scene {
		series := [][]string{{"v1", "v2", "v3"}, {"2016", "2017", "2018"}, {"en", "es", "it"}, {"unit-a", "unit-b", "unit-c"}}[w.r.IntN(4)]
		n := w.Some(3)
		files := map[string]string{}
		tree(files, series[0]+"/", n[0], n[1])
		files["index.html"] = page("home", series[0]+"/"+n[0]+".html", series[1]+"/"+n[0]+".html", series[1]+"/"+n[1]+".html")
		return scene(files, map[[2]string]string{{"index.html", series[1] + "/" + n[0] + ".html"}: "", {"index.html", series[1] + "/" + n[1] + ".html"}: ""})
	}},
	{"a name one letter off, asked for by many", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(5)
		files := map[string]string{n[0] + "s.html": page("more")}
		meant := map[[2]string]string{}
		for _, p := range n[1:5] {
			files[p+".html"] = page(p, n[0]+".html")
			meant[[2]string{p + ".html", n[0] + ".html"}] = ""
		}
		return scene(files, meant)
	}},
	{"a name one letter off, control", shown, shown, func(w *Words) Scene {
		n := w.Some(3)
		files := map[string]string{n[0] + "s.html": page("more"), "index.html": page("home", n[0]+".html", n[1]+".html"), n[1] + ".html": page("other", n[0]+"s.html")}
		return scene(files, map[[2]string]string{{"index.html", n[0] + ".html"}: n[0] + "s.html"})
	}},
	{"a short name one letter off", unknowable, unknowable, func(w *Words) Scene {
		files := map[string]string{"sow.html": page("sow"), "index.html": page("home", "row.html")}
		return scene(files, map[[2]string]string{{"index.html", "row.html"}: ""})
	}},
	{"names alike that are other things", unknowable, unknowable, func(w *Words) Scene {
		word := w.One()
		pair := [][2]string{
			{word + ".txt", word + ".zip"}, {"1-1.html", "11.html"}, {"c.html", "c++.html"}, {word + ".doc", word + ".pdf"}, {word + ".csv", word + ".html"}, {"s11-2.html", "s1-12.html"},
		}[w.r.IntN(6)]
		files := map[string]string{pair[1]: page("other"), "index.html": page("home", pair[0])}
		return scene(files, map[[2]string]string{{"index.html", pair[0]}: ""})
	}},
	{"what the element does not take", unknowable, unknowable, func(w *Words) Scene {
		word := w.One()
		one := [][3]string{
			{`<form action="` + word + `">`, word, word + ".gz"},
			{`<link rel="stylesheet" href="` + word + `">`, word, word + ".js"},
			{`<script src="` + word + `.js"></script>`, word + ".js", word + ".css"},
			{`<img src="` + word + `" alt="">`, word, word + ".html"},
			{`<link rel="stylesheet" href="css/` + word + `.css">`, "css/" + word + ".css", word + ".css.map"},
		}[w.r.IntN(5)]
		files := map[string]string{one[2]: "x", "index.html": page("home", one[0])}
		return scene(files, map[[2]string]string{{"index.html", one[1]}: ""})
	}},
	{"names but for case, separator or extension, control", control, control, func(w *Words) Scene {
		n := w.Some(4)
		pair := [][2]string{
			{n[0] + "_" + n[1] + ".html", n[0] + "-" + n[1] + ".html"},
			{n[0] + ".htm", n[0] + ".html"},
			{n[0], n[0] + ".html"},
			{strings.ToUpper(n[0][:1]) + n[0][1:] + ".html", n[0] + ".html"},
			{n[0] + "%20" + n[1] + ".html", n[0] + "-" + n[1] + ".html"},
			{n[0] + ".jpeg", n[0] + ".jpg"},
			{n[0] + ".HTML", n[0] + ".html"},
		}[w.r.IntN(7)]
		files := map[string]string{pair[1]: page("it"), n[2] + ".html": page("other", pair[1]), "index.html": page("home", pair[0])}
		return scene(files, map[[2]string]string{{"index.html", pair[0]}: pair[1]})
	}},
	{"a folder or a climb left out, control", control, control, func(w *Words) Scene {
		n := w.Some(6)
		files := map[string]string{n[5] + ".html": page("at the top", "guides/"+n[0]+".html")}
		tree(files, "guides/", n[:3]...)
		tree(files, "news/", n[3], n[4])
		var from, written, to string
		switch w.r.IntN(3) {
		case 0:
			from, written, to = "index.html", n[0]+".html", "guides/"+n[0]+".html"
		case 1:
			from, written, to = "guides/"+n[0]+".html", n[5]+".html", n[5]+".html"
		case 2:
			from, written, to = "guides/"+n[0]+".html", "../../"+n[5]+".html", n[5]+".html"
		}
		files[from] = page("from", n[1]+".html", written)
		if from == "index.html" {
			files[from] = page("from", "guides/"+n[1]+".html", written)
		}
		return scene(files, map[[2]string]string{{from, written}: to})
	}},
	{"the same name in an unrelated folder", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(6)
		files := map[string]string{}
		tree(files, "projects/"+n[0]+"/", n[1], n[2])
		files["projects/"+n[0]+"/"+n[3]+".png"] = "PNG"
		files["projects/"+n[0]+"/"+n[1]+".html"] = page("with a picture", `<img src="`+n[3]+`.png" alt="">`)
		files["index.html"] = page("home", `<img src="images/`+n[3]+`.png" alt="">`, "lists/"+n[2]+".html", "projects/"+n[0]+"/"+n[1]+".html", "projects/"+n[0]+"/"+n[2]+".html")
		return scene(files, map[[2]string]string{{"index.html", "images/" + n[3] + ".png"}: "", {"index.html", "lists/" + n[2] + ".html"}: ""})
	}},
	{"a template's mistake on every page", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(8)
		files := map[string]string{"projects/" + n[7] + "/logo.png": "PNG", "projects/" + n[7] + "/notes.html": page("notes", `<img src="logo.png" alt="">`)}
		meant := map[[2]string]string{}
		for _, p := range n[:6] {
			files[p+".html"] = page(p, `<img src="assets/logo.png" alt="">`)
			meant[[2]string{p + ".html", "assets/logo.png"}] = ""
		}
		return scene(files, meant)
	}},
	{"a folder renamed, control", control, control, func(w *Words) Scene {
		n := w.Some(6)
		before := map[string]string{}
		for _, f := range n[:3] {
			before["pictures/"+f+".png"] = "PNG " + f
		}
		meant := map[[2]string]string{}
		for i, p := range n[3:6] {
			before[p+".html"] = page(p, `<img src="pictures/`+n[i]+`.png" alt="">`)
			meant[[2]string{p + ".html", "pictures/" + n[i] + ".png"}] = "figures/" + n[i] + ".png"
		}
		after := maps.Clone(before)
		for _, f := range n[:3] {
			move(after, "pictures/"+f+".png", "figures/"+f+".png")
		}
		return Scene{before, after, meant}
	}},
	{"a folder gone, and another of the same names in use", unproven, unproven, func(w *Words) Scene {
		n := w.Some(4)
		before := map[string]string{}
		tree(before, "2025/", n[:3]...)
		tree(before, "2026/", n[:3]...)
		before["index.html"] = page("home", "2025/"+n[0]+".html", "2025/"+n[1]+".html", "2026/"+n[0]+".html")
		after := maps.Clone(before)
		for _, f := range n[:3] {
			delete(after, "2025/"+f+".html")
		}
		return Scene{before, after, map[[2]string]string{{"index.html", "2025/" + n[0] + ".html"}: "", {"index.html", "2025/" + n[1] + ".html"}: ""}}
	}},
	{"not meant for this folder", unknowable, unknowable, func(w *Words) Scene {
		word := w.One()
		value := []string{
			"{{root}}/" + word + ".html", "%ROOT%/" + word + ".html", "$base/" + word + ".html", "@root@/" + word + ".html", "cgi-bin/" + word + ".html", "cgi-bin/" + word,
			word + ".php", "rtsp://media.seeds.example/" + word, "rtmp://media.seeds.example/" + word, "nntp://news.seeds.example/" + word, "#/" + word, "#!" + word, "{{ url }}",
		}[w.r.IntN(13)]
		files := map[string]string{word + ".html": page("it"), "index.html": page("home", value, `<p id="`+word+`">`)}
		return scene(files, map[[2]string]string{{"index.html", value}: ""})
	}},
	{"names of files that look like hosts", unknowable, unknowable, func(w *Words) Scene {
		value := []string{"logo@2x.png", "Makefile.am", "rules.mk", "setup.com", "build.sh", "notes.md", "photo@home.jpg"}[w.r.IntN(7)]
		return scene(map[string]string{"index.html": page("home", value)}, map[[2]string]string{{"index.html", value}: ""})
	}},
	{"hosts and mailboxes, control", mended, mended, func(w *Words) Scene {
		pair := [][2]string{{"www.orchard.example/fruit", "https://www.orchard.example/fruit"}, {"orchard.example/fruit", "https://orchard.example/fruit"}, {"ines@orchard.example", "mailto:ines@orchard.example"}, {"www.orchard.org", "https://www.orchard.org/"}}[w.r.IntN(4)]
		return scene(map[string]string{"index.html": page("home", pair[0])}, map[[2]string]string{{"index.html", pair[0]}: pair[1]})
	}},
	{"a page deleted of which there is a backup", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(4)
		before := map[string]string{}
		tree(before, "guides/", n[:3]...)
		for _, f := range n[:3] {
			before["backup/guides/"+f+".html"] = before["guides/"+f+".html"]
		}
		before["index.html"] = page("home", "guides/"+n[0]+".html", "guides/"+n[1]+".html")
		after := maps.Clone(before)
		delete(after, "guides/"+n[0]+".html")
		return Scene{before, after, map[[2]string]string{{"index.html", "guides/" + n[0] + ".html"}: ""}}
	}},
	{"two files of the same bytes, one renamed and one deleted", unproven, shown, func(w *Words) Scene {
		n := w.Some(3)
		before := map[string]string{"a/" + n[0] + ".png": "PNG", "a/" + n[1] + ".png": "PNG", "index.html": page("home", `<img src="a/`+n[0]+`.png" alt="">`)}
		after := maps.Clone(before)
		move(after, "a/"+n[0]+".png", "a/"+n[2]+".png")
		delete(after, "a/"+n[1]+".png")
		return Scene{before, after, map[[2]string]string{{"index.html", "a/" + n[0] + ".png"}: "a/" + n[2] + ".png"}}
	}},
	{"a page deleted among pages that are alike", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(8)
		var menu []string
		for _, p := range n[:6] {
			menu = append(menu, p+".html")
		}
		before := map[string]string{}
		for _, p := range n[:6] {
			before[p+".html"] = page("Seed library", menu...)
		}
		after := maps.Clone(before)
		delete(after, n[0]+".html")
		after[n[6]+".html"] = page("Seed library", menu...) + "<p>New."
		return Scene{before, after, map[[2]string]string{{n[1] + ".html", n[0] + ".html"}: ""}}
	}},
	{"a page renamed, by the record, control", unproven, control, func(w *Words) Scene {
		n := w.Some(4)
		before := map[string]string{}
		tree(before, "", n[:3]...)
		before["index.html"] = page("home", n[0]+".html")
		after := maps.Clone(before)
		move(after, n[0]+".html", n[3]+".html")
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html"}: n[3] + ".html"}}
	}},
	{"both names were there", open, unknowable, func(w *Words) Scene {
		n := w.Some(3)
		pair := [][2]string{{n[0] + ".htm", n[0] + ".html"}, {n[0] + "_" + n[1] + ".html", n[0] + "-" + n[1] + ".html"}, {strings.ToUpper(n[0]) + ".html", n[0] + ".html"}, {n[0] + ".jpg", n[0] + ".png"}}[w.r.IntN(4)]
		before := map[string]string{pair[0]: page("first"), pair[1]: page("second"), "index.html": page("home", pair[0], pair[1])}
		after := maps.Clone(before)
		delete(after, pair[0])
		meant := ""
		return Scene{before, after, map[[2]string]string{{"index.html", pair[0]}: meant}}
	}},
	{"fragments that are other things", unknowable, unknowable, func(w *Words) Scene {
		pair := [][2]string{{"a", "A"}, {"s11-2", "s1-12"}, {"note1", "note2"}, {"c", "c++"}, {"fig-iv", "fig-v"}}[w.r.IntN(5)]
		files := map[string]string{"index.html": page("home", "#"+pair[0], `<p id="`+pair[1]+`">`)}
		return scene(files, map[[2]string]string{{"index.html", "#" + pair[0]}: ""})
	}},
	{"fragments of which there are two", unproven, unproven, func(w *Words) Scene {
		word := w.One()
		files := map[string]string{"index.html": page("home", "#"+strings.ToUpper(word), `<p id="`+word+`">`, `<p id="`+strings.ToUpper(word[:1])+word[1:]+`">`)}
		return scene(files, map[[2]string]string{{"index.html", "#" + strings.ToUpper(word)}: "index.html#" + word})
	}},
	{"fragments but for case or separator, control", control, control, func(w *Words) Scene {
		n := w.Some(2)
		id := n[0] + "-" + n[1]
		wrong := []string{strings.ToUpper(id[:1]) + id[1:], n[0] + "_" + n[1], strings.ToUpper(id)}[w.r.IntN(3)]
		files := map[string]string{"index.html": page("home", "#"+wrong, `<p id="`+id+`">`)}
		return scene(files, map[[2]string]string{{"index.html", "#" + wrong}: "index.html#" + id})
	}},
	{"a fragment that the candidate lacks", unknowable, unknowable, func(w *Words) Scene {
		n := w.Some(3)
		files := map[string]string{n[0] + ".html": page("it", `<p id="other">`), "index.html": page("home", n[0]+".htm#"+n[1])}
		return scene(files, map[[2]string]string{{"index.html", n[0] + ".htm#" + n[1]}: ""})
	}},
	{"an id that moved to another page with its text", shown, shown, func(w *Words) Scene {
		n := w.Some(6)
		section := `<h2 id="` + n[4] + `-` + n[5] + `">` + n[4] + `</h2>`
		before := map[string]string{n[0] + ".html": page(n[0], n[1]+".html", section), n[1] + ".html": page(n[1]), "index.html": page("home", n[0]+".html#"+n[4]+"-"+n[5])}
		after := maps.Clone(before)
		after[n[0]+".html"], after[n[1]+".html"] = page(n[0], n[1]+".html"), page(n[1], section)
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html#" + n[4] + "-" + n[5]}: n[1] + ".html#" + n[4] + "-" + n[5]}}
	}},
	{"a page split in two", shown, shown, func(w *Words) Scene {
		n := w.Some(6)
		first, second := `<h2 id="`+n[4]+`-first">First `+n[4]+`</h2>`, `<h2 id="`+n[5]+`-second">Second `+n[5]+`</h2>`
		before := map[string]string{n[0] + ".html": page(n[0], first, second), "index.html": page("home", n[0]+".html#"+n[5]+"-second")}
		after := maps.Clone(before)
		after[n[0]+".html"], after[n[0]+"-more.html"] = page(n[0], first, n[0]+"-more.html"), page(n[0]+" more", second)
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html#" + n[5] + "-second"}: n[0] + "-more.html#" + n[5] + "-second"}}
	}},
	{"a page merged into another", unproven, shown, func(w *Words) Scene {
		n := w.Some(6)
		sections := []string{`<h2 id="` + n[4] + `-one">One ` + n[4] + `</h2>`, `<h2 id="` + n[5] + `-two">Two ` + n[5] + `</h2>`}
		before := map[string]string{
			n[0] + ".html": page(n[0]), n[1] + ".html": page(n[1], sections...), n[2] + ".html": page(n[2]), n[3] + ".html": page(n[3]),
			"index.html": page("home", n[1]+".html", n[1]+".html#"+n[5]+"-two", n[0]+".html"),
		}
		after := maps.Clone(before)
		delete(after, n[1]+".html")
		after[n[0]+".html"] = page(n[0], append([]string{`<h1 id="top-of-` + n[1] + `">About ` + n[1] + `</h1>`}, sections...)...)
		return Scene{before, after, map[[2]string]string{
			{"index.html", n[1] + ".html"}: n[0] + ".html", {"index.html", n[1] + ".html#" + n[5] + "-two"}: n[0] + ".html#" + n[5] + "-two",
		}}
	}},
	{"a heading reworded", open, shown, func(w *Words) Scene {
		n := w.Some(6)
		heading := func(word string) string { return `<h2 id="` + word + `">` + word + `</h2>` }
		before := map[string]string{"guide.html": page("guide", heading(n[0]), heading(n[1]), heading(n[2])), "index.html": page("home", "guide.html#"+n[1])}
		after := maps.Clone(before)
		after["guide.html"] = page("guide", heading(n[0]), heading(n[3]), heading(n[2]))
		return Scene{before, after, map[[2]string]string{{"index.html", "guide.html#" + n[1]}: "guide.html#" + n[3]}}
	}},
	{"a page renamed in place, that the link's words name", shown, control, func(w *Words) Scene {
		n := w.Some(5)
		before := map[string]string{}
		tree(before, "guides/", n[0], n[1])
		before["guides/"+n[2]+".html"] = page(n[3] + " " + n[4])
		before["guides/"+n[0]+".html"] = page(n[0], n[1]+".html", `<a href="`+n[2]+`.html">`+n[3]+" "+n[4]+`</a>`)
		after := maps.Clone(before)
		move(after, "guides/"+n[2]+".html", "guides/about-"+n[3]+".html")
		return Scene{before, after, map[[2]string]string{{"guides/" + n[0] + ".html", n[2] + ".html"}: "guides/about-" + n[3] + ".html"}}
	}},
	{"a page that became the index page of a folder", shown, control, func(w *Words) Scene {
		n := w.Some(3)
		before := map[string]string{n[0] + ".html": page(n[0]), n[1] + ".html": page(n[1]), "index.html": page("home", n[0]+".html", n[1]+".html")}
		after := maps.Clone(before)
		move(after, n[0]+".html", n[0]+"/index.html")
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html"}: n[0] + "/index.html"}}
	}},
	{"a name written raw, control", control, control, func(w *Words) Scene {
		word := w.One()
		name := []string{word + "#.html", word + "?.html", "C#.html", word + "%20x.html"}[w.r.IntN(4)]
		files := map[string]string{name: page("it"), "index.html": page("home", name)}
		return scene(files, map[[2]string]string{{"index.html", name}: name})
	}},
	{"a folder merged into one that was there", Expectation{0, 1}, mended, func(w *Words) Scene {
		n := w.Some(5)
		before := map[string]string{}
		tree(before, "old/", n[0], n[1], n[2])
		tree(before, "guides/", n[3], n[4])
		before["index.html"] = page("home", "old/"+n[0]+".html", "old/"+n[1]+".html", "guides/"+n[3]+".html")
		after := maps.Clone(before)
		move(after, "old/"+n[0]+".html", "guides/"+n[0]+".html")
		move(after, "old/"+n[1]+".html", "guides/"+n[1]+".html")
		delete(after, "old/"+n[2]+".html")
		return Scene{before, after, map[[2]string]string{{"index.html", "old/" + n[0] + ".html"}: "guides/" + n[0] + ".html", {"index.html", "old/" + n[1] + ".html"}: "guides/" + n[1] + ".html"}}
	}},
	{"two pages swapped", open, shown, func(w *Words) Scene {
		n := w.Some(3)
		before := map[string]string{n[0] + ".html": page(n[0]), n[1] + ".html": page(n[1]), "index.html": page("home", n[0]+".html", n[1]+".html")}
		after := maps.Clone(before)
		after[n[0]+".html"], after[n[1]+".html"] = before[n[1]+".html"], before[n[0]+".html"]
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html"}: n[1] + ".html", {"index.html", n[1] + ".html"}: n[0] + ".html"}}
	}},
	{"a page put in another one's place, which was kept", open, shown, func(w *Words) Scene {
		n := w.Some(3)
		before := map[string]string{n[0] + ".html": page(n[0]), n[1] + ".html": page(n[1]), "index.html": page("home", n[0]+".html")}
		after := maps.Clone(before)
		after["old-"+n[0]+".html"] = before[n[0]+".html"]
		move(after, n[1]+".html", n[0]+".html")
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html"}: "old-" + n[0] + ".html"}}
	}},
	{"a page copied before it was edited", open, unknowable, func(w *Words) Scene {
		n := w.Some(4)
		before := map[string]string{n[0] + ".html": page(n[0], n[1]+".html"), n[1] + ".html": page(n[1]), "index.html": page("home", n[0]+".html")}
		after := maps.Clone(before)
		after[n[0]+"-copy.html"] = before[n[0]+".html"]
		after[n[0]+".html"] = page(n[0], n[1]+".html") + "<p>More."
		return Scene{before, after, map[[2]string]string{{"index.html", n[0] + ".html"}: ""}}
	}},
	{"a moved page whose references land by chance", open, shown, func(w *Words) Scene {
		n := w.Some(4)
		before := map[string]string{n[0] + ".html": page("at the top"), "a/" + n[0] + ".html": page("in a"), "a/b/" + n[1] + ".html": page(n[1], "../"+n[0]+".html"), "a/index.html": page("a", "b/"+n[1]+".html")}
		after := maps.Clone(before)
		move(after, "a/b/"+n[1]+".html", n[1]+".html")
		return Scene{before, after, map[[2]string]string{{n[1] + ".html", "../" + n[0] + ".html"}: "a/" + n[0] + ".html"}}
	}},
	{"a disk path of something else", unproven, unproven, func(w *Words) Scene {
		n := w.Some(2)
		value := `C:\Program Files\` + n[1] + `\readme.txt`
		files := map[string]string{"files/readme.txt": "x", "index.html": page("home", value, "files/readme.txt")}
		return scene(files, map[[2]string]string{{"index.html", value}: ""})
	}},
	{"a link to the page that it is on", unproven, unproven, func(w *Words) Scene {
		n := w.Some(2)
		files := map[string]string{"guides/" + n[0] + ".html": page("it", "notes/"+n[0]+".html"), "index.html": page("home", "guides/"+n[0]+".html")}
		return scene(files, map[[2]string]string{{"guides/" + n[0] + ".html", "notes/" + n[0] + ".html"}: ""})
	}},
	{"addresses that have to be whole, control", control, control, func(w *Words) Scene {
		n := w.Some(2)
		files := map[string]string{
			n[0] + "-" + n[1] + ".html": page("it"),
			"index.html":                page("home", n[0]+"-"+n[1]+".html"),
			"sitemap.xml":               fmt.Sprintf(`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>https://seeds.example/%s_%s.html</loc></url></urlset>`, n[0], n[1]),
		}
		return scene(files, map[[2]string]string{{"sitemap.xml", "https://seeds.example/" + n[0] + "_" + n[1] + ".html"}: n[0] + "-" + n[1] + ".html"})
	}},
}

// movedPage is a page that was moved out of its folder: its own references mean what they did, and one is still to the old place.
func movedPage(w *Words) Scene {
	n := w.Some(6)
	before := map[string]string{"news/" + n[5] + ".html": page("news")}
	tree(before, "guides/", n[:4]...)
	before["guides/"+n[4]+".html"] = page("moved", n[0]+".html", n[1]+".html", n[2]+".html")
	before["index.html"] = page("home", "guides/"+n[4]+".html", "guides/"+n[0]+".html")
	after := maps.Clone(before)
	move(after, "guides/"+n[4]+".html", "news/"+n[4]+".html")
	meant := map[[2]string]string{{"index.html", "guides/" + n[4] + ".html"}: "news/" + n[4] + ".html"}
	for _, to := range n[:3] {
		meant[[2]string{"news/" + n[4] + ".html", to + ".html"}] = "guides/" + to + ".html"
	}
	return Scene{before, after, meant}
}

// move moves a file of a folder.
func move(files map[string]string, from, to string) {
	files[to] = files[from]
	delete(files, from)
}
