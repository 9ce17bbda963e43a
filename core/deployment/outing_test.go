package deployment

import "testing"

func TestAnOutingIsCheckedByField(t *testing.T) {
	good := Outing{Name: "Gannet Spit", Date: "2026-05-16", Place: "IN36vm", Ground: "sea", Until: "20:30"}
	if f := good.Check(); len(f) > 0 {
		t.Errorf("%v", f)
	}
	if f := (Outing{Name: "x", Date: "2026-05-16"}).Check(); len(f) > 0 {
		t.Errorf("place, ground and gate need not be known: %v", f)
	}
	for path, change := range map[string]func(*Outing){
		"name": func(o *Outing) { o.Name = "  " }, "date": func(o *Outing) { o.Date = "16.5.2026" },
		"place":  func(o *Outing) { o.Place = "beach" },
		"ground": func(o *Outing) { o.Ground = "cheese" }, "until": func(o *Outing) { o.Until = "25:00" },
	} {
		o := good
		change(&o)
		if f := o.Check(); len(f) != 1 || f[0].Path != path || f[0].Severity != "error" || f[0].Text == "" {
			t.Errorf("%s: %v", path, f)
		}
	}
}
