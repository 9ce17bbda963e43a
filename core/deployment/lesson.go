package deployment

import "reed/core/place"

// Learned is a lesson of a deployment, and where it was learned.
type Learned struct {
	Deployment Deployment
	Outing     Outing
}

// Lesson is one that comes back, and because of what.
type Lesson struct {
	Name    string `json:"name"`
	Outing  string `json:"outing"`
	Date    string `json:"date"`
	Text    string `json:"text"`
	Because string `json:"because"` // this place, or this kind of antenna
}

// Bounds of which lessons come back: how near is the same place, in metres, and how many.
const (
	samePlace   = 1500.0
	mostLessons = 12
)

// LessonsFor are those of what was learned that come back at an outing, for a plan of a family: at the same place, or with the same kind of
// antenna; in the order in which they come.
func LessonsFor(o Outing, family string, all []Learned) []Lesson {
	here, err := place.ParsePosition(o.Place)
	known := err == nil
	out := []Lesson{}
	for _, x := range all {
		because := ""
		if x.Deployment.Plan.Family == family && family != "" {
			because = "this kind of antenna"
		}
		if there, err := place.ParsePosition(x.Outing.Place); err == nil && known && place.Distance(here, there) <= samePlace {
			because = "this place"
		}
		if because != "" && len(out) < mostLessons {
			out = append(out, Lesson{x.Deployment.Name, x.Outing.Name, x.Outing.Date, x.Deployment.Lesson, because})
		}
	}
	return out
}
