import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { Problem } from "../api/client";
import { differences } from "./clash";
import { Button, Input } from "./controls";
import { Figure, Form, Tick, useKeep, Whole, Wrong } from "./form";
import { show, showInForm } from "./testing";

const said = () => screen.queryAllByRole("alert").map((a) => a.textContent);

describe("what the server says of a form", () => {
  const fields = (
    <>
      <Wrong of={["rule.aims"]} />
      <Figure name="cost.unit" label="cost" />
    </>
  );
  it("stands at the field it is of, at its parts and its places", () => {
    showInForm(
      { rule: { aims: [] }, cost: { unit: "" } },
      fields,
      new Problem("no", 422, { "rule.aims[1].value": "too many decimals", "cost.unit": "letters" }),
    );
    expect(said()).toEqual(["too many decimals"]);
    expect(screen.getByText("letters")).toBeTruthy();
    expect(screen.getByLabelText("cost").getAttribute("aria-invalid")).toBe("true");
  });
  it("is said once where it is of no field", () => {
    showInForm({ cost: { unit: "" } }, fields, new Problem("can't be reached", 0));
    expect(said()).toEqual(["can't be reached"]);
  });
  it("is said once where it is of the whole", () => {
    showInForm({ cost: { unit: "" } }, fields, new Problem("not an object", 422, { body: "not an object" }));
    expect(said()).toEqual(["not an object"]);
  });
});

type Thing = { name: string; days: number };
type Kept = Thing & { version: number };

/** Kept is a form of a thing on a server that others write to as well. */
function Editor({ server }: { server: { thing: Kept; put: (v: Thing, version?: number) => Promise<Kept> } }) {
  const [thing, setThing] = useState(server.thing);
  const keep = useKeep<Thing, Kept>({
    values: { name: thing.name, days: thing.days },
    version: thing.version,
    written: (now) => ({ name: (now as Kept).name, days: (now as Kept).days }),
    keep: server.put,
    done: setThing,
  });
  return (
    <Form form={keep.form} onSubmit={keep.submit} error={keep.error} label="thing">
      <Input aria-label="name" {...keep.form.register("name")} />
      <Whole name="days" label="days" />
      <Wrong of={["name"]} />
      {keep.clash}
      <Button type="submit">Keep</Button>
      <Button onClick={() => setThing({ ...server.thing })}>news</Button>
      {keep.kept && "kept"}
    </Form>
  );
}

/** server keeps one thing, and refuses what was edited from an older version of it. */
function server() {
  const s = {
    thing: { name: "mug", days: 3, version: 1 },
    put: vi.fn(async (v: Thing, version?: number) => {
      if (version !== undefined && version !== s.thing.version) throw new Problem("changed", 412, {}, { ...s.thing });
      if (v.name === "bad") throw new Problem("no", 422, { name: "not that" });
      s.thing = { ...v, version: s.thing.version + 1 };
      return s.thing;
    }),
  };
  return s;
}

const name = () => screen.getByLabelText("name") as HTMLInputElement;
const type = (value: string) => fireEvent.change(name(), { target: { value } });
const keep = () => fireEvent.click(screen.getByRole("button", { name: "Keep" }));

describe("a form of something to keep", () => {
  it("writes the version that was opened, then the one it made", async () => {
    const s = server();
    show(<Editor server={s} />);
    type("cup");
    keep();
    await screen.findByText("kept");
    type("jug");
    expect(screen.queryByText("kept")).toBeNull();
    keep();
    await waitFor(() => expect(s.thing).toEqual({ name: "jug", days: 3, version: 3 }));
    expect(s.put.mock.calls.map((c) => c[1])).toEqual([1, 2]);
  });
  it("shows what others changed while nothing is typed, and writes from there", async () => {
    const s = server();
    show(<Editor server={s} />);
    s.thing = { name: "bowl", days: 9, version: 5 };
    fireEvent.click(screen.getByText("news"));
    await waitFor(() => expect(name().value).toBe("bowl"));
    type("dish");
    keep();
    await screen.findByText("kept");
    expect(s.thing).toEqual({ name: "dish", days: 9, version: 6 });
  });
  it("doesn't write over what others changed since it was typed into, though the news has come", async () => {
    const s = server();
    show(<Editor server={s} />);
    type("cup");
    s.thing = { name: "bowl", days: 9, version: 5 };
    fireEvent.click(screen.getByText("news"));
    keep();
    await screen.findByText(/Somebody else changed this/);
    expect(s.thing.name).toBe("bowl");
    const rows = screen.getAllByRole("row").map((r) => r.textContent);
    expect(rows).toEqual(["What differsYoursTheirs, kept now", "namecupbowl", "days39"]);
  });
  it("keeps mine in its place where the person says so", async () => {
    const s = server();
    show(<Editor server={s} />);
    type("cup");
    s.thing = { name: "bowl", days: 9, version: 5 };
    keep();
    fireEvent.click(await screen.findByRole("button", { name: "Keep mine in its place" }));
    await screen.findByText("kept");
    expect(s.thing).toEqual({ name: "cup", days: 3, version: 6 });
  });
  it("takes theirs where the person says so, and nothing is written", async () => {
    const s = server();
    show(<Editor server={s} />);
    type("cup");
    s.thing = { name: "bowl", days: 9, version: 5 };
    keep();
    fireEvent.click(await screen.findByRole("button", { name: "Take theirs" }));
    await waitFor(() => expect(name().value).toBe("bowl"));
    expect(screen.queryByText(/Somebody else changed this/)).toBeNull();
    expect(s.thing.version).toBe(5);
  });
  it("says what is wrong until something else is typed", async () => {
    show(<Editor server={server()} />);
    type("bad");
    keep();
    await screen.findByText("not that");
    type("good");
    await waitFor(() => expect(said()).toEqual([]));
  });
  it("takes digits alone where a number is whole", async () => {
    const s = server();
    show(<Editor server={s} />);
    for (const value of ["4x", "-4", "1.5"]) fireEvent.change(screen.getByLabelText("days"), { target: { value } });
    fireEvent.change(screen.getByLabelText("days"), { target: { value: "12" } });
    keep();
    await waitFor(() => expect(s.thing.days).toBe(12));
  });
});

describe("differences of two versions", () => {
  it("are those of what is written, however deep", () => {
    const mine = { terms: { charge: "1.00" }, aims: [{ value: "18%" }], same: "x", version: 3 };
    const theirs = {
      terms: { charge: "2.00" },
      aims: [{ value: "18%" }, { value: "4.00" }],
      same: "x",
      version: 4,
      words: "y",
    };
    expect(differences(mine, theirs)).toEqual([
      ["terms charge", "1.00", "2.00"],
      ["aims 2 value", "", "4.00"],
    ]);
  });
});

describe("a tick", () => {
  it("is yes or no", () => {
    const form = showInForm({ loss: true }, <Tick name="loss" label="at a loss" />);
    fireEvent.click(screen.getByLabelText("at a loss"));
    expect(form.now()).toEqual({ loss: false });
  });
});
