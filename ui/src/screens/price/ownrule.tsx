import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo, useState } from "react";
import { api, read, type Schemas } from "../../api/client";
import { useDo, useLines, useOwnPreview } from "../../api/queries";
import { Button, Key, Quiet, Trouble } from "../../parts/controls";
import { faults } from "../../parts/field";
import { Money } from "../../parts/money";
import { Opened } from "../../parts/strip";
import { figures } from "./bench";
import { Beside, Would } from "./beside";
import { fresh, type NamedRule, toForm, toRule } from "./ruleform";
import { Wish } from "./wish";

type Explained = Schemas["Explained"];

/** OwnRule is the rule of one listing alone, in place of the site's list. */
export function OwnRule({ listing, onClose }: { listing: number; onClose: () => void }) {
  const { data: x, error } = useLines(listing);
  const begin = x ? { ...fresh(x.currency), rule: x.own_rule ?? fresh(x.currency).rule } : null;
  return (
    <>
      <Trouble error={error} />
      {x && begin && <OwnEditor listing={listing} x={x} begin={begin} onClose={onClose} />}
    </>
  );
}

type OwnProps = { listing: number; x: Explained; begin: NamedRule; onClose: () => void };

function OwnEditor({ listing, x, begin, onClose }: OwnProps) {
  const [form, setForm] = useState(() => toForm(begin, x.currency));
  const rule = useMemo(() => toRule(form, true).rule, [form]);
  const preview = useOwnPreview(listing, useDeferredValue(rule));
  const keep = useDo(
    (rule: Schemas["Rule"] | undefined) =>
      read(api.PUT("/api/listings/{id}/rule", { params: { path: { id: listing } }, body: { rule } })),
    "listings",
    "rules",
    "plan",
  );
  const wrong = faults(keep.error ?? preview.error);
  return (
    <Beside
      label="Its own price rule"
      onKeep={() => keep.mutate(rule, { onSuccess: onClose })}
      onClose={onClose}
      would={
        <Would busy={preview.isFetching} wrong={!!preview.error}>
          {preview.data ? (
            <Outcome now={x} then={preview.data} rivals={form.stance !== "ignore"} />
          ) : (
            <Quiet>{preview.error ? "Something beside can't be read yet." : "Working it out…"}</Quiet>
          )}
        </Would>
      }
    >
      <chakra.h2 fontWeight="700" fontSize="15.5px">
        A rule for {x.title} alone
      </chakra.h2>
      <Quiet>On {x.site}, in place of the rules for all.</Quiet>
      <Wish
        form={form}
        set={(c) => {
          keep.reset();
          setForm((f) => ({ ...f, ...c }));
        }}
        currency={x.currency}
        wrong={wrong}
      />
      <chakra.div display="flex" gap="3" alignItems="center" py="4">
        <Button look="main" type="submit" disabled={keep.isPending || !!preview.error}>
          Keep this rule
        </Button>
        <Button type="button" onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        {x.own_rule && (
          <Button type="button" onClick={() => keep.mutate(undefined, { onSuccess: onClose })}>
            Let the rules for all hold again
          </Button>
        )}
      </chakra.div>
      <Quiet>Keeping it changes no marketplace: if it is live, it gets a plan that you send.</Quiet>
      <Trouble error={wrong.rest} />
    </Beside>
  );
}

/** Outcome is the price as the rule would have it, against the price now. */
function Outcome({ now, then: x, rivals }: { now: Explained; then: Explained; rivals: boolean }) {
  if (x.price == null || x.lines.length === 0) {
    return (
      <>
        <Trouble error={new Error(x.why || x.rule.why)} />
        <Quiet>Without a price it would be offered at quantity 0.</Quiet>
      </>
    );
  }
  const more = (x.profit ?? 0) - (now.profit ?? 0);
  return (
    <>
      <chakra.p my="1">
        <Money minor={x.price} currency={x.currency} unit fontSize="19px" fontWeight="700" />{" "}
        {now.price == null ? (
          "in place of no price"
        ) : now.price === x.price ? (
          "as now"
        ) : (
          <>
            in place of <Money minor={now.price} currency={x.currency} />,{" "}
            <Money minor={Math.abs(more)} currency={x.currency} unit color={more < 0 ? "loss" : "gain"} />{" "}
            {more < 0 ? "less" : "more"} on every sale
          </>
        )}
      </chakra.p>
      <Quiet display="block" mb="2">
        {x.shown}
      </Quiet>
      {rivals && !x.rivals_at && (
        <chakra.p bg="warn" px="3" py="2" mb="2">
          What others ask was never read for it; it is priced as if nobody else sold it.
        </chakra.p>
      )}
      <Opened figures={figures(x)} currency={x.currency} lines={x.lines} />
    </>
  );
}
