import { Tabs as Chakra, chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { Code } from "./controls";
import { useKeys } from "./keys";

export type Tab = { to: string; label: string; count?: number; on: boolean };

type TabsProps = { label: string; tabs: Tab[]; children: ReactNode };

/** Tabs are parts of one screen, each at an address of its own, with what stands
 * in the one that is on. [ and ] go from one to the next. */
export function Tabs({ label, tabs, children }: TabsProps) {
  const go = useNavigate();
  const at = tabs.findIndex((t) => t.on);
  const step = (by: number) => {
    const to = tabs[at + by];
    if (to) go(to.to);
  };
  useKeys({ "[": () => step(-1), "]": () => step(1) }, tabs.length > 1, [["[ ]", "go through this screen's parts"]]);
  const on = tabs[at]?.to ?? "";
  return (
    <Chakra.Root value={on} onValueChange={(e) => go(e.value)} activationMode="manual">
      <Chakra.List aria-label={label}>
        {tabs.map((t) => (
          <Chakra.Trigger key={t.to} value={t.to}>
            {t.label}
            {t.count ? <Code ml="1.5">{t.count}</Code> : null}
          </Chakra.Trigger>
        ))}
      </Chakra.List>
      <Chakra.Content value={on} tabIndex={-1}>
        {children}
      </Chakra.Content>
      <chakra.span srOnly aria-live="polite">
        {tabs[at]?.label}
      </chakra.span>
    </Chakra.Root>
  );
}
