package store

import (
	"context"
	"reflect"

	"gorm.io/gorm/schema"
)

// A list that a row has is kept as JSON; an empty one is [], and never NULL.
func init() { schema.RegisterSerializer("list", listSerializer{}) }

type listSerializer struct{ schema.JSONSerializer }

// Value implements schema.SerializerValuerInterface.
func (s listSerializer) Value(ctx context.Context, field *schema.Field, dst reflect.Value, value any) (any, error) {
	if reflect.ValueOf(value).Len() == 0 {
		return "[]", nil
	}
	return s.JSONSerializer.Value(ctx, field, dst, value)
}
