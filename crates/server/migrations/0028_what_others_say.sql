-- Names hold no marks that nobody sees and that make them look like others: those of direction, of no width, tags; joiners stay where scripts want them.
CREATE FUNCTION without_hidden_marks(name text) RETURNS text IMMUTABLE LANGUAGE sql AS $$
    SELECT regexp_replace(regexp_replace(name,
        U&'[\00AD\061C\180E\200B\200E\200F\202A-\202E\2060-\206F\FEFF\FFF9-\FFFB\+0E0000-\+0E007F]', '', 'g'),
        U&'(^|(?<=[\0001-\007F]))[\200C\200D]+|[\200C\200D]+($|(?=[\0001-\007F]))', '', 'g')
$$;
UPDATE site SET name = without_hidden_marks(name) WHERE name <> without_hidden_marks(name);
UPDATE site SET rules = without_hidden_marks(rules::text)::jsonb WHERE rules::text <> without_hidden_marks(rules::text);
UPDATE site SET caps = without_hidden_marks(caps::text)::jsonb WHERE caps::text <> without_hidden_marks(caps::text);
UPDATE zone SET settings = without_hidden_marks(settings::text)::jsonb WHERE settings::text <> without_hidden_marks(settings::text);
UPDATE meter SET settings = without_hidden_marks(settings::text)::jsonb WHERE settings::text <> without_hidden_marks(settings::text);
UPDATE patch SET name = without_hidden_marks(name) WHERE name <> without_hidden_marks(name);
UPDATE account SET name = without_hidden_marks(name) WHERE name <> without_hidden_marks(name);
UPDATE device_token SET name = without_hidden_marks(name) WHERE name <> without_hidden_marks(name);
UPDATE invitation SET name = without_hidden_marks(name) WHERE name <> without_hidden_marks(name);
DROP FUNCTION without_hidden_marks;

-- A name that stands for no time zone was taken as one, and meant this.
UPDATE site SET time_zone = 'UTC' WHERE lower(time_zone) = 'etc/unknown';

-- A controller's log may say which log it is: another one counts from 1 again. What was told of each is kept apart.
ALTER TABLE controller_link ADD COLUMN log_id text CHECK (log_id <> '' AND length(log_id) <= 80);
ALTER TABLE controller_link ADD COLUMN log_no integer NOT NULL DEFAULT 1 CHECK (log_no >= 1);
ALTER TABLE controller_report ADD COLUMN log_no integer NOT NULL DEFAULT 1 CHECK (log_no >= 1);
ALTER TABLE controller_report DROP CONSTRAINT controller_report_pkey;
ALTER TABLE controller_report ADD PRIMARY KEY (site_id, log_no, number);

-- Lines that a controller told and that cannot be so: left out, and said.
CREATE TABLE controller_refusal (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    site_id bigint NOT NULL REFERENCES site ON DELETE CASCADE,
    log_no  integer NOT NULL,
    -- NULL: the line's number is what cannot be so.
    number  bigint,
    why     jsonb NOT NULL,
    at      timestamptz NOT NULL DEFAULT now(),
    UNIQUE NULLS NOT DISTINCT (site_id, log_no, number, why)
);

-- A token lasts as long as who made it manages the site.
WITH ended AS (
    UPDATE device_token d SET revoked_at = now()
    WHERE revoked_at IS NULL AND made_by IS NOT NULL
    AND NOT EXISTS (SELECT FROM membership m WHERE m.site_id = d.site_id AND m.account_id = d.made_by AND m.role IN ('manager', 'owner'))
    RETURNING site_id, made_by, name)
INSERT INTO history (site_id, site_now, event)
SELECT s.id, coalesce(s.simulated_now, now()), jsonb_build_object('event', 'devices_ended', 'maker', a.name, 'devices', jsonb_agg(e.name ORDER BY e.name))
FROM ended e JOIN site s ON s.id = e.site_id JOIN account a ON a.id = e.made_by GROUP BY s.id, a.id;
