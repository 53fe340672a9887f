import { act, fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { useTyped } from "./narrow";

/** Late is a field whose address follows only when it is let. */
function Late({ later }: { later: (set: () => void) => void }) {
  const [words, setWords] = useState("");
  const field = useTyped(words, (q) => later(() => setWords(q)));
  return <input aria-label="words" {...field} />;
}

describe("a field that an address follows", () => {
  it("keeps every key however late the address comes", () => {
    const waiting: (() => void)[] = [];
    render(<Late later={(set) => waiting.push(set)} />);
    const field = screen.getByLabelText("words") as HTMLInputElement;
    field.focus();
    for (let i = 1; i <= 4; i++) fireEvent.change(field, { target: { value: "0952".slice(0, i) } });
    act(() => waiting[0]()); // the address of the first key comes after the fourth
    expect(field.value).toBe("0952");
    act(() => waiting[3]());
    expect(field.value).toBe("0952");
    act(() => field.blur());
    expect(field.value).toBe("0952");
  });
});
