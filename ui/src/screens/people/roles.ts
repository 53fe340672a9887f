export type Role = "look" | "prepare" | "send" | "owner";

/** roles are what somebody may, each what those before it may too. */
export const roles: [Role, string][] = [
  ["look", "look"],
  ["prepare", "prepare"],
  ["send", "send"],
  ["owner", "owner"],
];

/** mays says what each role lets one do. */
export const mays: Record<Role, string> = {
  look: "sees everything but buyers' names and addresses, and tries prices out",
  prepare: "brings in, matches, prices and prepares; nothing of it goes out",
  send: "lets go what touches a place, a supplier or a buyer, and sees buyers",
  owner: "says who works here, where one sells, and what goes without a person",
};
