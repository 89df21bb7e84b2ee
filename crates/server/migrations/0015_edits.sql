-- What people change of the plan: a zone's day taken out, or what runs on it set. Of a day the newest that is not undone holds; one act may change several days.
CREATE TABLE week_edit (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date            date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    becomes         jsonb NOT NULL CHECK (becomes ->> 'kind' IN ('taken_out', 'set', 'as_planned')),
    act             text NOT NULL CHECK (act IN ('skip', 'lock', 'minutes', 'move', 'release')),
    reason          text CHECK (length(reason) BETWEEN 1 AND 200),
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    made_at         timestamptz NOT NULL DEFAULT now(),
    undone_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 80),
    UNIQUE (zone_id, date, idempotency_key)
);
CREATE INDEX edit_of_zone ON week_edit (zone_id, date, id DESC) WHERE undone_at IS NULL;
