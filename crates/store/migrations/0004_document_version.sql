-- The version of the open formats that the stored documents are in. The program brings them to its own version
-- when it starts (see src/upgrade.rs); documents stored by a program before this migration are of version 1.
CREATE TABLE document_version (
    only_row boolean PRIMARY KEY DEFAULT true CHECK (only_row),
    version  integer NOT NULL
);
INSERT INTO document_version (version) VALUES (1);
