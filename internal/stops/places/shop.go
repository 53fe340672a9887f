package places

import (
	"context"
	"crypto/sha256"
	"encoding/hex"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/shop"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// ShopView is how the own shop looks and what it says of itself.
type ShopView struct {
	shop.Looks
	Version int64  `json:"version" doc:"For If-Match"`
	Address string `json:"address" doc:"Where it is served; empty: nowhere, start the program with --shop"`
}

// Edition implements stops.Edited.
func (v ShopView) Edition() int64 { return v.Version }

// ServeAt says where the own shop is served.
func (st *Stop) ServeAt(address string) { st.shopAt.Store(address) }

func (st *Stop) shopView(tx store.Tx) (ShopView, error) {
	site, err := tx.ShopSite()
	if err != nil {
		return ShopView{}, fault.New(fault.Missing, "there is no shop of your own yet; make one among the places")
	}
	looks, version, err := shop.LooksOf(tx, &site)
	at, _ := st.shopAt.Load().(string)
	return ShopView{looks, version, at}, err
}

// SetShop keeps how the own shop looks.
func (st *Stop) SetShop(ctx context.Context, m stops.IfMatch, l shop.Looks) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		now, err := st.shopView(tx)
		if err != nil {
			return err
		}
		if err := m.Check(now.Version, "how the shop looks", now); err != nil {
			return err
		}
		tx.Changed("places")
		return stops.First(shop.PutLooks(tx, l), tx.Note(st.Now(), "shop set", l.Name, ""))
	})
}

func (st *Stop) shopOperations(api huma.API) {
	stops.OpEdited(api, stops.Read("/shop", "get-shop", "places", "How the own shop looks, and where it is"),
		func(ctx context.Context, _ *stops.None) (ShopView, error) { return st.shopView(st.Store.Reading(ctx)) })
	stops.Op(api, stops.Put("/shop", "update-shop", actor.Settings, "Set how the own shop looks", "places", "sites", "matches", "listings", "runs"),
		func(ctx context.Context, in *struct {
			stops.IfMatch
			Body shop.Looks
		}) (stops.Done, error) {
			return stops.Said(st.SetShop(ctx, in.IfMatch, in.Body))
		})
	stops.Upload(api, stops.Post("/sites/{id}/shop-picture", "upload-shop-picture", actor.Settings, "Keep a picture for the shop's first page: the body is the picture. The answer is what it is called", "places"), mostShopPicture,
		func(ctx context.Context, _ int64, _ string, raw []byte) (shopPicture, error) {
			sum := sha256.Sum256(raw)
			digest := hex.EncodeToString(sum[:])
			return shopPicture{digest}, shop.KeepPicture(ctx, st.Store, digest, raw)
		})
}

// mostShopPicture is the most bytes that the shop's picture has.
const mostShopPicture = 10 << 20

type shopPicture struct {
	Digest string `json:"digest"`
}
