import { expect, test } from "vitest";
import { placed } from "./richtext";

test.each([
  ["<p>A <strong>bold</strong> word</p>", ["p", "b"], "<p>A <b>bold</b> word</p>"],
  ["<ul><li><p>one</p></li><li><p>two</p></li></ul>", ["ul", "li"], "<ul><li>one</li><li>two</li></ul>"],
  ["<p>one</p><p></p>", ["p"], "<p>one</p>"],
  ["<p>one</p><p>two</p>", ["br"], "one<br>two<br>"],
  ["<p><em>so</em></p>", ["p", "em"], "<p><em>so</em></p>"],
])("%s is written in the place's tags", (html, tags, want) => expect(placed(html, tags)).toBe(want));
