package e2e

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"sodrik/internal/api"
)

// TestOpenAPIClient: a client that an outside library makes of the OpenAPI document alone does every operation there is.
func TestOpenAPIClient(t *testing.T) {
	t.Parallel()
	if _, err := os.Stat("../assets/node_modules/openapi-client-axios"); err != nil {
		t.Fatal("the outside client is not here; run assets/build once")
	}
	a := open(t)
	cmd := node(t, "openapi.mjs", a.url, a.token(t))
	var failed bytes.Buffer
	cmd.Stderr = &failed
	b, err := cmd.Output()
	if err != nil {
		t.Fatalf("%v: %s", err, failed.String())
	}
	did := map[string]int{}
	if err := json.Unmarshal(b, &did); err != nil {
		t.Fatalf("%v: %s", err, b)
	}
	for _, op := range api.Operations() {
		if status := did[op.ID]; status < 200 || status > 299 {
			t.Errorf("%s is answered by %d", op.ID, status)
		}
		delete(did, op.ID)
	}
	if len(did) > 0 {
		t.Errorf("no operations of ours: %v", did)
	}
}
