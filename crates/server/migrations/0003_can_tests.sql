-- Catch-can tests of a zone. Append-only but for their standing: pinned by the manager, or voided.
CREATE TABLE can_test (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    date            date NOT NULL,
    test            jsonb NOT NULL CHECK (jsonb_typeof(test) = 'object'),
    result          jsonb NOT NULL CHECK (jsonb_typeof(result) = 'object'),
    pinned          boolean NOT NULL DEFAULT false,
    voided_at       timestamptz,
    created_at      timestamptz NOT NULL DEFAULT now(),
    -- What a phone may send twice is written once.
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 8 AND 80),
    CHECK (NOT pinned OR voided_at IS NULL),
    UNIQUE (zone_id, idempotency_key)
);
CREATE INDEX can_test_zone ON can_test (zone_id, date DESC, id DESC);
CREATE UNIQUE INDEX can_test_pinned ON can_test (zone_id) WHERE pinned;
