-- Tests of the soil, as they were done. What they say of the ground was always so, unless they say from when.
CREATE TABLE soil_test (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    date            date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    holds_from      date CHECK (holds_from BETWEEN '1900-01-01' AND date),
    test            jsonb NOT NULL CHECK (test ->> 'method' IN ('jar', 'lab', 'squeeze', 'ring', 'runoff', 'drops', 'core')),
    pinned          boolean NOT NULL DEFAULT false,
    voided_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 80),
    made_at         timestamptz NOT NULL DEFAULT now(),
    UNIQUE (zone_id, idempotency_key)
);
CREATE TRIGGER soil_test_told AFTER INSERT OR UPDATE ON soil_test FOR EACH ROW EXECUTE FUNCTION zone_measured();

-- What was seen of a zone, or read off a probe; undone: as if it had not been.
CREATE TABLE seen (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    date            date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    after_noon      boolean NOT NULL,
    x_m             double precision,
    y_m             double precision CHECK ((y_m IS NULL) = (x_m IS NULL)),
    seen            jsonb NOT NULL CHECK (seen ? 'seen'),
    undone_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 80),
    made_at         timestamptz NOT NULL DEFAULT now(),
    UNIQUE (zone_id, idempotency_key)
);
CREATE INDEX seen_of_zone ON seen (zone_id, date) WHERE undone_at IS NULL;
-- A balance is made anew from the day of what was seen.
CREATE TRIGGER seen_added AFTER INSERT ON seen REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION run_touched();
CREATE TRIGGER seen_changed AFTER UPDATE ON seen REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION run_touched();

-- A photo of what was seen: drawn anew by the server, so that nothing else of the file is kept.
CREATE TABLE seen_photo (
    seen_id   bigint PRIMARY KEY REFERENCES seen ON DELETE CASCADE,
    jpeg      bytea NOT NULL CHECK (length(jpeg) BETWEEN 1 AND 8388608),
    width_px  integer NOT NULL CHECK (width_px > 0),
    height_px integer NOT NULL CHECK (height_px > 0)
);
ALTER TABLE seen_photo ALTER COLUMN jpeg SET STORAGE EXTERNAL;

-- How far the balance of a day's end may be off, and what readings have taught of it: variance (mm²), drift (share of ETc), its variance, the covariance (mm).
ALTER TABLE zone_day
    ADD COLUMN variance_mm2   double precision,
    ADD COLUMN drift          double precision NOT NULL DEFAULT 0,
    ADD COLUMN drift_variance double precision NOT NULL DEFAULT 0.04,
    ADD COLUMN covariance_mm  double precision NOT NULL DEFAULT 0;
-- Before any reading it is where it starts.
UPDATE zone_day SET variance_mm2 = (0.15 * taw_mm) ^ 2;
ALTER TABLE zone_day ALTER COLUMN variance_mm2 SET NOT NULL;
UPDATE zone SET ledger_from = '1900-01-01';
