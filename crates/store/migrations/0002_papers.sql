-- Papers: ledger entries, readings, items of history reports, advisories and campaigns. Appended; taking
-- one back marks it; a correction takes the earlier one's place and names it.
CREATE TABLE papers (
    id        uuid        PRIMARY KEY,
    candidate uuid        NOT NULL REFERENCES candidates (id),
    seq       bigint      GENERATED ALWAYS AS IDENTITY,
    body      jsonb       NOT NULL,
    replaces  uuid        REFERENCES papers (id),
    at        timestamptz NOT NULL DEFAULT now(),
    undone_at timestamptz
);
CREATE INDEX papers_of_candidate ON papers (candidate, seq);

-- Pictures and documents that stand behind a paper, re-encoded and without what their makers wrote into
-- them.
CREATE TABLE attachments (
    id        uuid        PRIMARY KEY,
    candidate uuid        NOT NULL REFERENCES candidates (id),
    paper     uuid        NOT NULL REFERENCES papers (id),
    seq       bigint      GENERATED ALWAYS AS IDENTITY,
    name      text        NOT NULL,
    media     text        NOT NULL,
    bytes     bytea       NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    undone_at timestamptz
);
CREATE INDEX attachments_of_candidate ON attachments (candidate, seq);

-- Papers that earlier versions kept inside the document move into the table.
INSERT INTO papers (id, candidate, body)
SELECT gen_random_uuid(), c.id, jsonb_build_object('kind', l.kind, 'paper', x.value)
FROM candidates c
CROSS JOIN (VALUES ('ledger', 'entry'), ('readings', 'reading'), ('provenance', 'provenance')) AS l (list, kind)
CROSS JOIN LATERAL jsonb_array_elements(coalesce(c.body -> l.list, '[]'::jsonb)) WITH ORDINALITY AS x (value, n)
ORDER BY c.created_at, c.id, l.list, x.n;

UPDATE candidates
SET body = body || '{"ledger": [], "readings": [], "provenance": []}'::jsonb, summary = NULL;
