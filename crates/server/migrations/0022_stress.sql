-- Regimes of zones as people changed them, with the reason. From when each holds is kept with the zone's facts.
CREATE TABLE regime_change (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id    bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    regime     text NOT NULL CHECK (regime IN ('established', 'dormant', 'recovering')),
    -- Its first day.
    from_day   date NOT NULL CHECK (from_day BETWEEN '1900-01-01' AND '2199-12-31'),
    -- The proposal that was taken, with its figures; none: a person chose it.
    proposal   jsonb,
    note       text CHECK (length(note) BETWEEN 1 AND 200),
    account_id bigint REFERENCES account ON DELETE SET NULL,
    -- The site's instant.
    said_at    timestamptz NOT NULL
);
CREATE INDEX regime_change_zone ON regime_change (zone_id, id DESC);
