-- Walks with each zone on for two minutes. What is wrong with heads goes into their own list.
ALTER TABLE head_fault DROP CONSTRAINT head_fault_fault_check;
ALTER TABLE head_fault ADD CONSTRAINT head_fault_fault_check
    CHECK (fault IN ('tilted', 'sunk', 'clogged', 'broken', 'at_paving', 'leaking', 'wrong_nozzle', 'misaimed'));

CREATE TABLE wet_check (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id         bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    -- The site's day.
    date            date NOT NULL,
    -- The zones that were walked.
    zones           bigint[] NOT NULL CHECK (cardinality(zones) BETWEEN 1 AND 200),
    -- Whether it was seen to run in rain or frost lately.
    ran_in_rain     boolean NOT NULL,
    ran_in_frost    boolean NOT NULL,
    note            text CHECK (length(note) BETWEEN 1 AND 200),
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    made_at         timestamptz NOT NULL DEFAULT now(),
    -- What a phone may send twice is written once.
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 8 AND 80),
    UNIQUE (site_id, idempotency_key)
);
CREATE INDEX wet_check_site ON wet_check (site_id, date DESC, id DESC);
