-- +goose Up
-- The addresses of shown pictures and shared overviews: token is the SHA-256 of what stands in the address, sealed is that itself. Rows from
-- before have it in the clear, and nothing sealed, until the program has put them right.
ALTER TABLE shown_pictures ADD sealed bytea;
ALTER TABLE shared_overviews ADD sealed bytea;

-- +goose Down
ALTER TABLE shown_pictures DROP sealed;
ALTER TABLE shared_overviews DROP sealed;
