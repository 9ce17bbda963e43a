package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"reed/core/antenna/family"
)

// rooms lists the core packages from the bottom up: each may import only those before it.
var rooms = []string{
	"lineage", "bounds", "clock",
	"numeric", "quantity", "band", "entry", "phrase", "place", "sky", "bulletin", "exposure", "circuit", "moment/earth",
	"moment", "antenna",
	"antenna/family", "kit",
	"bench", "deployment", "twin", "sweep", "trim", "diagnose", "marks", "rigging", "site", "scout", "onair", "weigh",
}

// adapters lists what each package outside core may import of the repository.
var adapters = map[string][]string{
	"internal/store":    {"core/"},
	"internal/exchange": {"core/"},
	"internal/device":   {"core/"},
	"internal/standin":  {"core/", "internal/device"},
	"internal/demo":     {"core/", "internal/store", "internal/exchange", "internal/standin"},
	"internal/bundle":   {"core/", "internal/store", "internal/exchange"},
	"internal/access":   {},
	"internal/testsize": {},
	"internal/server": {"api", "core/", "internal/access", "internal/store", "internal/exchange", "internal/bundle", "internal/device",
		"internal/standin", "internal/demo"},
	"cmd/reed": {"core/", "internal/"},
}

// imports lists what every Go file below a folder imports, by the folder of the file.
func imports(t *testing.T, root string, each func(dir, path string, test bool)) {
	t.Helper()
	err := filepath.WalkDir(root, func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			each(filepath.ToSlash(filepath.Dir(name)), strings.Trim(i.Path.Value, `"`), strings.HasSuffix(name, "_test.go"))
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

func TestCoreImportsOnlyDownward(t *testing.T) {
	seen := 0
	imports(t, ".", func(dir, path string, test bool) {
		if dir == "." {
			return
		}
		at := slices.Index(rooms, dir)
		if at < 0 {
			t.Errorf("core/%s has no place in the order", dir)
			return
		}
		if test && path == "reed/internal/testsize" {
			return // how large a simulation is depends on the environment, which core does not know
		}
		if to, ok := strings.CutPrefix(path, "reed/core/"); ok {
			seen++
			if i := slices.Index(rooms, to); i < 0 || i >= at {
				t.Errorf("core/%s imports core/%s, which is not below it", dir, to)
			}
			return
		}
		first, _, _ := strings.Cut(path, "/")
		if strings.Contains(first, ".") && !strings.HasPrefix(path, "gonum.org/v1/gonum") && !strings.HasPrefix(path, "golang.org/x/sync") ||
			strings.HasPrefix(path, "reed/") {
			t.Errorf("core/%s imports %s; core knows only itself, the standard library, gonum and x/sync", dir, path)
		}
		if !test && slices.Contains([]string{"net/http", "database/sql", "os", "log", "log/slog"}, path) {
			t.Errorf("core/%s imports %s; the rules know no interface, no storage and no machine", dir, path)
		}
	})
	if seen == 0 {
		t.Error("no import was looked at")
	}
}

func TestAdaptersKnowOnlyWhatIsBelowThem(t *testing.T) {
	for _, root := range []string{"../internal", "../cmd"} {
		imports(t, root, func(dir, path string, test bool) {
			to, ok := strings.CutPrefix(path, "reed/")
			if !ok || test && to == "internal/testsize" {
				return
			}
			from := strings.TrimPrefix(dir, "../")
			if !slices.ContainsFunc(adapters[from], func(p string) bool { return strings.HasPrefix(to, p) }) {
				t.Errorf("%s imports %s", from, to)
			}
		})
	}
}

// alsoWords are families' ids that are words of their own elsewhere, and where they may stand: a whip is a part of the
// bag, and the field of one.
var alsoWords = map[string][]string{"whip": {"core/kit/kit.go", "core/antenna/family/loading.go", "core/antenna/family/whippair.go",
	"core/antenna/family/loadedwhip.go"}}

// A family's id stands in its own file and nowhere else, so that a new family is one file: neither Go nor TypeScript
// asks which family something is. Tests and the demo may.
func TestAFamilysIDStandsInItsOwnFileOnly(t *testing.T) {
	home := map[string]string{}
	for _, f := range family.Families() {
		home[f.ID] = ""
	}
	literals(t, func(file, text string, id bool) {
		if own, known := home[text]; known && own == "" && id {
			home[text] = file
		}
	})
	looked := 0
	literals(t, func(file, text string, _ bool) {
		own, known := home[text]
		if !known || file == own || slices.Contains(alsoWords[text], file) {
			return
		}
		t.Errorf("%s knows of the family %q: ask the family instead", file, text)
	})
	for id, file := range home {
		if file == "" {
			t.Errorf("the family %q has no file", id)
		}
		looked++
	}
	if looked < 16 {
		t.Errorf("only %d families were looked at", looked)
	}
}

var quoted = regexp.MustCompile("[\"'`]([a-z-]+)[\"'`/]")

// literals calls each with every text that stands literally in the sources; id says that it is a family's own ID.
func literals(t *testing.T, each func(file, text string, id bool)) {
	t.Helper()
	for _, root := range []string{"core", "internal", "cmd", "web/src"} {
		err := filepath.WalkDir(filepath.Join("..", root), func(name string, d fs.DirEntry, err error) error {
			file := strings.TrimPrefix(filepath.ToSlash(name), "../")
			switch {
			case err != nil || d.IsDir() || strings.Contains(file, ".gen.") || strings.Contains(file, "_test.") ||
				strings.Contains(file, "internal/demo/"):
				return err
			case strings.HasSuffix(file, ".go"):
				f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
				if err != nil {
					return err
				}
				ast.Inspect(f, func(n ast.Node) bool {
					switch n := n.(type) {
					case *ast.CompositeLit:
						if kind, ok := n.Type.(*ast.Ident); ok && kind.Name == "Family" && len(n.Elts) > 0 {
							if kv, ok := n.Elts[0].(*ast.KeyValueExpr); ok {
								text, _ := strconv.Unquote(kv.Value.(*ast.BasicLit).Value)
								each(file, text, true)
							}
						}
					case *ast.BasicLit:
						if text, err := strconv.Unquote(n.Value); err == nil {
							each(file, text, false)
						}
					}
					return true
				})
			case strings.HasSuffix(file, ".ts"), strings.HasSuffix(file, ".tsx"):
				b, err := os.ReadFile(name)
				if err != nil {
					return err
				}
				for _, m := range quoted.FindAllStringSubmatch(string(b), -1) {
					each(file, m[1], false)
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}

// TestTheListOfRoomsIsComplete compares the list in CONTRIBUTING.md with the packages.
func TestTheListOfRoomsIsComplete(t *testing.T) {
	text, err := os.ReadFile("../CONTRIBUTING.md")
	if err != nil {
		t.Fatal(err)
	}
	_, list, _ := strings.Cut(string(text), "\n    core/")
	list, _, _ = strings.Cut(list, "\n    internal/")
	var listed []string
	for line := range strings.Lines(list) {
		for word := range strings.FieldsSeq(line) {
			name, isRoom := strings.CutSuffix(word, "/")
			if !isRoom || !strings.HasPrefix(line, "      ") {
				break
			}
			listed = append(listed, name)
		}
	}
	for _, room := range rooms {
		if !slices.Contains(listed, room) {
			t.Errorf("CONTRIBUTING.md does not list core/%s", room)
		}
	}
	for _, name := range listed {
		if !slices.Contains(rooms, name) {
			t.Errorf("CONTRIBUTING.md lists core/%s, which is not there", name)
		}
	}
}
