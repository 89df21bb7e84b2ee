-- People and their invitations, sign-in limits, history; the weather service; events of a site's day; what really ran.

-- A single-use link; only its token's hash is kept.
CREATE TABLE invitation (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id     bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    role        text NOT NULL CHECK (role IN ('viewer', 'crew', 'manager', 'owner')),
    name        text NOT NULL CHECK (length(trim(name)) BETWEEN 1 AND 120),
    token_hash  bytea NOT NULL UNIQUE CHECK (length(token_hash) = 32),
    invited_by  bigint REFERENCES account ON DELETE SET NULL,
    created_at  timestamptz NOT NULL DEFAULT now(),
    expires_at  timestamptz NOT NULL,
    accepted_by bigint REFERENCES account ON DELETE SET NULL,
    accepted_at timestamptz,
    revoked_at  timestamptz,
    CHECK (accepted_at IS NULL OR revoked_at IS NULL)
);
CREATE INDEX invitation_site ON invitation (site_id, id);

-- Failed sign-ins, to slow down guessing. The address is kept as typed, known or not, in lower case.
CREATE TABLE sign_in_failure (
    email text NOT NULL,
    peer  text NOT NULL,
    at    timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failure_email ON sign_in_failure (email, at);
CREATE INDEX sign_in_failure_peer ON sign_in_failure (peer, at);

-- Who did what on a site. Append-only.
CREATE TABLE history (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    account_id bigint REFERENCES account ON DELETE SET NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    site_now   timestamptz NOT NULL,
    event      jsonb NOT NULL CHECK (event ? 'event')
);
CREATE INDEX history_site ON history (site_id, id DESC);

-- Both stations and files are kept; a person's file counts before the service.
ALTER TABLE weather_day DROP CONSTRAINT weather_day_origin_check;
UPDATE weather_day SET origin = 'service' WHERE origin = 'demo';
ALTER TABLE weather_day ADD CONSTRAINT weather_day_origin_check CHECK (origin IN ('upload', 'service'));
ALTER TABLE weather_day DROP CONSTRAINT weather_day_pkey;
ALTER TABLE weather_day ADD PRIMARY KEY (site_id, date, origin);

-- Whose rain counts on a day, where the manager says so; else the gauge's, where it was read.
CREATE TABLE rain_choice (
    site_id    bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    date       date NOT NULL,
    counts     text NOT NULL CHECK (counts IN ('gauge', 'station')),
    account_id bigint REFERENCES account ON DELETE SET NULL,
    PRIMARY KEY (site_id, date)
);

-- A site's subscription to the weather service. Its address is in the settings, never here.
CREATE TABLE weather_feed (
    site_id         bigint PRIMARY KEY REFERENCES site ON DELETE CASCADE,
    climate         text NOT NULL CHECK (length(climate) BETWEEN 1 AND 40),
    seed            bigint NOT NULL CHECK (seed >= 0),
    -- By the real clock: when to ask next.
    next_fetch_at   timestamptz NOT NULL DEFAULT now(),
    -- By the site's clock.
    last_success_at timestamptz,
    failures        integer NOT NULL DEFAULT 0 CHECK (failures >= 0),
    last_error      text
);
CREATE INDEX weather_feed_due ON weather_feed (next_fetch_at);

-- How a foreign file's columns were read, remembered by its heading.
CREATE TABLE column_mapping (
    site_id bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    heading text NOT NULL,
    mapping jsonb NOT NULL CHECK (jsonb_typeof(mapping) = 'object'),
    PRIMARY KEY (site_id, heading)
);

-- The next 03:00 or end of a window, by the site's own clock. Workers claim due rows; stepping a simulated clock drains them.
ALTER TABLE site ADD COLUMN next_event_at timestamptz NOT NULL DEFAULT now();
CREATE INDEX site_due ON site (next_event_at) WHERE simulated_now IS NULL;

-- One row a site and day: the replan of 03:00 happens once, whoever does it.
CREATE TABLE site_day (
    site_id bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    day     date NOT NULL,
    plan_id bigint REFERENCES plan ON DELETE SET NULL,
    done_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (site_id, day)
);

-- What a plan changes against the one of the morning before.
ALTER TABLE plan ADD COLUMN changes jsonb NOT NULL DEFAULT '[]' CHECK (jsonb_typeof(changes) = 'array');
CREATE INDEX plan_site_made ON plan (site_id, today, id DESC);

-- Opportunities at which a zone was held for rain, once they have passed.
CREATE TABLE rain_hold (
    zone_id bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date    date NOT NULL,
    plan_id bigint REFERENCES plan ON DELETE SET NULL,
    figures jsonb NOT NULL CHECK (jsonb_typeof(figures) = 'object'),
    PRIMARY KEY (zone_id, date)
);

-- Append-only: a person's word voids the assumed run and adds what they said. A denied run stands with no passes.
ALTER TABLE run DROP CONSTRAINT run_source_check;
ALTER TABLE run ADD CONSTRAINT run_source_check CHECK (source IN ('assumed', 'confirmed', 'changed', 'denied', 'hand', 'hose'));
ALTER TABLE run DROP CONSTRAINT run_passes_check;
ALTER TABLE run ADD CONSTRAINT run_passes_check CHECK (passes >= 1 OR (passes = 0 AND source = 'denied'));
ALTER TABLE run DROP CONSTRAINT run_zone_id_started_at_key;
ALTER TABLE run ADD COLUMN account_id bigint REFERENCES account ON DELETE SET NULL;
ALTER TABLE run ADD COLUMN said_at timestamptz NOT NULL DEFAULT now();
ALTER TABLE run ADD COLUMN voided_at timestamptz;
ALTER TABLE run ADD COLUMN replaces bigint REFERENCES run ON DELETE SET NULL;
-- What a phone may send twice is written once.
ALTER TABLE run ADD COLUMN idempotency_key text CHECK (length(idempotency_key) BETWEEN 8 AND 80);
CREATE UNIQUE INDEX run_valid ON run (zone_id, started_at) WHERE voided_at IS NULL;
CREATE UNIQUE INDEX run_once ON run (zone_id, idempotency_key);
