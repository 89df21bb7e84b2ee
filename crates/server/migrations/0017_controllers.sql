-- A site's controller, which is told what is published and tells what ran.
CREATE TABLE controller_link (
    site_id     bigint PRIMARY KEY REFERENCES site ON DELETE CASCADE,
    -- By the site's clock: it is asked about what begins from then on.
    since       timestamptz NOT NULL,
    -- The publication that it said it holds.
    holds       bigint,
    -- By the site's clock: all that happened until then is told.
    heard_at    timestamptz,
    -- The last line of its log that is known.
    last_number bigint NOT NULL DEFAULT 0 CHECK (last_number >= 0),
    failures    integer NOT NULL DEFAULT 0 CHECK (failures >= 0),
    last_error  text,
    -- By the real clock.
    next_ask_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX controller_link_due ON controller_link (next_ask_at);

-- What a controller has told of the passes of published weeks, by its own numbers: told twice, kept once.
CREATE TABLE controller_report (
    site_id        bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    number         bigint NOT NULL CHECK (number > 0),
    at             timestamptz NOT NULL,
    kind           text NOT NULL CHECK (kind IN ('started', 'pulses', 'stopped', 'missed', 'fault')),
    zone_id        bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    publication_id bigint NOT NULL,
    -- When the pass was to begin.
    starts         timestamptz NOT NULL,
    seconds        integer CHECK (seconds >= 0),
    litres         double precision CHECK (litres >= 0),
    fault          text CHECK (fault IN ('no_flow', 'high_flow')),
    PRIMARY KEY (site_id, number)
);
CREATE INDEX report_of_pass ON controller_report (zone_id, starts);

ALTER TABLE run DROP CONSTRAINT run_source_check;
ALTER TABLE run ADD CONSTRAINT run_source_check CHECK (source IN ('assumed', 'confirmed', 'changed', 'denied', 'hand', 'hose', 'controller'));
ALTER TABLE run DROP CONSTRAINT run_passes_check;
ALTER TABLE run ADD CONSTRAINT run_passes_check CHECK (passes >= 1 OR (passes = 0 AND source IN ('denied', 'controller')));
