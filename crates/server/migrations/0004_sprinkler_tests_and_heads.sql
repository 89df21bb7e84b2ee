-- Tests with cans and quick ones are one series: the newest that tells a figure counts.
ALTER TABLE can_test RENAME TO sprinkler_test;
ALTER INDEX can_test_zone RENAME TO sprinkler_test_zone;
ALTER INDEX can_test_pinned RENAME TO sprinkler_test_pinned;
UPDATE sprinkler_test SET test = test || '{"method": "cans"}';
ALTER TABLE sprinkler_test ADD CHECK (test ->> 'method' IN ('cans', 'quick'));

-- What is wrong with heads. A fault that is mended stays, with its day.
CREATE TABLE head_fault (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    head            smallint NOT NULL CHECK (head BETWEEN 1 AND 400),
    fault           text NOT NULL CHECK (fault IN ('tilted', 'sunk', 'clogged', 'broken', 'at_paving', 'leaking', 'wrong_nozzle')),
    note            text CHECK (length(note) BETWEEN 1 AND 200),
    noted_on        date NOT NULL,
    noted_by        bigint REFERENCES account ON DELETE SET NULL,
    due_on          date CHECK (due_on >= noted_on),
    mended_on       date CHECK (mended_on >= noted_on),
    mended_by       bigint REFERENCES account ON DELETE SET NULL,
    created_at      timestamptz NOT NULL DEFAULT now(),
    -- What a phone may send twice is written once.
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 8 AND 80),
    UNIQUE (zone_id, idempotency_key)
);
CREATE INDEX head_fault_zone ON head_fault (zone_id, noted_on DESC, id DESC);
