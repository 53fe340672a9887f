package store_test

import "context"

// ctxOf is the context of every test here: none of them is given up.
var ctxOf = context.Background()
