// Notices writes the licences of everything that the program ships: the Go modules it is built of, and the packages of the front end,
// fonts among them.
package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

func main() {
	if err := write(os.Stdout, "."); err != nil {
		fmt.Fprintln(os.Stderr, "notices:", err)
		os.Exit(1)
	}
}

// part is something that is shipped, with the folder it was read from.
type part struct{ name, version, folder string }

func write(w io.Writer, root string) error {
	modules, err := goModules(root)
	if err != nil {
		return fmt.Errorf("list the Go modules: %w", err)
	}
	packages, err := webPackages(filepath.Join(root, "web"))
	if err != nil {
		return fmt.Errorf("list the front end's packages: %w", err)
	}
	out := bufio.NewWriter(w)
	fmt.Fprintln(out, "# Notices\n\nWhat Odd Tick ships of others, with their licences. Made by `make notices`.")
	for _, p := range slices.Concat(modules, packages) {
		texts, err := licences(p.folder)
		if err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
		fmt.Fprintf(out, "\n## %s %s\n", p.name, p.version)
		for _, text := range texts {
			fmt.Fprintf(out, "\n```\n%s\n```\n", strings.ReplaceAll(strings.TrimSpace(text), "```", "'''"))
		}
	}
	return out.Flush()
}

// goModules are the modules that packages of the program are of.
func goModules(root string) ([]part, error) {
	cmd := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/oddtick")
	cmd.Dir = root
	text, err := cmd.Output()
	if err != nil {
		return nil, err
	}
	var out []part
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	slices.Sort(lines)
	for _, line := range slices.Compact(lines) {
		if cells := strings.Split(line, "\t"); len(cells) == 3 {
			out = append(out, part{cells[0], cells[1], cells[2]})
		}
	}
	return out, nil
}

// webPackages are those that the front end needs when it runs, by its lock file.
func webPackages(folder string) ([]part, error) {
	text, err := os.ReadFile(filepath.Join(folder, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version  string
			Dev      bool
			Optional bool
		}
	}
	if err := json.Unmarshal(text, &lock); err != nil {
		return nil, err
	}
	var out []part
	for path, p := range lock.Packages {
		if path != "" && !p.Dev && !p.Optional {
			out = append(out, part{path[strings.LastIndex(path, "node_modules/")+len("node_modules/"):], p.Version, filepath.Join(folder, path)})
		}
	}
	slices.SortFunc(out, func(a, b part) int { return strings.Compare(a.name+a.version, b.name+b.version) })
	return out, nil
}

// licences are the texts of a folder's licences and notices; where there are none, what its package says of its licence.
func licences(folder string) ([]string, error) {
	list, err := os.ReadDir(folder)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, e := range list {
		name := strings.ToLower(e.Name())
		if e.IsDir() || !strings.HasPrefix(name, "licen") && !strings.HasPrefix(name, "copying") && !strings.HasPrefix(name, "notice") && !strings.HasPrefix(name, "unlicense") {
			continue
		}
		text, err := os.ReadFile(filepath.Join(folder, e.Name()))
		if err != nil {
			return nil, err
		}
		out = append(out, string(text))
	}
	if len(out) > 0 {
		return out, nil
	}
	var said struct{ License string }
	text, err := os.ReadFile(filepath.Join(folder, "package.json"))
	if err != nil || json.Unmarshal(text, &said) != nil || said.License == "" {
		return nil, errors.New("it has no licence")
	}
	return []string{"Licence: " + said.License}, nil
}
