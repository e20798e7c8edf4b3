-- +goose Up
-- What somebody wrote who reported a link: an event as a scan is, of the kind report. told_at is when its owners were told.
ALTER TABLE scans ADD words text NOT NULL DEFAULT '';
CREATE INDEX scans_reports ON scans (workspace, id) WHERE kind = 'report';
CREATE TABLE reports_told (
    workspace text NOT NULL,
    id        uuid NOT NULL,
    told_at   timestamptz NOT NULL,
    PRIMARY KEY (workspace, id)
);

-- +goose Down
DROP TABLE reports_told;
DROP INDEX scans_reports;
ALTER TABLE scans DROP words;
