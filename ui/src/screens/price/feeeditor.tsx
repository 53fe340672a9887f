import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useClock, useDo } from "../../api/queries";
import { Button, Input, Key, Quiet, Select, Trouble } from "../../parts/controls";
import { Fault, faults, useFirstField } from "../../parts/field";
import { useKeys } from "../../parts/keys";
import { bases, type Fee, type Written } from "./bands";
import { type Draft, day } from "./fees";
import { percent } from "./ruleform";
import { cleanWarehouse, WarehouseEditor } from "./warehouse";

type EditorProps = { site: Schemas["SiteView"]; begin: Draft; onClose: () => void };

/** clean drops what is empty, and adds the signs that are easily left out. */
export function clean(s: Written): Written {
  const may = (v?: string) => v?.trim() || undefined;
  const rate = (v?: string) => (may(v) ? percent(v ?? "") : undefined);
  return {
    ...s,
    warehouse: s.warehouse && cleanWarehouse(s.warehouse),
    fees: s.fees.map((f) => ({
      name: f.name.trim(),
      of: f.of,
      rate: f.bands?.length ? undefined : rate(f.rate),
      banding: f.bands?.length ? f.banding : undefined,
      bands: f.bands?.length
        ? f.bands.map((b, i, all) => ({
            to: i < all.length - 1 ? may(b.to) : undefined,
            rate: percent(b.rate),
            fixed: f.banding === "whole" ? may(b.fixed) : undefined,
          }))
        : undefined,
      fixed: may(f.fixed),
      least: may(f.least),
      most: may(f.most),
      tax: rate(f.tax),
    })),
  };
}

