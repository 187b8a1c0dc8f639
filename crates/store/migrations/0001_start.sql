-- Families as versioned sheets: a published version never changes.
CREATE TABLE families (
    id       text        NOT NULL,
    version  integer     NOT NULL CHECK (version > 0),
    sheet    jsonb       NOT NULL,
    added_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (id, version)
);

-- Candidates: the document without its findings. Earlier versions stay in candidate_versions.
CREATE TABLE candidates (
    id             uuid        PRIMARY KEY,
    version        integer     NOT NULL DEFAULT 1 CHECK (version > 0),
    evidence       bigint      NOT NULL DEFAULT 0,
    body           jsonb       NOT NULL,
    archived       boolean     NOT NULL DEFAULT false,
    created_at     timestamptz NOT NULL DEFAULT now(),
    changed_at     timestamptz NOT NULL DEFAULT now(),
    summary        jsonb,
    summary_engine text
);
CREATE INDEX candidates_in_yard ON candidates (created_at) WHERE NOT archived;

CREATE TABLE candidate_versions (
    candidate uuid        NOT NULL REFERENCES candidates (id),
    version   integer     NOT NULL,
    body      jsonb       NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (candidate, version)
);

-- Findings are appended; taking one back marks it, nothing is ever overwritten.
CREATE TABLE findings (
    id        uuid        PRIMARY KEY,
    candidate uuid        NOT NULL REFERENCES candidates (id),
    seq       bigint      GENERATED ALWAYS AS IDENTITY,
    body      jsonb       NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    undone_at timestamptz
);
CREATE INDEX findings_of_candidate ON findings (candidate, seq);
