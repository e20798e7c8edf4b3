package db

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Trip sends the statements that fill queues as one transaction of one workspace, in one trip to the server: they travel
// together, the server carries out all of them or none, and their answers come back together. A statement cannot depend on
// the answer of another; what does takes InWorkspace.
func (d *DB) Trip(ctx context.Context, workspace string, fill func(b *pgx.Batch)) error {
	if !plainID(workspace) {
		return fmt.Errorf("db: %q cannot be a workspace", workspace)
	}
	release, err := d.shares.take(ctx, workspace)
	if err != nil {
		return err
	}
	defer release()
	b := &pgx.Batch{}
	// Without a BEGIN, what is sent before one Sync is one transaction (PostgreSQL documentation, 55.2.4 Pipelining).
	b.Queue(`SELECT set_config('sodrik.workspace', $1, true), set_config('role', 'sodrik_workspace', true)`, workspace)
	fill(b)
	return d.Pool.SendBatch(ctx, b).Close()
}
