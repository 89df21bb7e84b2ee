-- A feed names a provider and what it is asked with; which provider that is, and where, is in the settings.
ALTER TABLE weather_feed ADD COLUMN provider text CHECK (length(provider) BETWEEN 1 AND 40);
ALTER TABLE weather_feed ADD COLUMN parameters jsonb CHECK (jsonb_typeof(parameters) = 'object');
UPDATE weather_feed SET provider = 'simulated', parameters = jsonb_build_object('climate', climate, 'seed', seed);
ALTER TABLE weather_feed ALTER COLUMN provider SET NOT NULL;
ALTER TABLE weather_feed ALTER COLUMN parameters SET NOT NULL;
ALTER TABLE weather_feed DROP COLUMN climate;
ALTER TABLE weather_feed DROP COLUMN seed;
