package server

import (
	"context"

	"reed/core/place"
)

// Bounds of what is shown of lessons: how near is the same place, in metres, and how many.
const (
	samePlace   = 1500.0
	mostLessons = 12
)

// ListLessons lists what was learned at this place or with this kind of antenna, for a plan to begin with.
func (s *Server) ListLessons(ctx context.Context, r ListLessonsRequestObject) (ListLessonsResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Lessons(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	here, herr := place.ParsePosition(o.Place)
	out := ListLessons200JSONResponse{}
	for _, x := range all {
		because := LessonBecause("")
		if x.Deployment.Plan.Family == r.Params.Family && r.Params.Family != "" {
			because = ThisKindOfAntenna
		}
		if there, err := place.ParsePosition(x.Outing.Place); err == nil && herr == nil && place.Distance(here, there) <= samePlace {
			because = ThisPlace
		}
		if because != "" && len(out) < mostLessons {
			out = append(out, Lesson{Name: x.Deployment.Name, Outing: x.Outing.Name, Date: x.Outing.Date, Text: x.Deployment.Lesson,
				Because: because})
		}
	}
	return out, nil
}
