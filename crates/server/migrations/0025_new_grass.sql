-- New grass: the surface store of a day, and how far the grass had come by its end; none where none was sown.
ALTER TABLE zone_day
    ADD COLUMN surface  jsonb,
    ADD COLUMN seedling jsonb;
