import type { Schemas } from "../../api/client";
import { useListRoles } from "../../api/operations";

export type Role = Schemas["Role"];

/** rights are what a role may let one do, in words. Everybody may look. */
export const rights: [string, string][] = [
  ["look", "sees everything but buyers and who works here, and tries prices out"],
  ["prepare", "brings in, matches, prices and prepares"],
  ["send", "lets go what touches a place or a buyer: nothing goes out without this"],
  ["buyers", "sees buyers' names and addresses"],
  ["money", "buys, refunds, takes statements, closes months"],
  ["settings", "says where one sells, what goes without a person, where mail goes"],
  ["people", "says who works here, and what each may"],
];

const says = (of: readonly string[]) =>
  rights
    .filter(([name]) => of.includes(name))
    .map(([, words]) => words)
    .join("; ");

/** words are what a role may, in a sentence. */
export const words = (role: Role | undefined) => says(role?.rights ?? []);

/** wordsBeside are what a role may, beside the others: what one of them has is said by its name. */
export function wordsBeside(role: Role, all: Role[]): string {
  const less = all
    .filter((r) => r.rights.length < role.rights.length && r.rights.every((x) => role.rights.includes(x)))
    .sort((a, b) => b.rights.length - a.rights.length)[0];
  return less ? `what ${less.name} may; ${says(role.rights.filter((x) => !less.rights.includes(x)))}` : words(role);
}

export const useRoles = () => useListRoles().data ?? [];
