-- Reports as they were issued: frozen, numbered by candidate. The document is the text whose fingerprint is told.
CREATE TABLE reports (
    id          uuid        PRIMARY KEY,
    candidate   uuid        NOT NULL REFERENCES candidates (id),
    number      integer     NOT NULL CHECK (number > 0),
    document    text        NOT NULL,
    fingerprint text        NOT NULL,
    issued_at   timestamptz NOT NULL DEFAULT now(),
    UNIQUE (candidate, number)
);

-- A customer's link opens one issued report.
ALTER TABLE links ADD COLUMN report uuid REFERENCES reports (id);

-- What this yard counts in: asked once.
CREATE TABLE settings (
    one      boolean PRIMARY KEY DEFAULT true CHECK (one),
    document jsonb   NOT NULL
);
