-- Peers from which an account has signed in before: they may try on while strangers who guess must wait.
CREATE TABLE known_peer (
    account_id bigint NOT NULL REFERENCES account ON DELETE CASCADE,
    peer       text NOT NULL CHECK (length(peer) BETWEEN 1 AND 64),
    last_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (account_id, peer)
);
CREATE INDEX known_peer_last ON known_peer (last_at);
CREATE INDEX sign_in_failure_at ON sign_in_failure (at);

-- Lower case is made by the program alone: PostgreSQL's and ours differ for some letters.
ALTER TABLE account DROP CONSTRAINT account_email_check;
ALTER TABLE account ADD CONSTRAINT account_email_check CHECK (position('@' IN email) > 1 AND length(email) <= 254);

-- The address for which a link's holder asked for a new account: one a link. They join once they have signed in.
ALTER TABLE invitation ADD COLUMN claimed_by text CHECK (length(claimed_by) <= 254);

-- Headings are remembered by their hash: an index takes no row of 40 kB.
UPDATE column_mapping SET heading = encode(sha256(convert_to(heading, 'UTF8')), 'hex');
ALTER TABLE column_mapping ADD CONSTRAINT column_mapping_heading_check CHECK (length(heading) = 64);

-- Why a site's round failed last, in words for its manager, and since when; gone with the next that works.
ALTER TABLE site ADD COLUMN trouble text CHECK (length(trouble) BETWEEN 1 AND 300);
ALTER TABLE site ADD COLUMN trouble_since timestamptz;
ALTER TABLE site ADD CONSTRAINT site_trouble_since_check CHECK ((trouble IS NULL) = (trouble_since IS NULL));

-- Days that no record may name: never read before, or walked to for ever.
DELETE FROM weather_day WHERE date NOT BETWEEN '1900-01-01' AND '2199-12-31';
DELETE FROM forecast_day WHERE date NOT BETWEEN '1900-01-01' AND (issued_at AT TIME ZONE 'UTC')::date + 15;
DELETE FROM gauge_reading WHERE date NOT BETWEEN '1900-01-01' AND '2199-12-31';
DELETE FROM rain_choice WHERE date NOT BETWEEN '1900-01-01' AND '2199-12-31';
ALTER TABLE weather_day ADD CONSTRAINT weather_day_date_check CHECK (date BETWEEN '1900-01-01' AND '2199-12-31');
ALTER TABLE forecast_day ADD CONSTRAINT forecast_day_date_check CHECK (date BETWEEN '1900-01-01' AND '2199-12-31');
ALTER TABLE gauge_reading ADD CONSTRAINT gauge_reading_date_check CHECK (date BETWEEN '1900-01-01' AND '2199-12-31');
ALTER TABLE rain_choice ADD CONSTRAINT rain_choice_date_check CHECK (date BETWEEN '1900-01-01' AND '2199-12-31');
