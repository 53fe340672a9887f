import { expect, it } from "vitest";
import { type Role, words, wordsBeside } from "./roles";

const role = (name: string, ...rights: string[]) =>
  ({ id: 0, version: 1, name, rights, holders: 0 }) as unknown as Role;

it("says what a role may beside the one that has most of it", () => {
  const look = role("look", "look");
  const prepare = role("prepare", "look", "prepare");
  const send = role("send", "look", "prepare", "send");
  const books = role("books", "look", "buyers");
  const all = [look, prepare, send, books];
  expect(wordsBeside(look, all)).toBe(words(look));
  expect(wordsBeside(send, all)).toMatch(/^what prepare may; lets go what touches a place/);
  expect(wordsBeside(books, all)).toBe("what look may; sees buyers' names and addresses");
});
