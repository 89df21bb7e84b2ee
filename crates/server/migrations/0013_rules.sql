-- Local rules: days, hours, stages, exemptions; they only take away from the windows.
ALTER TABLE site ADD COLUMN rules jsonb NOT NULL DEFAULT '{}' CHECK (jsonb_typeof(rules) = 'object');
