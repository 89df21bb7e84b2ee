-- The water book: what water costs, meters and what is read off them.

-- What budgets of water offices ask: a home, or another landscape.
ALTER TABLE site ADD COLUMN used_as text NOT NULL DEFAULT 'home' CHECK (used_as IN ('home', 'other'));
-- What water costs from which day on, as in the site document.
ALTER TABLE site ADD COLUMN tariffs jsonb NOT NULL DEFAULT '[]' CHECK (jsonb_typeof(tariffs) = 'array');

-- A meter as in the site document, less its first and last day. One that is taken out is ended, never dropped with its readings.
CREATE TABLE meter (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    settings    jsonb NOT NULL CHECK (length(trim(settings->>'name')) BETWEEN 1 AND 120 AND settings ? 'unit' AND settings ? 'digits'),
    active_from date,
    active_to   date,
    version     bigint NOT NULL DEFAULT 1,
    CHECK (active_to >= active_from)
);
CREATE INDEX meter_site ON meter (site_id, id);

-- Append-only: a correction voids and adds. The count is the meter's own.
CREATE TABLE meter_reading (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    meter_id        bigint NOT NULL REFERENCES meter ON DELETE CASCADE,
    read_at         timestamptz NOT NULL,
    register        double precision NOT NULL CHECK (register >= 0),
    follows         text NOT NULL CHECK (follows IN ('on', 'rolled_over', 'new_meter')),
    -- Of a new meter: the last figure of the old one, where somebody read it, and the first of the new.
    old_register    double precision CHECK (old_register >= 0),
    began_with      double precision CHECK (began_with >= 0),
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    said_at         timestamptz NOT NULL DEFAULT now(),
    voided_at       timestamptz,
    replaces        bigint REFERENCES meter_reading ON DELETE SET NULL,
    -- What a phone may send twice is written once.
    idempotency_key text CHECK (length(idempotency_key) BETWEEN 8 AND 80),
    CHECK ((follows = 'new_meter') = (began_with IS NOT NULL)),
    CHECK (old_register IS NULL OR follows = 'new_meter')
);
CREATE UNIQUE INDEX meter_reading_valid ON meter_reading (meter_id, read_at) WHERE voided_at IS NULL;
CREATE UNIQUE INDEX meter_reading_once ON meter_reading (meter_id, idempotency_key);

CREATE TABLE meter_photo (
    reading_id bigint PRIMARY KEY REFERENCES meter_reading ON DELETE CASCADE,
    jpeg       bytea NOT NULL,
    width_px   integer NOT NULL CHECK (width_px > 0),
    height_px  integer NOT NULL CHECK (height_px > 0)
);
