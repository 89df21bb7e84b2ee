-- A run keeps its whole time, to the second, and what the plan asked for, so that an answer can be taken back.
ALTER TABLE run ADD COLUMN run_s integer;
UPDATE run SET run_s = passes * pass_s;
ALTER TABLE run ALTER COLUMN run_s SET NOT NULL;
ALTER TABLE run DROP COLUMN pass_s;
ALTER TABLE run ADD CONSTRAINT run_time_check CHECK (run_s >= passes AND (passes > 0 OR run_s = 0));
ALTER TABLE run ADD COLUMN planned_passes integer CHECK (planned_passes >= 1);
ALTER TABLE run ADD COLUMN planned_s integer CHECK (planned_s >= planned_passes);
ALTER TABLE run ADD COLUMN planned_end timestamptz;
ALTER TABLE run ADD CONSTRAINT run_planned_check CHECK ((planned_passes IS NULL) = (planned_s IS NULL) AND (planned_passes IS NULL) = (planned_end IS NULL));
-- What was planned, from the run that each chain of answers began with.
WITH RECURSIVE chain (id, passes, run_s, started_at) AS (
    SELECT id, passes, run_s, started_at FROM run WHERE source = 'assumed'
    UNION ALL
    SELECT r.id, c.passes, c.run_s, c.started_at FROM run r JOIN chain c ON r.replaces = c.id
)
UPDATE run SET planned_passes = c.passes, planned_s = c.run_s, planned_end = c.started_at + make_interval(secs => c.run_s)
FROM chain c WHERE c.id = run.id AND c.passes > 0;
-- What a run watered, and by what; absent: the zone's own sprinklers, all of it. Of hoses before, nobody said.
ALTER TABLE run ADD COLUMN watered jsonb CHECK (watered ->> 'by' IN ('own', 'hose', 'unmeasured'));
UPDATE run SET watered = '{"by": "unmeasured"}' WHERE source = 'hose';

-- Days on which a zone must stay dry because a person says so.
CREATE TABLE dry_day (
    zone_id    bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    date       date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    account_id bigint REFERENCES account ON DELETE SET NULL,
    note       text CHECK (length(note) BETWEEN 1 AND 200),
    PRIMARY KEY (zone_id, date)
);

-- What plans changed is told by zone with its causes from now on; what was told before is not.
UPDATE plan SET changes = '[]';
