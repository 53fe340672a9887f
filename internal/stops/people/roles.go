package people

import (
	"context"
	"fmt"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
	"easymargin/internal/stops"
	"easymargin/internal/store"
)

// mostRoles is how many roles the owner may make.
const mostRoles = 50

// Role is what somebody may, under a name.
type Role struct {
	ID      int64    `json:"id" doc:"0: it is always there, and can't be changed"`
	Version int64    `json:"version" doc:"For If-Match"`
	Name    string   `json:"name" doc:"Without regard to case there is one of a name"`
	Rights  []string `json:"rights" enum:"look,prepare,send,buyers,money,settings,people"`
	Holders int64    `json:"holders" doc:"How many people and tokens have it"`
}

// RoleText is a role as it is written.
type RoleText struct {
	Name   string   `json:"name" maxLength:"40"`
	Rights []string `json:"rights" enum:"look,prepare,send,buyers,money,settings,people" maxItems:"7" doc:"Look is among them always"`
}

// roleOf is the role of a name: one that is always there, or one that the owner made.
func roleOf(tx store.Tx, name string) (actor.Role, error) {
	if r, ok := actor.Preset(name); ok {
		return r, nil
	}
	r, there, err := tx.RoleNamed(name)
	if err != nil {
		return actor.Role{}, err
	}
	if !there {
		return actor.Role{}, fmt.Errorf("there is no role %q", name)
	}
	rights, err := actor.RightsOf(r.Rights)
	return actor.Role{Name: r.Name, Rights: rights | actor.Account}, err
}

// Roles are all roles, those that are always there first.
func (st *Stop) Roles(ctx context.Context) ([]Role, error) {
	tx, out := st.Store.Reading(ctx), []Role{}
	for _, r := range actor.Presets {
		out = append(out, Role{Name: r.Name, Rights: (r.Rights &^ actor.Account).Names()})
	}
	own, err := tx.Roles()
	for _, r := range own {
		out = append(out, Role{ID: r.ID, Version: r.Version, Name: r.Name, Rights: r.Rights})
	}
	for i := range out {
		n, countErr := tx.HoldersOf(out[i].Name)
		out[i].Holders, err = n, stops.First(err, countErr)
	}
	return out, err
}

// KeepRole keeps a role: a new one where id is 0. Who has it may from then on what it says.
func (st *Stop) KeepRole(ctx context.Context, id int64, m stops.IfMatch, in RoleText) (int64, error) {
	name, err := nameOf(in.Name)
	if err != nil {
		return 0, err
	}
	rights, err := actor.RightsOf(in.Rights)
	if err != nil {
		return 0, fault.At("rights", "%v", err)
	}
	r := store.Role{Version: 1}
	err = st.Store.Do(ctx, func(tx store.Tx) error {
		if err := freeRole(tx, id, name); err != nil {
			return err
		}
		if id != 0 {
			r, err = store.GetTx[store.Role](tx, id)
			if err == nil {
				err = m.Check(r.Version, r.Name, Role{ID: r.ID, Version: r.Version, Name: r.Name, Rights: r.Rights})
			}
			if err == nil {
				err = tx.RenameRole(r.Name, name)
			}
			if err != nil {
				return err
			}
			r.Version++
		}
		r.Name, r.Rights = name, (rights | actor.Look).Names()
		tx.Changed("people")
		return stops.First(tx.Save(&r), tx.Note(st.Now(), "role kept", name, (rights|actor.Look).String()))
	})
	return r.ID, err
}

// freeRole refuses a name that another role has, and more roles than may be.
func freeRole(tx store.Tx, id int64, name string) error {
	if _, taken := actor.Preset(name); taken {
		return fault.Taken("name", "the role %s is always there; give yours another name", name)
	}
	other, taken, err := tx.RoleNamed(name)
	if err != nil || taken && other.ID != id {
		return stops.First(err, fault.Taken("name", "there is a role %s already", other.Name))
	}
	all, err := tx.Roles()
	if err == nil && id == 0 && len(all) >= mostRoles {
		err = fault.New(fault.Conflict, "there are %d roles already; delete one that nobody has", mostRoles)
	}
	return err
}

// DropRole deletes a role that nobody has.
func (st *Stop) DropRole(ctx context.Context, id int64) error {
	return st.Store.Do(ctx, func(tx store.Tx) error {
		r, err := store.GetTx[store.Role](tx, id)
		if err != nil {
			return err
		}
		n, err := tx.HoldersOf(r.Name)
		if err == nil && n > 0 {
			err = fault.New(fault.Conflict, "%d people and tokens have the role %s; give them another first", n, r.Name)
		}
		if err != nil {
			return err
		}
		tx.Changed("people")
		return stops.First(tx.DropRole(id), tx.Note(st.Now(), "role deleted", r.Name, ""))
	})
}
