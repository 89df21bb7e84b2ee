-- What may be used of the site's water, as in the site document.
ALTER TABLE site ADD COLUMN caps jsonb NOT NULL DEFAULT '[]' CHECK (jsonb_typeof(caps) = 'array');
