-- Patches that a drought left, the looks at each, and a photo of each look.
CREATE TABLE patch (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    zone_id         bigint NOT NULL REFERENCES zone ON DELETE CASCADE,
    name            text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
    area_m2         double precision NOT NULL CHECK (area_m2 > 0),
    noted_on        date NOT NULL CHECK (noted_on BETWEEN '1900-01-01' AND '2199-12-31'),
    noted_by        bigint REFERENCES account ON DELETE SET NULL,
    -- When it was sown, planted or had closed; none: it is open.
    repaired_on     date CHECK (repaired_on >= noted_on),
    repaired_by     bigint REFERENCES account ON DELETE SET NULL,
    -- Noted by mistake.
    undone_at       timestamptz,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 90),
    UNIQUE (zone_id, idempotency_key)
);
CREATE TABLE patch_look (
    id              bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    patch_id        bigint NOT NULL REFERENCES patch ON DELETE CASCADE,
    -- The site's day.
    date            date NOT NULL CHECK (date BETWEEN '1900-01-01' AND '2199-12-31'),
    -- Whether a handful held that was pulled at, and whether crowns live; none: not looked at.
    holds           boolean,
    alive           boolean,
    account_id      bigint REFERENCES account ON DELETE SET NULL,
    idempotency_key text NOT NULL CHECK (length(idempotency_key) BETWEEN 1 AND 90),
    UNIQUE (patch_id, idempotency_key)
);
CREATE TABLE patch_photo (
    look_id   bigint PRIMARY KEY REFERENCES patch_look ON DELETE CASCADE,
    jpeg      bytea NOT NULL,
    width_px  int NOT NULL,
    height_px int NOT NULL
);
