package entry

import "testing"

func TestADialIsReadAsItIsMarked(t *testing.T) {
	for _, c := range []struct {
		text   string
		n      float64
		marked string
		back   string
	}{{"42", 42, "", "42"}, {"3,5", 3.5, "", "3.5"}, {"c", 3, Letters, "C"}, {" C.3 ", 3.3, Letters, "C.3"}, {"D - E", 4.5, Letters, "D-E"},
		{"z", 26, Letters, "Z"}, {"#7", 7, Positions, "#7"}, {"# 12", 12, Positions, "#12"}} {
		n, marked, err := ParseDial(c.text)
		if err != nil || n != c.n || marked != c.marked {
			t.Errorf("%q: %v %q %v", c.text, n, marked, err)
		}
		if back := WriteDial(n, marked); back != c.back {
			t.Errorf("%q is written %q", c.text, back)
		}
	}
	for _, text := range []string{"", "CD", "A-C", "E-D", "#", "#x", "#-1", "12 o'clock", "NaN", "é"} {
		if n, marked, err := ParseDial(text); err == nil {
			t.Errorf("%q: %v %q", text, n, marked)
		}
	}
	for n := 0.0; n < 30; n += 0.1 { // what is written is read
		for _, marked := range []string{"", Letters, Positions} {
			if text := WriteDial(n, marked); text == "" {
				t.Errorf("%v by %q is nothing", n, marked)
			} else if _, _, err := ParseDial(text); err != nil {
				t.Errorf("%v by %q: %v", n, marked, err)
			}
		}
	}
	f := []Field{{ID: "d", Label: "Dial", Kind: Dial, Max: 50}}
	v, faults := Read(f, map[string]string{"d": "C-D"}, "m")
	if len(faults) > 0 || Texts(f, v, false)["d"] != "C-D" {
		t.Errorf("%+v %v", v, faults)
	}
	if _, faults := Read(f, map[string]string{"d": "60"}, "m"); len(faults) != 1 {
		t.Errorf("60 of 50: %v", faults)
	}
}
