-- +goose Up
-- That a version is in print is said by a person, with the day and, if they know them, the printer and how many; it can be taken back.
ALTER TABLE issued_versions ADD printed_on date, ADD printer text NOT NULL DEFAULT '', ADD quantity int NOT NULL DEFAULT 0, ADD printed_who text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE issued_versions DROP printed_on, DROP printer, DROP quantity, DROP printed_who;