/** FeeEditor writes a new version of a category's schedule, from a day on. */
export function FeeEditor({ site, begin, onClose }: EditorProps) {
  const { data: clock } = useClock();
  const tomorrow = clock ? new Date(new Date(clock.now).getTime() + 86_400_000).toISOString().slice(0, 10) : "";
  const [s, setS] = useState<Written>({ ...begin.exact, starts_on: "" });
  const written = { ...s, starts_on: s.starts_on || tomorrow };
  const keep = useDo(
    (body: Written) =>
      read(api.PUT("/api/sites/{id}/fees", { params: { path: { id: site.id } }, body: body as never })),
    "sites",
    "listings",
    "plan",
  );
  const wrong = faults(keep.error);
  const put = (i: number, change: Partial<Fee>) => {
    keep.reset();
    setS({ ...s, fees: s.fees.map((f, k) => (k === i ? { ...f, ...change } : f)) });
  };
  const form = useFirstField();
  useKeys({ Escape: onClose });
  const figure = (label: string, value: string | undefined, set: (v: string) => void, w = "76px") => (
    <chakra.label display="inline-flex" gap="1.5" alignItems="center">
      {label}
      <Input figures h="28px" w={w} value={value ?? ""} placeholder="none" onChange={(e) => set(e.target.value)} />
    </chakra.label>
  );
  return (
    <chakra.form
      ref={form}
      aria-label="New version of the fees"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(clean(written), { onSuccess: onClose });
      }}
    >
      <chakra.div display="flex" gap="3" alignItems="center" mb="2">
        <chakra.h2 fontWeight="700" fontSize="15.5px">
          {begin.name}
        </chakra.h2>
        <chakra.label display="flex" gap="2" alignItems="center">
          from
          <Input
            type="date"
            w="150px"
            value={written.starts_on}
            onChange={(e) => setS({ ...s, starts_on: e.target.value })}
          />
        </chakra.label>
        <Quiet>
          {written.starts_on && `${day(written.starts_on)} on; `}amounts in {site.currency}
        </Quiet>
      </chakra.div>
      <Fault>{wrong.of("starts_on", "category")}</Fault>
      {s.fees.map((f, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a fee's name is being typed
        <chakra.div key={i} borderTopWidth="1px" borderColor="hair" py="2">
          <chakra.div display="flex" gap="2" alignItems="center" flexWrap="wrap">
            <Input
              w="124px"
              h="28px"
              aria-label={`Name of fee ${i + 1}`}
              value={f.name}
              onChange={(e) => put(i, { name: e.target.value })}
            />
            {!f.bands?.length && figure("rate", f.rate, (rate) => put(i, { rate }))}
            <Select
              maxW="150px"
              aria-label={`Fee ${i + 1} is of`}
              value={f.of}
              onChange={(e) => put(i, { of: e.target.value as Fee["of"] })}
            >
              {Object.entries(bases).map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </Select>
            <Select
              maxW="130px"
              aria-label={`Bands of fee ${i + 1}`}
              value={f.bands?.length ? f.banding : ""}
              onChange={(e) => {
                const banding = e.target.value as Fee["banding"];
                put(
                  i,
                  banding
                    ? {
                        banding,
                        bands: f.bands?.length
                          ? f.bands
                          : [{ to: "50.00", rate: f.rate || "10%" }, { rate: f.rate || "10%" }],
                      }
                    : { banding: undefined, bands: undefined, rate: f.rate || f.bands?.[0]?.rate },
                );
              }}
            >
              <option value="">one rate</option>
              <option value="slices">bands, each slice at its own</option>
              <option value="whole">bands, all at the one it falls in</option>
            </Select>
            <chakra.div flex="1" />
            <Button
              type="button"
              size="small"
              look="plain"
              aria-label={`Without fee ${i + 1}`}
              onClick={() => setS({ ...s, fees: s.fees.filter((_, k) => k !== i) })}
            >
              ×
            </Button>
          </chakra.div>
          {f.bands?.map((b, j, all) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: bands have no name but their place
            <chakra.div key={j} display="flex" gap="2" alignItems="center" pl="6" pt="1">
              {j < all.length - 1 ? (
                figure("up to", b.to, (to) => put(i, { bands: all.map((x, k) => (k === j ? { ...x, to } : x)) }))
              ) : (
                <Quiet w="124px">above that</Quiet>
              )}
              {figure("rate", b.rate, (rate) => put(i, { bands: all.map((x, k) => (k === j ? { ...x, rate } : x)) }))}
              {f.banding === "whole" &&
                figure("and", b.fixed, (fixed) =>
                  put(i, { bands: all.map((x, k) => (k === j ? { ...x, fixed } : x)) }),
                )}
              {all.length > 1 && (
                <Button
                  type="button"
                  size="small"
                  look="plain"
                  aria-label={`Without band ${j + 1}`}
                  onClick={() => put(i, { bands: all.filter((_, k) => k !== j) })}
                >
                  ×
                </Button>
              )}
              {j === all.length - 1 && (
                <Button
                  type="button"
                  size="small"
                  onClick={() => put(i, { bands: [...all.slice(0, -1), { to: "", rate: b.rate }, b] })}
                >
                  Another band
                </Button>
              )}
            </chakra.div>
          ))}
          <chakra.div display="flex" gap="3" alignItems="center" flexWrap="wrap" pt="1">
            {figure("fixed", f.fixed, (fixed) => put(i, { fixed }))}
            {figure("at least", f.least, (least) => put(i, { least }))}
            {figure("at most", f.most, (most) => put(i, { most }))}
            {figure("tax on it", f.tax, (tax) => put(i, { tax }))}
          </chakra.div>
          <Fault>{wrong.of(`fees[${i}]`)}</Fault>
        </chakra.div>
      ))}
      {s.warehouse && (
        <WarehouseEditor
          of={s.warehouse}
          set={(warehouse) => {
            keep.reset();
            setS({ ...s, warehouse });
          }}
          drop={() => setS({ ...s, warehouse: undefined })}
          wrong={wrong}
        />
      )}
      <chakra.div display="flex" gap="3" alignItems="center" py="3" borderTopWidth="1px" borderColor="hair">
        <Button
          type="button"
          size="small"
          onClick={() => setS({ ...s, fees: [...s.fees, { name: "fee", of: "item", rate: "0%" }] })}
        >
          Another fee
        </Button>
        {!s.warehouse && (
          <Button
            type="button"
            size="small"
            onClick={() => setS({ ...s, warehouse: { name: "warehouse", steps: [{ name: "small", fee: "" }] } })}
          >
            The warehouse's fees
          </Button>
        )}
        <chakra.div flex="1" />
        <Button type="button" onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        <Button look="main" type="submit" disabled={keep.isPending}>
          Keep this version
        </Button>
      </chakra.div>
      <Trouble error={wrong.rest} />
    </chakra.form>
  );
}
