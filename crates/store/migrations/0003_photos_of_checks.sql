-- Pictures stand behind a paper, or behind a check.
ALTER TABLE attachments ALTER COLUMN paper DROP NOT NULL;
ALTER TABLE attachments ADD COLUMN family text;
ALTER TABLE attachments ADD COLUMN check_id text;
ALTER TABLE attachments ADD CONSTRAINT attachments_behind_one
    CHECK ((paper IS NOT NULL) <> (family IS NOT NULL AND check_id IS NOT NULL));
