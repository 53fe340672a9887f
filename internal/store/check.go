package store

import (
	"context"
	"fmt"
	"strings"
)

// Finding is what one invariant of the data came to.
type Finding struct {
	Check    string   `json:"check"`
	OK       bool     `json:"ok"`
	Count    int64    `json:"count,omitempty"` // rows that break it
	Examples []string `json:"examples,omitempty"`
	Mend     string   `json:"mend,omitempty"` // what to do
}

// invariant is a query that gives a row, a text, for each thing that breaks it.
type invariant struct{ name, broken, mend string }

const (
	workedOut = "open the application: it works out what is marked; or run easymargin plan"
	ourFault  = "this is a fault of ours: keep a copy of the data, put a backup back, and report it"
)

// invariants are what must always hold between the tables. Listings that
// something changed for since they were worked out are left out where what was
// worked out is compared: the data says itself that they are not up to date.
var invariants = []invariant{
	{"references", "SELECT \"table\" || ' row ' || rowid || ' refers to nothing in ' || parent FROM pragma_foreign_key_check", ourFault},
	{
		"the rows of a taken feed are new, changed, same or set aside",
		"SELECT 'feed ' || id || ': ' || rows || ' rows' FROM feeds WHERE state = 'taken' AND rows <> new + changed + same + set_aside",
		ourFault,
	},
	{
		"a supplier product has a reference that its source has once",
		"SELECT 'source ' || source_id || ', ' || ref FROM supplier_products GROUP BY source_id, ref HAVING count(*) > 1",
		ourFault,
	},
	{
		"what is on sale has a price that was confirmed",
		"SELECT sku FROM listings WHERE state = 'live' AND (confirmed_price IS NULL OR confirmed_at IS NULL)",
		"read back what is on sale on its site, under Send",
	},
	{
		"what is on sale has a supplier",
		"SELECT sku FROM listings l WHERE l.state = 'live' AND NOT EXISTS (SELECT 1 FROM supply_links k WHERE k.product_id = l.product_id)",
		"tie its product to a supplier's, or take it off sale",
	},
	{
		"nothing that is ready lacks what its category needs",
		`SELECT l.sku FROM listings l CROSS JOIN preparations q ON q.listing_id = l.id WHERE l.state = 'ready' AND q.stops > 0
			AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)`,
		workedOut,
	},
	{
		"no price that was worked out is under its floor",
		"SELECT sku || ': ' || price || ' under ' || floor FROM listings l WHERE price < floor AND fixed_price IS NULL AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)",
		ourFault,
	},
	{
		"no line that may go asks less than the floor",
		`SELECT 'line ' || x.id || ', ' || l.sku FROM plan_lines x CROSS JOIN listings l ON l.id = x.listing_id WHERE x.state = 'waiting' AND x.verdict = 'go'
			AND x.to_price < l.floor AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)`,
		workedOut,
	},
	{
		"no line that may go offers more than was worked out",
		`SELECT 'line ' || x.id || ', ' || l.sku FROM plan_lines x CROSS JOIN listings l ON l.id = x.listing_id WHERE x.state = 'waiting' AND x.verdict = 'go'
			AND x.to_qty > l.quantity AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)`,
		workedOut,
	},
	{
		"no more is offered than a supplier has that isn't sold yet",
		`SELECT l.sku || ': ' || l.quantity FROM listings l JOIN supply_links k ON k.id = l.supply_link_id JOIN supplier_products sp ON sp.id = k.supplier_product_id
			LEFT JOIN (` + promisedItems + `) p ON p.id = sp.id
			WHERE l.quantity > 0 AND sp.stock_state = 'known' AND l.quantity * max(l.units, 1) > (sp.stock - coalesce(p.items, 0)) * max(k.units_bought, 1)
			AND NOT EXISTS (SELECT 1 FROM dirties d WHERE d.listing_id = l.id)`,
		workedOut,
	},
	{
		"what is sold and not bought is promised",
		"SELECT 'order line ' || id FROM order_lines WHERE state = 'new' AND supplier_product_id IS NOT NULL AND NOT promised",
		ourFault,
	},
	{
		"what was sold in the own shop is among the orders, once",
		`SELECT 'shop order ' || s.ref FROM shop_orders s WHERE (SELECT count(*) FROM orders o WHERE o.site_id = s.site_id AND o.ref = s.ref) <> 1`,
		ourFault,
	},
	{
		"a line's fees are what its statements say",
		`SELECT 'order line ' || f.order_line_id FROM fee_rows f JOIN order_lines x ON x.id = f.order_line_id GROUP BY f.order_line_id HAVING sum(f.amount) <> coalesce(x.fees, 0)`,
		"take the statement again, under Orders",
	},
	{
		"somebody who works here may everything",
		"SELECT 'nobody is the owner' WHERE NOT EXISTS (SELECT 1 FROM people WHERE active AND role = 'owner')",
		ourFault,
	},
	{
		"who doesn't work here any more has no log-in and no token",
		`SELECT p.name FROM people p WHERE NOT p.active AND (EXISTS (SELECT 1 FROM sessions x WHERE x.person_id = p.id) OR EXISTS (SELECT 1 FROM tokens t WHERE t.person_id = p.id))`,
		"end every log-in and token of theirs, under People",
	},
	{
		"a listing waits in one plan, with one line at most for its price",
		"SELECT 'listing ' || listing_id FROM plan_lines WHERE state = 'waiting' AND to_price IS NOT NULL GROUP BY listing_id HAVING count(*) > 1",
		workedOut,
	},
	{
		"the sums of plans are those of their lines",
		`SELECT 'plan ' || plan_id || ', ' || kind || ', ' || verdict FROM (SELECT plan_id, kind, verdict, lines, on_sale, gain, rivals FROM plan_sums
			WHERE lines <> 0 EXCEPT SELECT plan_id, kind, verdict, count(*), sum(on_sale), sum(gain), sum(rival) FROM plan_lines WHERE state = 'waiting'
			GROUP BY 1, 2, 3)`,
		ourFault,
	},
	{
		"the sums of listings are theirs",
		`SELECT 'site ' || site_id || ', ' || state FROM (SELECT site_id, state, listings FROM listing_sums WHERE listings <> 0
			EXCEPT SELECT site_id, state, count(*) FROM listings GROUP BY 1, 2)`,
		ourFault,
	},
	{
		"no more was given back than was paid",
		`SELECT 'order line ' || id || ': ' || refunded || ' of ' || (price * quantity + delivery) FROM order_lines
			WHERE refunded_delivery > min(delivery, refunded) OR refunded - refunded_delivery > price * quantity`,
		ourFault,
	},
	{
		"the tax that a place told of a line is what its rate gives, to a unit for each piece",
		`SELECT 'order line ' || x.id || ': ' || x.tax || ' of ' || (x.price * x.quantity + x.delivery) FROM order_lines x
			WHERE x.tax IS NOT NULL AND x.tax_included AND abs(x.tax * (1000000 + x.tax_rate) - (x.price * x.quantity + x.delivery) * x.tax_rate) > (1000000 + x.tax_rate) * x.quantity`,
		"compare the order with what its place says of it: by what was told, the books count it",
	},
	{
		"no line of a plan was let go twice",
		`SELECT 'line ' || plan_line_id FROM send_lines WHERE plan_line_id IS NOT NULL AND state NOT IN ('withdrawn', 'given up') GROUP BY plan_line_id
			HAVING count(*) > 1`,
		ourFault,
	},
	{
		"nothing is open in a send-out that is through",
		"SELECT 'send-out ' || o.id FROM send_outs o WHERE o.state = 'done' AND EXISTS (SELECT 1 FROM send_lines x WHERE x.send_out_id = o.id AND x.state IN ('waiting', 'sent'))",
		ourFault,
	},
	{
		"what was handed over is a send-out with a batch",
		"SELECT 'send-out ' || id FROM send_outs WHERE state = 'sent' AND batch = ''",
		ourFault,
	},
	{
		"what is said to be on its way is",
		"SELECT l.sku FROM listings l WHERE l.state = 'sent' AND NOT EXISTS (SELECT 1 FROM send_lines x WHERE x.listing_id = l.id AND x.state IN ('waiting', 'sent', 'unknown'))",
		"read back what is on sale on its site, under Send",
	},
	{
		"what was answered says when",
		"SELECT 'line ' || id FROM send_lines WHERE state IN ('confirmed', 'refused') AND answered_at IS NULL",
		ourFault,
	},
	{
		"the price that is on sale is the one that was confirmed last",
		`SELECT l.sku FROM listings l JOIN send_lines x ON x.id = (SELECT max(y.id) FROM send_lines y WHERE y.listing_id = l.id AND y.state = 'confirmed'
			AND y.price IS NOT NULL) WHERE l.state = 'live' AND l.confirmed_price <> x.price AND l.confirmed_at <= x.answered_at`,
		"read back what is on sale on its site, under Send",
	},
}

