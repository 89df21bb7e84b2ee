-- Ledgers derived from the record: weather as the balance uses it, and the balance of each zone, day by day. They are made anew from the earliest
-- day that a change touches, which the tables below note by themselves; null: nothing.
ALTER TABLE site ADD COLUMN weather_from date DEFAULT '1900-01-01';
ALTER TABLE zone ADD COLUMN ledger_from date DEFAULT '1900-01-01';

CREATE TABLE weather_ledger (
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    date       date NOT NULL,
    et0_mm     double precision NOT NULL,
    -- How reference ET was got; null: filled.
    method     text CHECK (method IN ('penman-monteith', 'penman-monteith-estimated', 'hargreaves')),
    rain_mm    double precision NOT NULL,
    tmin_c     double precision,
    tmax_c     double precision,
    rh_min_pct double precision,
    wind_m_s   double precision,
    smoothed_c double precision,
    PRIMARY KEY (site_id, date)
);

CREATE TABLE zone_day (
    zone_id            bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date               date NOT NULL,
    regime             text NOT NULL,
    taw_mm             double precision NOT NULL CHECK (taw_mm > 0),
    raw_mm             double precision NOT NULL,
    start_mm           double precision NOT NULL,
    end_mm             double precision NOT NULL CHECK (end_mm >= 0 AND end_mm <= taw_mm),
    etc_mm             double precision NOT NULL,
    eta_mm             double precision NOT NULL,
    ks                 double precision NOT NULL,
    rain_mm            double precision NOT NULL,
    effective_rain_mm  double precision NOT NULL,
    rain_runoff_mm     double precision NOT NULL,
    gross_mm           double precision NOT NULL,
    net_mm             double precision NOT NULL,
    runoff_mm          double precision NOT NULL,
    drainage_mm        double precision NOT NULL,
    -- Corrections: roots that went deeper or withdrew, soil that holds less; positive dries.
    adjustment_mm      double precision NOT NULL,
    -- Soil below the roots: what it lacks, and in how thick a layer.
    below_mm           double precision NOT NULL,
    below_thickness_mm double precision NOT NULL,
    PRIMARY KEY (zone_id, date)
);

CREATE FUNCTION weather_touched() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    UPDATE site s SET weather_from = t.first
    FROM (SELECT site_id, min(date) AS first FROM touched GROUP BY site_id) t
    WHERE s.id = t.site_id AND (s.weather_from IS NULL OR s.weather_from > t.first);
    RETURN NULL;
END $$;
CREATE TRIGGER weather_day_added AFTER INSERT ON weather_day REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER weather_day_changed AFTER UPDATE ON weather_day REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER weather_day_dropped AFTER DELETE ON weather_day REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER gauge_reading_added AFTER INSERT ON gauge_reading REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER gauge_reading_changed AFTER UPDATE ON gauge_reading REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER rain_choice_added AFTER INSERT ON rain_choice REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER rain_choice_changed AFTER UPDATE ON rain_choice REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();
CREATE TRIGGER rain_choice_dropped AFTER DELETE ON rain_choice REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION weather_touched();

CREATE FUNCTION run_touched() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    UPDATE zone z SET ledger_from = t.first
    FROM (SELECT zone_id, min(date) AS first FROM touched GROUP BY zone_id) t
    WHERE z.id = t.zone_id AND (z.ledger_from IS NULL OR z.ledger_from > t.first);
    RETURN NULL;
END $$;
CREATE TRIGGER run_added AFTER INSERT ON run REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION run_touched();
CREATE TRIGGER run_changed AFTER UPDATE ON run REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION run_touched();

-- Tests and repairs tell figures from a day that may lie before their own.
CREATE FUNCTION zone_measured() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    UPDATE zone SET ledger_from = '1900-01-01' WHERE id = NEW.zone_id;
    RETURN NULL;
END $$;
CREATE TRIGGER sprinkler_test_told AFTER INSERT OR UPDATE ON sprinkler_test FOR EACH ROW EXECUTE FUNCTION zone_measured();
CREATE TRIGGER head_mended AFTER UPDATE OF mended_on ON head_fault FOR EACH ROW EXECUTE FUNCTION zone_measured();

-- A zone whose description changes is made anew from its beginning, unless whoever changes it says from which day.
CREATE FUNCTION zone_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF (NEW.settings IS DISTINCT FROM OLD.settings OR NEW.active_from IS DISTINCT FROM OLD.active_from)
       AND NEW.ledger_from IS NOT DISTINCT FROM OLD.ledger_from THEN
        NEW.ledger_from := '1900-01-01';
    END IF;
    RETURN NEW;
END $$;
CREATE TRIGGER zone_changed BEFORE UPDATE ON zone FOR EACH ROW EXECUTE FUNCTION zone_changed();

-- Another place has other weather, another supply other passes.
CREATE FUNCTION site_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF (NEW.latitude, NEW.longitude, NEW.elevation_m, NEW.wind_height_m, NEW.time_zone, NEW.supply)
       IS DISTINCT FROM (OLD.latitude, OLD.longitude, OLD.elevation_m, OLD.wind_height_m, OLD.time_zone, OLD.supply) THEN
        NEW.weather_from := '1900-01-01';
    END IF;
    RETURN NEW;
END $$;
CREATE TRIGGER site_changed BEFORE UPDATE ON site FOR EACH ROW EXECUTE FUNCTION site_changed();

-- A figure that a person typed is entered, not measured.
UPDATE zone SET settings = settings || (
    SELECT coalesce(jsonb_object_agg(key, jsonb_set(value, '{source}',
               jsonb_build_object('kind', 'entered', 'date', value #> '{source,date}'))), '{}')
    FROM jsonb_each(settings)
    WHERE jsonb_typeof(value) = 'object' AND value #>> '{source,test}' = 'entered by hand');
