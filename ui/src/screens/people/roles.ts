import type { Schemas } from "../../api/client";
import { useListRoles } from "../../api/operations";

export type Role = Schemas["Role"];

/** rights are what a role may let one do, in words. Everybody may look. */
export const rights: [string, string][] = [
  ["look", "sees everything but buyers and who works here, and tries prices out"],
  ["prepare", "brings in, matches, prices and prepares; nothing of it goes out"],
  ["send", "lets go what touches a place or a buyer"],
  ["buyers", "sees buyers' names and addresses"],
  ["money", "buys, refunds, takes statements, closes months"],
  ["settings", "says where one sells, what goes without a person, where mail goes"],
  ["people", "says who works here, and what each may"],
];

/** words are what a role may, in a sentence. */
export const words = (role: Role | undefined) =>
  rights
    .filter(([name]) => role?.rights?.includes(name as never))
    .map(([, says]) => says)
    .join("; ");

export const useRoles = () => useListRoles().data ?? [];
