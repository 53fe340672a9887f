package store

import (
	"context"
	"time"
)

// Rules lists a site's price rules, in the order they are tried.
func (tx Tx) Rules(siteID int64) ([]PriceRule, error) {
	var out []PriceRule
	err := tx.db.Where("site_id = ?", siteID).Order("position").Find(&out).Error
	return out, err
}

// InsertRule adds a rule before the one in a place of the order, from 0; behind
// all others where there is none. Prices on the site are marked.
func (tx Tx) InsertRule(now time.Time, r *PriceRule, before int) error {
	rules, err := tx.Rules(r.SiteID)
	if err != nil {
		return err
	}
	r.Position = 1
	if len(rules) > 0 {
		r.Position = rules[len(rules)-1].Position + 1
	}
	if err := tx.db.Create(r).Error; err != nil {
		return err
	}
	order := make([]int64, 0, len(rules)+1)
	for i, x := range rules {
		if i == before {
			order = append(order, r.ID)
		}
		order = append(order, x.ID)
	}
	if len(order) == len(rules) {
		order = append(order, r.ID)
	}
	return tx.OrderRules(now, r.SiteID, order)
}

// ChangeRule writes a rule in the place of what it was. Prices on the site are marked.
func (tx Tx) ChangeRule(now time.Time, r *PriceRule) error {
	err := tx.db.Model(r).
		Updates(map[string]any{"name": r.Name, "fits": r.Fits, "wish": r.Wish, "sieve_id": r.SieveID, "version": r.Version + 1, "updated_at": now}).Error
	if err != nil {
		return err
	}
	return tx.DirtySite(now, r.SiteID)
}

// SetRuleFollows sets how a rule follows. Prices on the site are marked.
func (tx Tx) SetRuleFollows(now time.Time, r *PriceRule, columns map[string]any) error {
	if err := tx.db.Model(&PriceRule{ID: r.ID}).Updates(columns).Error; err != nil {
		return err
	}
	return tx.DirtySite(now, r.SiteID)
}

// OrderRules writes the order in which a site's rules are tried. Its prices are marked.
func (tx Tx) OrderRules(now time.Time, siteID int64, ids []int64) error {
	// No two may have one place, not even in between.
	if err := tx.db.Exec("UPDATE price_rules SET position = -position WHERE site_id = ?", siteID).Error; err != nil {
		return err
	}
	for i, id := range ids {
		if err := tx.db.Model(&PriceRule{ID: id}).Where("site_id = ?", siteID).Update("position", i+1).Error; err != nil {
			return err
		}
	}
	return tx.DirtySite(now, siteID)
}

// DropRule drops a rule. Prices on the site are marked.
func (tx Tx) DropRule(now time.Time, r *PriceRule) error {
	if err := tx.db.Delete(&PriceRule{ID: r.ID}).Error; err != nil {
		return err
	}
	return tx.DirtySite(now, r.SiteID)
}

// RuleCount is how many listings a rule holds.
type RuleCount struct {
	RuleID *int64
	N      int64
}

// RuleCounts counts the listings that each rule of a site holds.
func (s *Store) RuleCounts(ctx context.Context, siteID int64) ([]RuleCount, error) {
	var out []RuleCount
	err := s.read.WithContext(ctx).
		Raw("SELECT rule_id, count(*) AS n FROM listings WHERE rule_id IN (SELECT id FROM price_rules "+
			"WHERE site_id = ?) GROUP BY rule_id", siteID).Scan(&out).Error
	return out, err
}
