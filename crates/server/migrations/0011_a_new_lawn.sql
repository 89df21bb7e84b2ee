-- What the months of a place are like on the mean: an array of twelve; null: not known. Days of which nobody told are filled by them.
ALTER TABLE site ADD COLUMN normals jsonb CHECK (jsonb_typeof(normals) = 'array');
CREATE OR REPLACE FUNCTION site_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF (NEW.latitude, NEW.longitude, NEW.elevation_m, NEW.wind_height_m, NEW.time_zone, NEW.controller, NEW.normals)
       IS DISTINCT FROM (OLD.latitude, OLD.longitude, OLD.elevation_m, OLD.wind_height_m, OLD.time_zone, OLD.controller, OLD.normals) THEN
        NEW.weather_from := '1900-01-01';
    END IF;
    RETURN NEW;
END $$;
DROP TRIGGER site_changed ON site;
CREATE TRIGGER site_changed BEFORE UPDATE OF latitude, longitude, elevation_m, wind_height_m, time_zone, controller, normals ON site
    FOR EACH ROW EXECUTE FUNCTION site_changed();

-- Rain that the normals expect, where nobody told of it, is no rain of the record.
ALTER TABLE weather_ledger ADD COLUMN rain_expected boolean NOT NULL DEFAULT false;

-- Days come by hand, from a file, from a station that sends them, from a service that is asked; the first that knows a figure counts.
ALTER TABLE weather_day DROP CONSTRAINT weather_day_origin_check;
ALTER TABLE weather_day ADD CONSTRAINT weather_day_origin_check CHECK (origin IN ('typed', 'upload', 'pushed', 'service'));
CREATE FUNCTION weather_rank(origin text) RETURNS integer LANGUAGE sql IMMUTABLE PARALLEL SAFE
    RETURN array_position(ARRAY['typed', 'upload', 'pushed', 'service'], origin);

-- Devices that send a site's weather. The token is shown once; its hash is kept.
CREATE TABLE device_token (
    id           bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id      bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    name         text NOT NULL CHECK (name <> ''),
    token_hash   bytea NOT NULL UNIQUE,
    made_by      bigint REFERENCES account ON DELETE SET NULL,
    made_at      timestamptz NOT NULL DEFAULT now(),
    last_used_at timestamptz,
    revoked_at   timestamptz
);
CREATE INDEX device_token_of_site ON device_token (site_id, id);

-- The code for the first account, while there is none: one row at most.
CREATE TABLE first_account_code (
    only_one  boolean PRIMARY KEY DEFAULT true CHECK (only_one),
    code_hash bytea NOT NULL,
    made_at   timestamptz NOT NULL DEFAULT now()
);
