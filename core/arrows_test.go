package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// rooms lists the core packages from the bottom up: each may import only those before it.
var rooms = []string{
	"quantity", "band", "entry", "place", "circuit", "moment/earth", "moment", "antenna", "kit", "bench", "deployment", "twin", "sweep", "trim", "diagnose", "marks", "rigging", "scout", "onair", "weigh",
}

// adapters lists what each package outside core may import of the repository.
var adapters = map[string][]string{
	"internal/store":    {"core/"},
	"internal/exchange": {"core/"},
	"internal/device":   {"core/"},
	"internal/standin":  {"core/", "internal/device"},
	"internal/demo":     {"core/", "internal/store", "internal/exchange", "internal/standin"},
	"internal/access":   {},
	"internal/server":   {"api", "core/", "internal/access", "internal/store", "internal/exchange", "internal/device", "internal/standin", "internal/demo"},
	"cmd/reed":          {"core/", "internal/"},
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
		if to, ok := strings.CutPrefix(path, "reed/core/"); ok {
			seen++
			if i := slices.Index(rooms, to); i < 0 || i >= at {
				t.Errorf("core/%s imports core/%s, which is not below it", dir, to)
			}
			return
		}
		first, _, _ := strings.Cut(path, "/")
		if strings.Contains(first, ".") && !strings.HasPrefix(path, "gonum.org/v1/gonum") || strings.HasPrefix(path, "reed/") {
			t.Errorf("core/%s imports %s; core knows only itself, the standard library and gonum", dir, path)
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
		imports(t, root, func(dir, path string, _ bool) {
			to, ok := strings.CutPrefix(path, "reed/")
			if !ok {
				return
			}
			from := strings.TrimPrefix(dir, "../")
			if !slices.ContainsFunc(adapters[from], func(p string) bool { return strings.HasPrefix(to, p) }) {
				t.Errorf("%s imports %s", from, to)
			}
		})
	}
}
