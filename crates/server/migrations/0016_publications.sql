-- A published week: a plan that is in force for its days, whatever newer plans say. The newest of a site counts, unless it was withdrawn.
CREATE TABLE publication (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id         bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    plan_id         bigint NOT NULL REFERENCES plan ON DELETE CASCADE,
    by_rule         boolean NOT NULL DEFAULT false,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    -- By the site's clock.
    published_at    timestamptz NOT NULL,
    -- It is in force in windows that end after this.
    in_force_from   timestamptz NOT NULL CHECK (in_force_from >= published_at),
    last_day        date NOT NULL,
    -- What people did up to then was known when it was published.
    history_id      bigint NOT NULL,
    withdrawn_at    timestamptz,
    idempotency_key text CHECK (length(idempotency_key) BETWEEN 1 AND 80),
    UNIQUE (site_id, idempotency_key),
    CHECK (NOT by_rule OR account_id IS NULL)
);
CREATE INDEX publication_of_site ON publication (site_id, id DESC);
CREATE INDEX publication_of_plan ON publication (plan_id);

ALTER TABLE site ADD COLUMN publishes_each_morning boolean NOT NULL DEFAULT false;

-- What a plan changes of the week that was published when it was made.
ALTER TABLE plan ADD COLUMN since_published text;
