-- Walks over the lawn: what was seen at a place that dries out first, and which rows belong to one look at a zone.
ALTER TABLE seen
    ADD COLUMN spot    text CHECK (spot IN ('paving', 'sunny_slope', 'tree_edge', 'thin_soil', 'windy_corner')),
    -- The first row of the look; none: it is the first, or stands alone.
    ADD COLUMN look_id bigint REFERENCES seen ON DELETE CASCADE,
    DROP CONSTRAINT seen_idempotency_key_check,
    -- The further rows of a look have its key and a number.
    ADD CONSTRAINT seen_idempotency_key_check CHECK (length(idempotency_key) BETWEEN 1 AND 90);
CREATE INDEX seen_of_look ON seen (look_id) WHERE look_id IS NOT NULL;
