-- The controller apart from the supply; where nothing is said, one that runs whole minutes.
ALTER TABLE site ADD COLUMN controller jsonb NOT NULL DEFAULT '{}' CHECK (jsonb_typeof(controller) = 'object');
ALTER TABLE site DISABLE TRIGGER site_changed;
UPDATE site SET controller = supply - 'flow_l_min',
                supply = CASE WHEN supply ? 'flow_l_min' THEN jsonb_build_object('flow_l_min', supply -> 'flow_l_min') ELSE '{}' END;
ALTER TABLE site ENABLE TRIGGER site_changed;

-- Another place has other weather, another controller other passes; the flow changes no balance.
CREATE OR REPLACE FUNCTION site_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF (NEW.latitude, NEW.longitude, NEW.elevation_m, NEW.wind_height_m, NEW.time_zone, NEW.controller)
       IS DISTINCT FROM (OLD.latitude, OLD.longitude, OLD.elevation_m, OLD.wind_height_m, OLD.time_zone, OLD.controller) THEN
        NEW.weather_from := '1900-01-01';
    END IF;
    RETURN NEW;
END $$;

-- A test that came with a site document counts from the day that the document says; null: from its own, or the repair before it.
ALTER TABLE sprinkler_test ADD COLUMN counts_from date CHECK (counts_from <= date);

-- Triggers look at what is written alone: a site's next event and a zone's ledger are written each day.
DROP TRIGGER site_changed ON site;
CREATE TRIGGER site_changed BEFORE UPDATE OF latitude, longitude, elevation_m, wind_height_m, time_zone, controller ON site
    FOR EACH ROW EXECUTE FUNCTION site_changed();
DROP TRIGGER zone_changed ON zone;
CREATE TRIGGER zone_changed BEFORE UPDATE OF settings, active_from ON zone FOR EACH ROW EXECUTE FUNCTION zone_changed();

-- A programme has its allowed hours, and what the plan expects of the weather, with the plan itself: day by day from its own on; what each zone is
-- expected to use is a row a zone.
ALTER TABLE plan
    ADD COLUMN opens_at  timestamptz[] NOT NULL DEFAULT '{}',
    ADD COLUMN closes_at timestamptz[] NOT NULL DEFAULT '{}' CHECK (cardinality(closes_at) = cardinality(opens_at)),
    ADD COLUMN et0_mm    double precision[] NOT NULL DEFAULT '{}',
    -- Mean amount, with its probability.
    ADD COLUMN rain_mm   double precision[] NOT NULL DEFAULT '{}' CHECK (cardinality(rain_mm) = cardinality(et0_mm));
UPDATE plan SET opens_at = w.opens_at, closes_at = w.closes_at
FROM (SELECT plan_id, array_agg(opens_at ORDER BY opens_at) AS opens_at, array_agg(closes_at ORDER BY opens_at) AS closes_at
      FROM planned_window GROUP BY 1) w WHERE w.plan_id = plan.id;
DROP TABLE planned_window;
UPDATE plan SET et0_mm = d.et0_mm, rain_mm = d.rain_mm
FROM (SELECT p.id, array_agg((d ->> 'et0_mm')::float8 ORDER BY d ->> 'date') AS et0_mm,
             array_agg(coalesce((d ->> 'forecast_rain_mm')::float8, 0) * coalesce((d ->> 'rain_probability_pct')::float8, 0) / 100
                       ORDER BY d ->> 'date') AS rain_mm
      FROM plan p, jsonb_array_elements(p.result -> 'days') d
      WHERE (d ->> 'date')::date >= p.today AND EXISTS (SELECT FROM planned_use u WHERE u.plan_id = p.id) GROUP BY 1) d
WHERE d.id = plan.id;
ALTER TABLE planned_use RENAME TO planned_use_by_day;
ALTER TABLE planned_use_by_day RENAME CONSTRAINT planned_use_pkey TO planned_use_by_day_pkey;
CREATE TABLE planned_use (
    plan_id bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    zone_id bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    eta_mm  double precision[] NOT NULL,
    PRIMARY KEY (plan_id, zone_id)
);
INSERT INTO planned_use
SELECT u.plan_id, u.zone_id, array_agg(u.eta_mm ORDER BY u.date)
FROM planned_use_by_day u JOIN plan p ON p.id = u.plan_id WHERE u.date >= p.today GROUP BY 1, 2;
DROP TABLE planned_use_by_day;

-- A plan's JSON is text to be shown, as it was written; nothing looks into it.
ALTER TABLE plan DROP CONSTRAINT plan_changes_check, ALTER COLUMN changes DROP DEFAULT;
ALTER TABLE plan ALTER COLUMN result TYPE text, ALTER COLUMN changes TYPE text;
ALTER TABLE plan ALTER COLUMN result SET COMPRESSION lz4;
UPDATE plan SET digest = NULL;

-- All that a plan runs and expects.
CREATE VIEW programme AS
SELECT p.id, p.site_id, p.version, p.today, to_json(p.opens_at) AS opens, to_json(p.closes_at) AS closes, p.et0_mm, p.rain_mm,
       (SELECT coalesce(json_agg(r ORDER BY r.zone_id, r.opens_at), '[]') FROM planned_run r WHERE r.plan_id = p.id) AS runs,
       (SELECT coalesce(json_agg(h ORDER BY h.zone_id, h.closes_at), '[]') FROM planned_hold h WHERE h.plan_id = p.id) AS holds,
       (SELECT coalesce(json_agg(u ORDER BY u.zone_id), '[]') FROM planned_use u WHERE u.plan_id = p.id) AS uses
FROM plan p;

-- Rain of the ledger of weather, by month of the year: what a plan knows of the climate.
CREATE TABLE weather_month (
    site_id bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    month   smallint NOT NULL CHECK (month BETWEEN 1 AND 12),
    days    integer NOT NULL,
    wet     integer NOT NULL,
    rain_mm double precision NOT NULL,
    PRIMARY KEY (site_id, month)
);
INSERT INTO weather_month
SELECT site_id, extract(month FROM date), count(*), count(*) FILTER (WHERE rain_mm >= 1), sum(rain_mm)
FROM weather_ledger WHERE method IS NOT NULL OR rain_mm > 0 GROUP BY 1, 2;
