-- Accounts, sessions, sites, zones, weather, plans, runs. Units stand in the column names.

CREATE TABLE account (
    id            bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    email         text NOT NULL CHECK (email = lower(email) AND position('@' IN email) > 1 AND length(email) <= 254),
    name          text NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 120),
    password_hash text NOT NULL,
    is_demo       boolean NOT NULL DEFAULT false,
    created_at    timestamptz NOT NULL DEFAULT now(),
    UNIQUE (email)
);

-- Only the hash of a session's id is kept: a leaked table opens nothing.
CREATE TABLE session (
    id_hash    bytea PRIMARY KEY CHECK (length(id_hash) = 32),
    account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL
);
CREATE INDEX session_account ON session (account_id);

CREATE TABLE site (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name            text NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 120),
    time_zone       text NOT NULL,
    latitude        double precision NOT NULL CHECK (latitude BETWEEN -90 AND 90),
    longitude       double precision NOT NULL CHECK (longitude BETWEEN -180 AND 180),
    elevation_m     double precision NOT NULL CHECK (elevation_m BETWEEN -430 AND 6000),
    wind_height_m   double precision NOT NULL CHECK (wind_height_m BETWEEN 0.5 AND 100),
    currency        text CHECK (currency ~ '^[A-Z]{3}$'),
    price_per_m3    double precision CHECK (price_per_m3 BETWEEN 0 AND 1000),
    windows         jsonb NOT NULL CHECK (jsonb_typeof(windows) = 'array'),
    supply          jsonb NOT NULL CHECK (jsonb_typeof(supply) = 'object'),
    -- NULL: the site's clock is the real one.
    simulated_now   timestamptz,
    version         bigint NOT NULL DEFAULT 1,
    weather_version bigint NOT NULL DEFAULT 1,
    created_at      timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE membership (
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
    role       text NOT NULL CHECK (role IN ('viewer', 'crew', 'manager', 'owner')),
    PRIMARY KEY (site_id, account_id)
);
CREATE INDEX membership_account ON membership (account_id);

-- The zone's description as in the site document (docs/formats/site.md), less its id and its first and last day.
CREATE TABLE zone (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    position    integer NOT NULL,
    settings    jsonb NOT NULL CHECK (
        length(trim(settings->>'name')) BETWEEN 1 AND 120
        AND (settings->>'area_m2')::double precision BETWEEN 0.5 AND 1000000
        AND (settings->>'slope_pct')::double precision BETWEEN 0 AND 100
        AND settings ? 'grass' AND settings ? 'soil' AND settings ? 'sprinkler'),
    active_from date,
    active_to   date,
    version     bigint NOT NULL DEFAULT 1,
    CHECK (active_to >= active_from)
);
CREATE INDEX zone_site ON zone (site_id, position);

CREATE TABLE weather_import (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    account_id bigint REFERENCES account ON DELETE SET NULL,
    days       integer NOT NULL CHECK (days >= 0),
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE weather_day (
    site_id             bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    date                date NOT NULL,
    tmin_c              double precision CHECK (tmin_c BETWEEN -90 AND 60),
    tmax_c              double precision CHECK (tmax_c BETWEEN -90 AND 60),
    rh_min_pct          double precision CHECK (rh_min_pct BETWEEN 0 AND 100),
    rh_max_pct          double precision CHECK (rh_max_pct BETWEEN 0 AND 100),
    dewpoint_c          double precision CHECK (dewpoint_c BETWEEN -90 AND 50),
    vapour_pressure_kpa double precision CHECK (vapour_pressure_kpa BETWEEN 0 AND 12),
    solar_mj_m2         double precision CHECK (solar_mj_m2 BETWEEN 0 AND 50),
    sunshine_h          double precision CHECK (sunshine_h BETWEEN 0 AND 24),
    wind_m_s            double precision CHECK (wind_m_s BETWEEN 0 AND 60),
    rain_mm             double precision CHECK (rain_mm BETWEEN 0 AND 2000),
    origin              text NOT NULL CHECK (origin IN ('upload', 'demo')),
    import_id           bigint REFERENCES weather_import ON DELETE SET NULL,
    PRIMARY KEY (site_id, date),
    CHECK (tmin_c <= tmax_c),
    CHECK (rh_min_pct <= rh_max_pct)
);

-- Forecasts are kept as issued and never become observations by themselves.
CREATE TABLE forecast_day (
    site_id              bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    issued_at            timestamptz NOT NULL,
    date                 date NOT NULL,
    tmin_c               double precision,
    tmax_c               double precision,
    rh_min_pct           double precision,
    rh_max_pct           double precision,
    dewpoint_c           double precision,
    vapour_pressure_kpa  double precision,
    solar_mj_m2          double precision,
    sunshine_h           double precision,
    wind_m_s             double precision,
    rain_mm              double precision CHECK (rain_mm BETWEEN 0 AND 2000),
    rain_probability_pct double precision CHECK (rain_probability_pct BETWEEN 0 AND 100),
    PRIMARY KEY (site_id, issued_at, date)
);

-- Append-only: a correction voids and adds.
CREATE TABLE gauge_reading (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    account_id bigint REFERENCES account ON DELETE SET NULL,
    date       date NOT NULL,
    rain_mm    double precision NOT NULL CHECK (rain_mm BETWEEN 0 AND 2000),
    read_at    timestamptz NOT NULL,
    voided_at  timestamptz
);
CREATE UNIQUE INDEX gauge_reading_valid ON gauge_reading (site_id, date) WHERE voided_at IS NULL;

-- Append-only: an immutable result with the versions of its inputs.
CREATE TABLE plan (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    made_at timestamptz NOT NULL,
    today   date NOT NULL,
    inputs  jsonb NOT NULL,
    result  jsonb NOT NULL
);
CREATE INDEX plan_site ON plan (site_id, id DESC);

CREATE TABLE run (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id    bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date       date NOT NULL,
    started_at timestamptz NOT NULL,
    passes     integer NOT NULL CHECK (passes >= 1),
    pass_s     integer NOT NULL CHECK (pass_s >= 1),
    source     text NOT NULL CHECK (source IN ('assumed')),
    plan_id    bigint REFERENCES plan ON DELETE SET NULL,
    UNIQUE (zone_id, started_at)
);
CREATE INDEX run_zone_date ON run (zone_id, date);
