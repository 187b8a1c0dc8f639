-- Devices that were paired. Of a token its hash alone is kept.
CREATE TABLE sessions (
    id         uuid        PRIMARY KEY,
    token_hash bytea       NOT NULL UNIQUE,
    name       text        NOT NULL,
    made_at    timestamptz NOT NULL DEFAULT now(),
    used_at    timestamptz NOT NULL DEFAULT now(),
    revoked_at timestamptz
);

-- Codes that pair a device: for a short time, once, and void after a few wrong tries.
CREATE TABLE pairing_codes (
    id        uuid        PRIMARY KEY,
    code_hash bytea       NOT NULL,
    until     timestamptz NOT NULL,
    wrong     integer     NOT NULL DEFAULT 0,
    used_at   timestamptz
);

-- Links for customers and sellers: to read one candidate, until a date, until taken back.
CREATE TABLE links (
    id         uuid        PRIMARY KEY,
    token_hash bytea       NOT NULL UNIQUE,
    candidate  uuid        NOT NULL REFERENCES candidates (id),
    audience   text        NOT NULL CHECK (audience IN ('customer', 'seller')),
    until      timestamptz NOT NULL,
    made_at    timestamptz NOT NULL DEFAULT now(),
    revoked_at timestamptz
);
CREATE INDEX links_of_candidate ON links (candidate, made_at);
