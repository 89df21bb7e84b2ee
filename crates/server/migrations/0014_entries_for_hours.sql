-- What is asked of a zone for some hours: keep it dry, or water in what was put down.
CREATE TABLE zone_constraint (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    begins          timestamptz NOT NULL,
    ends            timestamptz NOT NULL CHECK (ends > begins),
    asks            jsonb NOT NULL CHECK (asks ->> 'kind' IN ('keep_dry', 'water_in')),
    note            text CHECK (length(note) BETWEEN 1 AND 200),
    lifted_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 80),
    made_at         timestamptz NOT NULL DEFAULT now(),
    UNIQUE (zone_id, idempotency_key)
);
CREATE INDEX constraint_of_zone ON zone_constraint (zone_id, ends) WHERE lifted_at IS NULL;
