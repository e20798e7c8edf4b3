package code

// Upkeep is what is done to codes by the program itself, for nobody in particular: keys change, what nobody needs is swept,
// what can be found is brought up to the present rules, what has no verdict gets one.
type Upkeep struct{ *Store }

// Upkeep of all workspaces.
func (s *Store) Upkeep() Upkeep { return Upkeep{s} }
