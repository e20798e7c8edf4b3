package link

import (
	"context"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
)

// Create makes a code of a job. One that says where its short link is to lead gets links of its own, whatever link the file
// names, and leads there as its draft says. find finds uploads that the job names.
func (s *Store) Create(ctx context.Context, actor access.Actor, m *compose.Rendition, campaign string,
	find compose.Assets) (id string,
	err error) {
	if err := actor.Need(access.Change); err != nil {
		return "", err
	}
	lead := m.Job.Lead
	if lead == nil {
		return s.Codes.Create(ctx, actor, m, campaign)
	}
	base, err := s.Base(ctx, actor)
	if err != nil {
		return "", err
	}
	if base == "" {
		return "", errNoHost
	}
	j := *m.Job
	j.Content, j.Lead, j.Placements = lead.To, nil, nil
	for _, p := range m.Job.Placements {
		p.Link = ""
		j.Placements = append(j.Placements, p)
	}
	made, problems := compose.Make(&j, find)
	if len(problems) > 0 {
		return "", problems
	}
	if id, err = s.Codes.Create(ctx, actor, made, campaign); err != nil {
		return "", err
	}
	if _, err = s.Turn(ctx, actor, id, code.Anyhow); err != nil {
		return "", err
	}
	_, err = s.Set(ctx, actor, id, plain(lead.JSON()), 0)
	return id, at(err, "/lead")
}
