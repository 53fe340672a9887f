-- Postage by weight, size, destination and price: JSON of what the buyer pays and of what
-- sending costs us, each as bands; '' where one amount holds for all.
ALTER TABLE sites ADD COLUMN postage text NOT NULL DEFAULT '';
-- Tax that is in what a source's costs say, millionths, and whether the seller gets it back;
-- and that nobody has said yet what the supplier charges for delivery and whether there is tax in its costs.
ALTER TABLE sources ADD COLUMN cost_tax integer NOT NULL DEFAULT 0
  CHECK (typeof(cost_tax) = 'integer' AND cost_tax BETWEEN 0 AND 1000000);
ALTER TABLE sources ADD COLUMN cost_tax_back numeric NOT NULL DEFAULT false;
ALTER TABLE sources ADD COLUMN costs_unsaid numeric NOT NULL DEFAULT false;
-- Rates of tax by buyer's country and from a day on, JSON of pricing.TaxRates; '': the one rate for all.
ALTER TABLE sites ADD COLUMN tax_rates text NOT NULL DEFAULT '';
