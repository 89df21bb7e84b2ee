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

-- What a plan expects of the weather is part of its programme: a later one tells what has changed.
CREATE TABLE planned_day (
    plan_id bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    date    date NOT NULL,
    et0_mm  double precision NOT NULL,
    -- Mean amount, with its probability.
    rain_mm double precision NOT NULL,
    PRIMARY KEY (plan_id, date)
);
INSERT INTO planned_day
SELECT p.id, (d ->> 'date')::date, (d ->> 'et0_mm')::float8,
       coalesce((d ->> 'forecast_rain_mm')::float8, 0) * coalesce((d ->> 'rain_probability_pct')::float8, 0) / 100
FROM plan p, jsonb_array_elements(p.result -> 'days') d
WHERE (d ->> 'date')::date >= p.today AND EXISTS (SELECT FROM planned_use u WHERE u.plan_id = p.id);
