package exchange

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"reed/core/kit"
)

func readBag(t *testing.T, text string, have map[string]kit.Part) BagPreview {
	t.Helper()
	p, err := ReadBag(context.Background(), []byte(text), "m", have)
	if err != nil {
		t.Fatalf("%q: %v", text, err)
	}
	return p
}

func TestBagComesInAsPeopleWriteIt(t *testing.T) {
	for name, text := range map[string]string{
		"plain":             "kind,name,conductor,left\nwire,thin,0.5 mm,40 m\n",
		"semicolons, comma": "Kind;Name;Conductor diameter;Remaining on reel\nWire;thin;0,5;40\n",
		"tabs, mark, CRLF":  "\ufeffkind\tname\tconductor\tleft\r\nwire\tthin\t0.5 mm\t40 m\r\n\r\n",
		"quoted":            "kind,name,conductor,left\n\"wire\",\"thin\",\"0.5 mm\",\"131' 2 13/16\"\"\"\n",
	} {
		p := readBag(t, text, nil)
		if len(p.Rows) != 1 || !p.Rows[0].Taken || len(p.Notes) != 0 {
			t.Errorf("%s: %+v", name, p)
			continue
		}
		w := p.Rows[0].Part
		if c, l := w.M("conductor"), w.M("left"); c < 0.00049 || c > 0.00051 || l < 39.99 || l > 40.01 {
			t.Errorf("%s: conductor %v, left %v", name, c, l)
		}
	}
}

func TestNothingOfABagIsSilentlyLostOrChanged(t *testing.T) {
	p := readBag(t, "kind,name,length,colour\npole,tall,10 m,green\npole,,7 m,red\nkite,big,3 m,blue\npole,odd,ten "+
		"metres,black\ncoax,thin,8 m,grey\n", nil)
	if len(p.Rows) != 5 {
		t.Fatalf("%d rows", len(p.Rows))
	}
	for i, want := range []bool{true, false, false, false, true} {
		if p.Rows[i].Taken != want {
			t.Errorf("line %d taken: %v, want %v; %v", p.Rows[i].Line, p.Rows[i].Taken, want, p.Rows[i].Faults)
		}
	}
	if p.Rows[0].Part.W("colour", "") != "green" {
		t.Error("the unknown column is lost")
	}
	lines := map[int]bool{}
	for _, n := range p.Notes {
		lines[n.Line] = true
	}
	for _, l := range []int{3, 4, 5, 6} {
		if !lines[l] {
			t.Errorf("nothing is said of line %d: %v", l, p.Notes)
		}
	}
	if got := p.Rows[4].Part.W("type as written", "none"); got != "none" {
		t.Errorf("a missing type is kept as %q", got)
	}
	bad := readBag(t, "kind,name,primary,secondary,power_w\ntransformer,t,2,14,lots\n", nil)
	if !bad.Rows[0].Taken || bad.Rows[0].Part.W("power_w as written", "") != "lots" {
		t.Errorf("a bad optional field costs the thing: %+v", bad.Rows[0])
	}
}

func TestBagGoesOutAndInUnchanged(t *testing.T) {
	var parts []kit.Part
	have := map[string]kit.Part{}
	add := func(kind, name string, texts map[string]string, extra ...string) {
		p, faults := kit.Read(kind, name, texts, "m")
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		p.ID = fmt.Sprintf("00000000-0000-4000-8000-%012d", len(parts)+1)
		for i := 0; i+1 < len(extra); i += 2 {
			p.PutWord(extra[i], extra[i+1])
		}
		parts, have[p.ID] = append(parts, p), p
	}
	add("wire", "=HYPERLINK(1)", map[string]string{"conductor": "0.5 mm", "left": "40.5 m", "notes": "-12 dB, \"odd\"\nand more"})
	add("transformer", "49:1", map[string]string{"primary": "2", "secondary": "14", "loss": "7:0.8 14:0.6"}, "shelf", "@home")
	add("pole", "tall; thin", map[string]string{"length": "10 m", "usable": "8 m"})
	file, err := WriteBag(parts)
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(string(file), "\n=") || strings.Contains(string(file), ",=HYPER") {
		t.Errorf("a spreadsheet would compute this:\n%s", file)
	}
	p := readBag(t, string(file), have)
	for i, row := range p.Rows {
		if !row.Taken || !row.Known || row.Changes || row.Part.Name != parts[i].Name {
			t.Errorf("%s came back as %+v", parts[i].Name, row)
		}
	}
	changed := strings.Replace(string(file), "40.5 m", "12 m", 1)
	if row := readBag(t, changed, have).Rows[0]; !row.Known || !row.Changes {
		t.Errorf("less wire on the reel goes unseen: %+v", row)
	}
}

func TestBagFilesThatAreNone(t *testing.T) {
	for _, text := range []string{"", "hello", "name,length\na,1\n", strings.Repeat("x", MaxBag+1)} {
		if _, err := ReadBag(context.Background(), []byte(text), "m", nil); err == nil {
			t.Errorf("%.20q was read", text)
		}
	}
	twice := readBag(t, "kind,name,length\npole,a,7 m\npole,a,7 m\n", nil)
	if !twice.Rows[0].Taken || twice.Rows[1].Taken {
		t.Error("the same line twice makes two poles")
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := ReadBag(ctx, []byte("kind,name,length\npole,a,7 m\n"), "m", nil); err == nil {
		t.Error("it does not stop when asked")
	}
}

func FuzzReadBag(f *testing.F) {
	f.Add([]byte("kind,name,length\npole,a,7 m\n"))
	f.Add([]byte("kind;name;conductor\nwire;\"b\n;c\";0,5\n"))
	f.Add([]byte("\xff\xfek\x00i\x00n\x00d\x00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := ReadBag(context.Background(), data, "m", nil)
		if err != nil {
			return
		}
		var kept []kit.Part
		have := map[string]kit.Part{}
		for _, r := range p.Rows {
			if r.Taken {
				if r.Part.Name == "" || r.Part.ID == "" {
					t.Fatalf("taken without name or id: %+v", r)
				}
				kept, have[r.Part.ID] = append(kept, r.Part), r.Part
			}
		}
		if _, err := WriteBag(kept); err != nil {
			t.Fatal(err)
		}
	})
}
