import { fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { useKeys, useKeysHere } from "./keys";
import { show } from "./testing";

function Part({ keyName, does }: { keyName: string; does: string }) {
  const [n, setN] = useState(0);
  useKeys({ [keyName]: () => setN(n + 1) }, true, [[keyName, does]]);
  return <p>{`${does} ${n}`}</p>;
}

function Screen() {
  const [second, setSecond] = useState(true);
  const here = useKeysHere();
  return (
    <>
      <Part keyName="N" does="new" />
      {second && <Part keyName="D" does="drop" />}
      <button type="button" onClick={() => setSecond(false)}>
        leave
      </button>
      <input aria-label="words" />
      <ul>
        {here.map(([k, words]) => (
          <li key={k}>{`${k}: ${words}`}</li>
        ))}
      </ul>
    </>
  );
}

describe("keys", () => {
  const said = () => screen.queryAllByRole("listitem").map((l) => l.textContent);
  it("are said as long as their part is on the screen, and no longer", () => {
    show(<Screen />);
    expect(said()).toEqual(["N: new", "D: drop"]);
    fireEvent.click(screen.getByText("leave"));
    expect(said()).toEqual(["N: new"]);
  });
  it("do nothing while somebody types, or holds a key of the browser's", () => {
    show(<Screen />);
    fireEvent.keyDown(screen.getByLabelText("words"), { key: "N" });
    fireEvent.keyDown(window, { key: "N", ctrlKey: true });
    expect(screen.getByText("new 0")).toBeTruthy();
    fireEvent.keyDown(window, { key: "N" });
    expect(screen.getByText("new 1")).toBeTruthy();
  });
});
