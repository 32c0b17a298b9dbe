// Collect gathers the licence texts of what ships with the program: of the Go modules that it is built from on any of its
// systems, of Go itself, and of the interface's packages and fonts. It writes internal/licences/licences.txt; "make licences"
// runs it.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

const target = "internal/licences/licences.txt"

// systems are those that the program is released for.
var systems = []string{"linux/amd64", "linux/arm64", "darwin/amd64", "darwin/arm64", "windows/amd64", "windows/arm64"}

// isLicence matches the names of files with licence texts, and with the notices that some licences ask to be kept.
var isLicence = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|copyright)([-._].*)?$`)

func main() {
	log.SetFlags(0)
	names := map[string][]string{} // of what a text belongs to, by the text
	add := func(name, dir string) {
		list, err := os.ReadDir(dir)
		if err != nil {
			log.Fatal(err)
		}
		found := false
		for _, e := range list {
			if e.IsDir() || !isLicence.MatchString(e.Name()) || filepath.Ext(e.Name()) == ".go" {
				continue
			}
			b, err := os.ReadFile(filepath.Join(dir, e.Name()))
			if err != nil {
				log.Fatal(err)
			}
			text := strings.TrimSpace(strings.ReplaceAll(string(b), "\r\n", "\n"))
			if !slices.Contains(names[text], name) {
				names[text] = append(names[text], name)
			}
			found = true
		}
		if text := declared(dir); !found && text != "" {
			names[text] = append(names[text], name)
		} else if !found {
			log.Fatalf("%s has no licence text in %s", name, dir)
		}
	}
	add("Go", goRoot())
	for name, dir := range modules() {
		add(name, dir)
	}
	for name, dir := range packages("web") {
		add(name, dir)
	}
	if err := os.WriteFile(target, []byte(written(names)), 0o644); err != nil {
		log.Fatal(err)
	}
}

// declared returns what an npm package without a licence text says of its licence; "" if it says nothing.
func declared(dir string) string {
	var p struct {
		License string
		Author  any
	}
	b, err := os.ReadFile(filepath.Join(dir, "package.json"))
	if err != nil || json.Unmarshal(b, &p) != nil || p.License == "" {
		return ""
	}
	author := fmt.Sprint(p.Author)
	if of, ok := p.Author.(map[string]any); ok {
		author = fmt.Sprint(of["name"])
	}
	return fmt.Sprintf("The package has no licence text. Its description names the licence %s and the author %s.", p.License, author)
}

func goRoot() string {
	return strings.TrimSpace(run("", "go", "env", "GOROOT"))
}

// modules returns the directories of the Go modules that the program is built from on any system, by name and version.
func modules() map[string]string {
	out := map[string]string{}
	for _, system := range systems {
		goos, arch, _ := strings.Cut(system, "/")
		list := exec.Command("go", "list", "-deps", "-tags", "nomsgpack", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/arvel")
		list.Env = append(os.Environ(), "GOOS="+goos, "GOARCH="+arch, "CGO_ENABLED=0")
		b, err := list.Output()
		if err != nil {
			log.Fatal(err)
		}
		for line := range strings.Lines(string(b)) {
			if name, dir, ok := strings.Cut(strings.TrimSpace(line), "\t"); ok {
				out[name] = dir
			}
		}
	}
	return out
}

// packages returns the directories of the npm packages that the interface may be bundled from, by name and version: those that
// it depends on, but not for development, and those that these depend on.
func packages(dir string) map[string]string {
	var lock struct {
		Packages map[string]struct {
			Version           string
			Dev, Optional     bool
			DevOptional, Peer bool
		}
	}
	b, err := os.ReadFile(filepath.Join(dir, "package-lock.json"))
	if err == nil {
		err = json.Unmarshal(b, &lock)
	}
	if err != nil {
		log.Fatal(err)
	}
	out := map[string]string{}
	for at, p := range lock.Packages {
		name, ok := strings.CutPrefix(at, "node_modules/")
		if i := strings.LastIndex(name, "node_modules/"); i >= 0 {
			name = name[i+len("node_modules/"):]
		}
		if !ok || p.Dev || p.Optional || p.DevOptional || strings.HasPrefix(name, "@types/") {
			continue
		}
		out[name+" "+p.Version] = filepath.Join(dir, filepath.FromSlash(at))
	}
	return out
}

func written(names map[string][]string) string {
	type part struct{ names, text string }
	var parts []part
	for text, of := range names {
		slices.Sort(of)
		parts = append(parts, part{strings.Join(of, "\n"), text})
	}
	slices.SortFunc(parts, func(a, b part) int { return strings.Compare(a.names+a.text, b.names+b.text) })
	var b bytes.Buffer
	b.WriteString("The program contains the following, under the licences given below their names.\n")
	for _, p := range parts {
		fmt.Fprintf(&b, "\n%s\n\n%s\n\n%s\n", strings.Repeat("=", 80), p.names, p.text)
	}
	return b.String()
}

func run(dir, name string, args ...string) string {
	cmd := exec.Command(name, args...)
	cmd.Dir = dir
	b, err := cmd.Output()
	if err != nil {
		log.Fatal(err)
	}
	return string(b)
}
