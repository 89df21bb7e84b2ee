-- What a plan runs and where it holds for rain is data, in rows. Its JSON is for display alone and carries the version of its form.
ALTER TABLE plan ADD COLUMN version integer NOT NULL DEFAULT 1 CHECK (version >= 1);
ALTER TABLE plan ALTER COLUMN version DROP DEFAULT;
-- Of the text of result and changes: an equal plan is not stored again.
ALTER TABLE plan ADD COLUMN digest bytea CHECK (length(digest) = 32);
-- Whether it was the newest at an event of the site's day; the others are thinned out.
ALTER TABLE plan ADD COLUMN in_force boolean NOT NULL DEFAULT false;
UPDATE plan p SET in_force = NOT EXISTS (SELECT FROM plan later WHERE later.site_id = p.site_id AND later.today = p.today AND later.id > p.id);

CREATE TABLE planned_window (
    plan_id   bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    opens_at  timestamptz NOT NULL,
    closes_at timestamptz NOT NULL CHECK (closes_at > opens_at),
    PRIMARY KEY (plan_id, opens_at)
);

CREATE TABLE planned_run (
    plan_id   bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    zone_id   bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date      date NOT NULL,
    opens_at  timestamptz NOT NULL,
    closes_at timestamptz NOT NULL CHECK (closes_at > opens_at),
    passes    integer NOT NULL CHECK (passes >= 1),
    pass_s    integer NOT NULL CHECK (pass_s >= 1),
    -- Of each pass; none where a person waters at any hour of the window.
    starts    timestamptz[] NOT NULL CHECK (cardinality(starts) IN (0, passes)),
    PRIMARY KEY (plan_id, zone_id, opens_at)
);

CREATE TABLE planned_hold (
    plan_id         bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date            date NOT NULL,
    closes_at       timestamptz NOT NULL,
    probability_pct double precision NOT NULL,
    expected_mm     double precision NOT NULL,
    saves_mm        double precision NOT NULL,
    stress_mm       double precision NOT NULL,
    PRIMARY KEY (plan_id, zone_id, closes_at)
);

CREATE TABLE planned_use (
    plan_id bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    zone_id bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date    date NOT NULL,
    eta_mm  double precision NOT NULL,
    PRIMARY KEY (plan_id, zone_id, date)
);

-- The programme of each site's newest plan, from its JSON.
CREATE TEMPORARY TABLE newest AS
    SELECT DISTINCT ON (site_id) id, site_id, result FROM plan ORDER BY site_id, id DESC;
CREATE TEMPORARY TABLE newest_window AS
    SELECT n.id AS plan_id, (d ->> 'date')::date AS date, (w ->> 'opens')::timestamptz AS opens_at, (w ->> 'closes')::timestamptz AS closes_at
    FROM newest n, jsonb_array_elements(n.result -> 'days') d, jsonb_array_elements(d -> 'windows') w;
CREATE TEMPORARY TABLE newest_cell AS
    SELECT n.id AS plan_id, zone.id AS zone_id, (c ->> 'date')::date AS date, c -> 'run' AS run, c -> 'reasons' AS reasons,
           (c ->> 'eta_mm')::float8 AS eta_mm, (n.result ->> 'today')::date AS today,
           ARRAY(SELECT s::timestamptz FROM jsonb_array_elements_text(c -> 'run' -> 'starts') s ORDER BY 1) AS starts
    FROM newest n, jsonb_array_elements(n.result -> 'zones') z, jsonb_array_elements(z -> 'cells') c, zone
    WHERE zone.site_id = n.site_id AND zone.id::text = z ->> 'zone';
INSERT INTO planned_window (plan_id, opens_at, closes_at)
    SELECT plan_id, opens_at, max(closes_at) FROM newest_window WHERE closes_at > opens_at GROUP BY plan_id, opens_at;
INSERT INTO planned_run (plan_id, zone_id, date, opens_at, closes_at, passes, pass_s, starts)
    SELECT c.plan_id, c.zone_id, c.date, min(w.opens_at), max(w.closes_at), (c.run ->> 'passes')::int, (c.run ->> 'pass_s')::int, c.starts
    FROM newest_cell c JOIN newest_window w ON w.plan_id = c.plan_id AND w.date = c.date
    WHERE jsonb_typeof(c.run) = 'object' AND (cardinality(c.starts) = 0 OR (w.opens_at <= c.starts[1] AND c.starts[1] < w.closes_at))
    GROUP BY c.plan_id, c.zone_id, c.date, c.run, c.starts
    HAVING cardinality(c.starts) IN (0, (c.run ->> 'passes')::int);
INSERT INTO planned_hold (plan_id, zone_id, date, closes_at, probability_pct, expected_mm, saves_mm, stress_mm)
    SELECT c.plan_id, c.zone_id, c.date, max(w.closes_at), (r ->> 'probability_pct')::float8, (r ->> 'expected_mm')::float8,
           (r ->> 'saves_mm')::float8, (r ->> 'stress_mm')::float8
    FROM newest_cell c JOIN newest_window w ON w.plan_id = c.plan_id AND w.date = c.date, jsonb_array_elements(c.reasons) r
    WHERE r ->> 'reason' = 'held_for_rain'
    GROUP BY c.plan_id, c.zone_id, c.date, r;

INSERT INTO planned_use (plan_id, zone_id, date, eta_mm)
    SELECT plan_id, zone_id, date, eta_mm FROM newest_cell WHERE date >= today AND eta_mm IS NOT NULL;

DROP TABLE newest_cell;
DROP TABLE newest_window;
DROP TABLE newest;

-- What a hold expected, in columns.
ALTER TABLE rain_hold ADD COLUMN probability_pct double precision;
ALTER TABLE rain_hold ADD COLUMN expected_mm double precision;
ALTER TABLE rain_hold ADD COLUMN saves_mm double precision;
ALTER TABLE rain_hold ADD COLUMN stress_mm double precision;
UPDATE rain_hold SET probability_pct = coalesce((figures ->> 'probability_pct')::float8, 0),
    expected_mm = coalesce((figures ->> 'expected_mm')::float8, 0), saves_mm = coalesce((figures ->> 'saves_mm')::float8, 0),
    stress_mm = coalesce((figures ->> 'stress_mm')::float8, 0);
ALTER TABLE rain_hold ALTER COLUMN probability_pct SET NOT NULL;
ALTER TABLE rain_hold ALTER COLUMN expected_mm SET NOT NULL;
ALTER TABLE rain_hold ALTER COLUMN saves_mm SET NOT NULL;
ALTER TABLE rain_hold ALTER COLUMN stress_mm SET NOT NULL;
ALTER TABLE rain_hold DROP COLUMN figures;
