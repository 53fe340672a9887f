import { fireEvent, screen } from "@testing-library/react";
import { useForm } from "react-hook-form";
import { expect, it, vi } from "vitest";
import { Beside } from "../../parts/beside";
import { show } from "../../parts/testing";
import { fresh, type RuleText, toText } from "./ruleform";
import { Wish } from "./wish";

function Editor({ onKeep }: { onKeep: () => void }) {
  const form = useForm<RuleText>({ defaultValues: toText(fresh("GBP"), "GBP") });
  return (
    <Beside form={form} label="Price rule" error={null} onKeep={onKeep} onClose={() => {}} would={null}>
      <Wish currency="GBP" />
      <button type="submit">Keep this rule</button>
    </Beside>
  );
}

it("keeps a figure that was typed whatever it is then of, and keeps nothing by Enter", async () => {
  const kept = vi.fn((e?: { preventDefault: () => void }) => e?.preventDefault());
  show(<Editor onKeep={kept} />);
  const figure = (await screen.findAllByLabelText(/^Figure of/))[0] as HTMLInputElement;
  const kind = screen.getAllByLabelText(/^Kind of/)[0] as HTMLSelectElement;
  expect(figure.value).toBe("18%");
  fireEvent.change(kind, { target: { value: "markup" } });
  expect(figure.value).toBe("40%"); // nobody had typed anything
  fireEvent.change(figure, { target: { value: "60%" } });
  fireEvent.change(kind, { target: { value: "return" } });
  expect(figure.value).toBe("60%");
  fireEvent.change(kind, { target: { value: "profit" } });
  expect(figure.value).toBe("60");
  expect(fireEvent.keyDown(figure, { key: "Enter" })).toBe(false); // the browser sends no form
  expect(kept).not.toHaveBeenCalled();
});
