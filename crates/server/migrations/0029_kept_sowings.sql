-- New grass that is planned for a zone: the days on which it is sprayed, worked and sown. One plan a zone.
CREATE TABLE kept_sowing (
    zone_id     bigint PRIMARY KEY REFERENCES zone ON DELETE CASCADE,
    grass       text NOT NULL,
    method      text NOT NULL,
    -- Where weeds are sprayed.
    spray       date CHECK (spray BETWEEN '1900-01-01' AND '2199-12-31'),
    soil_work   date NOT NULL CHECK (soil_work BETWEEN '1900-01-01' AND '2199-12-31'),
    sow         date NOT NULL CHECK (sow BETWEEN '1900-01-01' AND '2199-12-31'),
    -- Days from the spray to sowing, by its label.
    wait_days   int NOT NULL CHECK (wait_days BETWEEN 0 AND 400),
    account_id  bigint REFERENCES account ON DELETE SET NULL,
    kept_at     timestamptz NOT NULL DEFAULT now()
);
