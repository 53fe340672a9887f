-- Nobody has said yet what the buyer pays for delivery and what sending costs us: until then nothing is priced there.
ALTER TABLE sites ADD COLUMN terms_unsaid boolean NOT NULL DEFAULT 0;
