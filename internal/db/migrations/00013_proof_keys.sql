-- +goose Up
-- A proof is kept by what it reads: proofs holds, for each placement in order, the sealed key of its proof, one for a code without placements. Proofs
-- from before are made again when they are asked for.
ALTER TABLE codes ADD proofs text[] NOT NULL DEFAULT '{}';
ALTER TABLE issued_versions ADD proofs text[] NOT NULL DEFAULT '{}';
CREATE INDEX codes_proofs ON codes USING gin (proofs);
CREATE INDEX issued_versions_proofs ON issued_versions USING gin (proofs);
DELETE FROM proofs;
ALTER TABLE proofs DROP placement;
ALTER TABLE proofs RENAME digest TO key;
ALTER TABLE proofs ADD PRIMARY KEY (workspace, key, panel);

-- +goose Down
DELETE FROM proofs;
ALTER TABLE proofs DROP CONSTRAINT proofs_pkey;
ALTER TABLE proofs RENAME key TO digest;
ALTER TABLE proofs ADD placement int NOT NULL;
ALTER TABLE proofs ADD PRIMARY KEY (workspace, digest, placement, panel);
ALTER TABLE issued_versions DROP proofs;
ALTER TABLE codes DROP proofs;
