import { chakra } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import type { Schemas } from "../../../api/client";
import { checkSellingTerms, useDeleteSellingTerms, useUpdateSellingTerms } from "../../../api/operations";
import { useAnswer } from "../../../api/queries";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { same } from "../../../parts/same";
import { Touched } from "./touched";

type Answers = Schemas["Terms"];
type Delivery = Schemas["Delivery"];
type Props = {
  site: Schemas["SiteView"];
  all: Schemas["NamedTerms"][];
  name: string;
  onDone: (name: string | null) => void;
};

/** Terms are selling terms of one name: the answers that many listings share.
 * Whom a change touches is said before it is kept. */
export function Terms({ site, all, name: kept, onDone }: Props) {
  const old = all.find((t) => t.name === kept);
  const [name, setName] = useState(kept);
  const [t, setT] = useState<Answers>(old?.terms ?? {});
  const put = (by: Partial<Answers>) => setT({ ...t, ...by });
  const body = { name: name.trim(), terms: t };
  const changed = body.name !== "" && (body.name !== kept || !same(t, old?.terms ?? {}));
  const touched = useAnswer(
    ["prepare", "terms touched", site.id, body],
    (signal) => checkSellingTerms({ path: { id: site.id }, body }, signal),
    changed,
  );
  const keep = useUpdateSellingTerms(() => ({ path: { id: site.id }, body }));
  const drop = useDeleteSellingTerms(() => ({ path: { id: site.id }, query: { name: kept } }));
  const send = () =>
    changed && !keep.isPending && !touched.error && keep.mutate(undefined, { onSuccess: () => onDone(body.name) });
  useKeys({ ".": send }, true, [[".", "keep the terms"]]);
  const whole = (v: string) => Number(v.replace(/\D/g, "")) || undefined;
  const ways = t.delivery ?? [];
  const way = (i: number, by: Partial<Delivery>) =>
    put({ delivery: ways.map((d, n) => (n === i ? { ...d, ...by } : d)) });
  return (
    <section aria-label="The terms">
      <chakra.div display="flex" gap="3" alignItems="center" mb="3" minH="38px">
        <chakra.div flex="1">
          {changed ? (
            <Touched of={touched.data} />
          ) : (
            <Quiet>Shared by all listings of the categories whose terms they are; one listing can have others.</Quiet>
          )}
        </chakra.div>
        {old && (
          <Button disabled={drop.isPending} onClick={() => drop.mutate(undefined, { onSuccess: () => onDone(null) })}>
            Forget them
          </Button>
        )}
        <Button look="main" disabled={!changed || keep.isPending || !!touched.error} onClick={send}>
          Keep them <Key>.</Key>
        </Button>
      </chakra.div>
      <Trouble error={touched.error ?? keep.error ?? drop.error} />
      <Line label="Name">
        <Input
          w="240px"
          h="30px"
          aria-label="Name of the terms"
          value={name}
          disabled={!!old}
          onChange={(e) => setName(e.target.value)}
        />
      </Line>
      <Line label="Delivery">
        {ways.map((d, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have nothing else that stays
          <chakra.div key={i} display="flex" gap="2" alignItems="center" mb="1">
            <Input
              w="170px"
              h="28px"
              aria-label={`Delivery ${i + 1}`}
              placeholder="Post, second class"
              value={d.name}
              onChange={(e) => way(i, { name: e.target.value })}
            />
            <Input
              figures
              w="80px"
              h="28px"
              aria-label={`Charge of delivery ${i + 1}`}
              placeholder="free"
              value={d.charge ?? ""}
              onChange={(e) => way(i, { charge: e.target.value || undefined })}
            />
            {site.currency}
            <Input
              figures
              w="48px"
              h="28px"
              aria-label={`Least days of delivery ${i + 1}`}
              value={d.least ?? ""}
              onChange={(e) => way(i, { least: whole(e.target.value) })}
            />
            to
            <Input
              figures
              w="48px"
              h="28px"
              aria-label={`Most days of delivery ${i + 1}`}
              value={d.most ?? ""}
              onChange={(e) => way(i, { most: whole(e.target.value) })}
            />
            days
            <Button size="small" look="plain" onClick={() => put({ delivery: ways.filter((_, n) => n !== i) })}>
              Leave out
            </Button>
          </chakra.div>
        ))}
        <Button size="small" onClick={() => put({ delivery: [...ways, { name: "" }] })}>
          Add a way
        </Button>
        <Tick label="Buyers may fetch it" on={t.collection} onPut={(collection) => put({ collection })} />
      </Line>
      <Line label="Sent within">
        <Input
          figures
          w="60px"
          h="28px"
          aria-label="Handling days"
          value={t.handling_days ?? ""}
          onChange={(e) => put({ handling_days: whole(e.target.value) })}
        />{" "}
        working days, from{" "}
        <Input
          w="200px"
          h="28px"
          aria-label="Sent from"
          placeholder="a place"
          value={t.from ?? ""}
          onChange={(e) => put({ from: e.target.value || undefined })}
        />
      </Line>
      <Line label="Returns">
        <Input
          figures
          w="60px"
          h="28px"
          aria-label="Days to return it"
          placeholder="none"
          value={t.returns_days ?? ""}
          onChange={(e) => put({ returns_days: whole(e.target.value) })}
        />{" "}
        days;{" "}
        <Select
          w="190px"
          aria-label="Who pays for returns"
          value={t.returns_paid ? "us" : ""}
          onChange={(e) => put({ returns_paid: e.currentTarget.value === "us" || undefined })}
        >
          <option value="">the buyer pays for it</option>
          <option value="us">we pay for it</option>
        </Select>
      </Line>
      <Line label="Warranty">
        <Input
          w="420px"
          h="28px"
          aria-label="Warranty"
          value={t.warranty ?? ""}
          onChange={(e) => put({ warranty: e.target.value || undefined })}
        />
        <Tick label="With an invoice" on={t.invoice} onPut={(invoice) => put({ invoice })} />
      </Line>
      <Line label="Condition">
        <Input
          w="160px"
          h="28px"
          aria-label="Condition"
          placeholder="as each says"
          value={t.condition ?? ""}
          onChange={(e) => put({ condition: e.target.value || undefined })}
        />{" "}
        <Input
          w="300px"
          h="28px"
          aria-label="Note on the condition"
          placeholder="a note"
          value={t.condition_note ?? ""}
          onChange={(e) => put({ condition_note: e.target.value || undefined })}
        />
      </Line>
      <Line label="Offers">
        <Tick
          label="Buyers may offer less"
          on={t.offers}
          onPut={(offers) => put({ offers, least_offer: offers ? t.least_offer : undefined })}
        />
        {t.offers && (
          <chakra.span>
            from{" "}
            <Input
              figures
              w="70px"
              h="28px"
              aria-label="Lowest offer, of the price"
              placeholder="100%"
              value={t.least_offer ?? ""}
              onChange={(e) => put({ least_offer: e.target.value || undefined })}
            />{" "}
            of the price, never under its floor
          </chakra.span>
        )}
      </Line>
      <Line label="Stays up">
        <Input
          figures
          w="60px"
          h="28px"
          aria-label="Days that it stays up"
          value={t.days ?? ""}
          onChange={(e) => put({ days: whole(e.target.value) })}
        />{" "}
        days; none: until it is ended
      </Line>
    </section>
  );
}

function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <chakra.div
      display="grid"
      gridTemplateColumns="110px 1fr"
      gap="3"
      py="2"
      borderBottomWidth="1px"
      borderColor="hair"
    >
      <chakra.span color="quiet" pt="1">
        {label}
      </chakra.span>
      <div>{children}</div>
    </chakra.div>
  );
}

function Tick({
  label,
  on,
  onPut,
}: {
  label: string;
  on: boolean | undefined;
  onPut: (on: boolean | undefined) => void;
}) {
  return (
    <chakra.label display="flex" gap="2" alignItems="center" minH="28px">
      <input type="checkbox" checked={on ?? false} onChange={(e) => onPut(e.target.checked || undefined)} />
      {label}
    </chakra.label>
  );
}
