package deployment

import "testing"

func TestLessonsComeBackAtThePlaceAndForTheKind(t *testing.T) {
	learned := func(name, family, place string) (x Learned) {
		x.Deployment.Name, x.Deployment.Lesson, x.Outing.Place = name, "lesson of "+name, place
		x.Deployment.Plan.Family = family
		return x
	}
	all := []Learned{learned("Heron", "end-fed", "46.50 N 12.20 W"), learned("Stilt", "vertical", "46.50 N 12.50 W"),
		learned("Curlew", "dipole", "46.70 N 12.50 W"), learned("Rail", "dipole", "")}
	for _, c := range []struct {
		place, family string
		want          map[string]string
	}{
		{"46.505 N 12.201 W", "vertical", map[string]string{"Heron": "this place", "Stilt": "this kind of antenna"}},
		{"46.505 N 12.201 W", "end-fed", map[string]string{"Heron": "this place"}},
		{"", "dipole", map[string]string{"Curlew": "this kind of antenna", "Rail": "this kind of antenna"}},
		{"", "", nil},
	} {
		got := LessonsFor(Outing{Place: c.place}, c.family, all)
		if len(got) != len(c.want) {
			t.Errorf("%q %s: %+v", c.place, c.family, got)
		}
		for _, l := range got {
			if l.Because != c.want[l.Name] || l.Text != "lesson of "+l.Name {
				t.Errorf("%q %s: %+v", c.place, c.family, l)
			}
		}
	}
	many := make([]Learned, 40)
	for i := range many {
		many[i] = learned("Rail", "dipole", "")
	}
	if got := LessonsFor(Outing{}, "dipole", many); len(got) != mostLessons {
		t.Errorf("%d lessons", len(got))
	}
}
