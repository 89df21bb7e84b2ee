-- Seedlings of new grass, counted in a square frame that was laid down here and there.
CREATE TABLE stand_count (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    -- The site's day.
    date            date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    -- Side of the frame.
    frame_mm        int NOT NULL CHECK (frame_mm BETWEEN 20 AND 1000),
    counts          int[] NOT NULL CHECK (cardinality(counts) BETWEEN 3 AND 50),
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    -- Noted by mistake.
    undone_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 90),
    UNIQUE (zone_id, idempotency_key)
);