// checkedExamples is how many of what breaks an invariant are named.
const checkedExamples = 5

// Check looks whether every invariant of the data holds, a finding each. It only
// reads, at one moment.
func (s *Store) Check(ctx context.Context) ([]Finding, error) {
	db := s.read.WithContext(ctx).Begin()
	if db.Error != nil {
		return nil, db.Error
	}
	defer db.Rollback()
	var words []string
	if err := db.Raw("PRAGMA integrity_check(5)").Scan(&words).Error; err != nil {
		words = []string{err.Error()}
	}
	words, beyond := apart(words)
	whole := Finding{Check: "the file is whole", OK: len(words) == 0}
	if !whole.OK {
		whole.Count, whole.Examples = int64(len(words)), words
		whole.Mend = "put a copy back: easymargin restore --data DIR FILE --overwrite; what is damaged is kept beside it"
		return []Finding{whole}, nil // nothing that is read of it can be relied on
	}
	bounds := Finding{Check: "every amount and count is a whole number within its bounds", OK: len(beyond) == 0, Count: int64(len(beyond)), Examples: beyond}
	if !bounds.OK {
		bounds.Mend = ourFault
	}
	out := []Finding{whole, bounds}
	for _, x := range invariants {
		f := Finding{Check: x.name, OK: true}
		if err := db.Raw("SELECT count(*) FROM (" + x.broken + ")").Scan(&f.Count).Error; err != nil {
			return out, fmt.Errorf("checking that %s: %w", x.name, err)
		}
		if f.Count > 0 {
			f.OK, f.Mend = false, x.mend
			if err := db.Raw(fmt.Sprintf("%s LIMIT %d", x.broken, checkedExamples)).Scan(&f.Examples).Error; err != nil {
				return out, err
			}
		}
		out = append(out, f)
	}
	return out, nil
}

// apart parts what SQLite says of damage from what it says of rows that a table's
// CHECK would refuse.
func apart(words []string) (damage, beyond []string) {
	for _, w := range words {
		switch {
		case w == "ok":
		case strings.HasPrefix(w, "CHECK constraint failed"):
			beyond = append(beyond, w)
		default:
			damage = append(damage, w)
		}
	}
	return damage, beyond
}

// Broken are the names of the invariants that don't hold; "" where all do.
func Broken(list []Finding) string {
	var out []string
	for _, f := range list {
		if !f.OK {
			out = append(out, f.Check+": "+strings.Join(f.Examples, ", "))
		}
	}
	return strings.Join(out, "; ")
}
