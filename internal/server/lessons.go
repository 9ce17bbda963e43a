package server

import (
	"context"

	"reed/core/deployment"
)

// ListLessons lists what was learned at this place or with this kind of antenna, for a plan to begin with.
func (s *Server) ListLessons(ctx context.Context, r ListLessonsRequestObject) (ListLessonsResponseObject, error) {
	o, err := s.store.Outing(ctx, r.Id)
	if err != nil {
		return nil, err
	}
	all, err := s.store.Lessons(ctx, r.Id)
	return ListLessons200JSONResponse(deployment.LessonsFor(o, r.Params.Family, all)), err
}
