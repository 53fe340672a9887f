import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useClock, useSites } from "../api/queries";
import { Button, Input, Key, Quiet, Select } from "./controls";
import { useKeys } from "./keys";
import { time } from "./when";

type Order = NonNullable<Schemas["Wish"]["order"]> | "";

/** How is where, when and in what order something goes, as it is asked on screen. */
type Asked = { site: number; clock: string; over: number; order: Order };

const atOnce: Asked = { site: 0, clock: "", over: 0, order: "" };

/** next is when a clock next shows a time such as 18:30, after now. */
export function next(clock: string, now: string): string | undefined {
  if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(clock)) return undefined;
  const moment = new Date(`${now.slice(0, 10)}T${clock}:00Z`);
  if (moment <= new Date(now)) moment.setUTCDate(moment.getUTCDate() + 1);
  return moment.toISOString();
}

/** useHow asks where, when and in what order something goes. open is whether it
 * is asked; body is what the server is told. */
export function useHow(on = true) {
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState(atOnce);
  const { data: clock } = useClock();
  const shown = on && open;
  useKeys({ ",": () => setOpen(!open) }, on, [[",", "where, when and in what order they go"]]);
  const at = clock && next(asked.clock, clock.now);
  const body: Omit<Schemas["Wish"], "listings"> = shown
    ? {
        sites: asked.site ? [asked.site] : undefined,
        at,
        over_minutes: asked.over || undefined,
        order: asked.order || undefined,
      }
    : {};
  return {
    open: shown,
    flip: () => setOpen(!open),
    asked,
    put: (a: Partial<Asked>) => setAsked({ ...asked, ...a }),
    at,
    body,
  };
}

/** HowButton opens and closes what is asked. */
export function HowButton({ how }: { how: ReturnType<typeof useHow> }) {
  return (
    <Button aria-expanded={how.open} onClick={how.flip}>
      {how.open ? "All, at once" : "Where and when…"} <Key>,</Key>
    </Button>
  );
}

type Props = { how: ReturnType<typeof useHow>; sites?: boolean; order?: boolean };

/** How asks where, when and in what order something goes. */
export function How({ how, sites, order }: Props) {
  const { data: all } = useSites();
  const { data: clock } = useClock();
  if (!how.open) return null;
  const { asked, put } = how;
  return (
    <chakra.section aria-label="Where and when" bg="band" px="3" py="2" mb="2" rounded="3px">
      <chakra.div display="flex" gap="5" alignItems="center" flexWrap="wrap">
        {sites && (
          <Field name="To">
            <Select h="28px" value={asked.site} onChange={(e) => put({ site: Number(e.target.value) })}>
              <option value={0}>every site</option>
              {all?.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </Select>
          </Field>
        )}
        <Field name="Not before">
          <Input
            w="72px"
            h="28px"
            figures
            placeholder="18:00"
            aria-invalid={asked.clock !== "" && !how.at}
            value={asked.clock}
            onChange={(e) => put({ clock: e.target.value })}
          />
        </Field>
        <Field name="Spread over">
          <Select h="28px" value={asked.over} onChange={(e) => put({ over: Number(e.target.value) })}>
            <option value={0}>nothing: all together</option>
            {[1, 2, 4, 8, 12].map((h) => (
              <option key={h} value={60 * h}>
                {h} {h === 1 ? "hour" : "hours"}
              </option>
            ))}
          </Select>
        </Field>
        {order && (
          <Field name="First">
            <Select h="28px" value={asked.order} onChange={(e) => put({ order: e.target.value as Order })}>
              <option value="">what was ready first</option>
              <option value="profit">what earns most</option>
              <option value="price">what costs most</option>
            </Select>
          </Field>
        )}
      </chakra.div>
      <Quiet fontSize="12.5px">
        {how.at ? `From ${time(how.at, clock?.now)} on. ` : asked.clock ? "An hour is written as 18:00. " : ""}Each line
        is looked at again when it goes; what takes stock down goes at once all the same.
      </Quiet>
    </chakra.section>
  );
}

function Field({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <chakra.label display="flex" gap="2" alignItems="center" fontWeight="500">
      {name} {children}
    </chakra.label>
  );
}
