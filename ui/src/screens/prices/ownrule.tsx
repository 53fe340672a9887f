import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo } from "react";
import { useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { setListingRule } from "../../api/operations";
import { type Listing, useLines, useListing } from "../../api/queries";
import { Beside, Would } from "../../parts/beside";
import { Button, Key, Quiet, Trouble } from "../../parts/controls";
import { useKeep } from "../../parts/form";
import { Money } from "../../parts/money";
import { figures, Opened } from "../../parts/strip";
import { useOwnPreview } from "./queries";
import { fresh, type RuleText, toRule, toText } from "./ruleform";
import { Wish } from "./wish";

type Explained = Schemas["Explained"];
type Rule = Schemas["Rule"];

/** OwnRule is the rule of one listing alone, in place of the site's list. */
export function OwnRule({ listing, onClose }: { listing: number; onClose: () => void }) {
  const one = useListing(listing);
  const lines = useLines(listing);
  return (
    <>
      <Trouble error={one.error ?? lines.error} />
      {one.data && lines.data && <OwnEditor listing={one.data} x={lines.data} onClose={onClose} />}
    </>
  );
}

type OwnProps = { listing: Listing; x: Explained; onClose: () => void };

function OwnEditor({ listing: l, x, onClose }: OwnProps) {
  const written = (rule?: Rule | null) => {
    const begin = fresh(x.currency);
    return toText({ ...begin, rule: rule ?? begin.rule }, x.currency);
  };
  const put = (rule: Rule | undefined, version?: number) =>
    setListingRule({ path: { id: l.id }, header: ifMatch(version), body: { rule } });
  const keep = useKeep<RuleText & { none?: boolean }, unknown>({
    values: written(x.own_rule),
    version: l.version,
    written: (now) => written((now as { own_rule?: Rule }).own_rule),
    keep: (text, version) => put(text.none ? undefined : toRule(text, true).rule, version),
    done: onClose,
  });
  const text = useWatch({ control: keep.form.control }) as RuleText;
  const preview = useOwnPreview(l.id, useDeferredValue(useMemo(() => toRule(text, true).rule, [text])));
  return (
    <Beside
      form={keep.form}
      label="Its own price rule"
      error={keep.error ?? preview.error}
      onKeep={keep.submit}
      onClose={onClose}
      would={
        <Would busy={preview.isFetching} wrong={!!preview.error}>
          {preview.data ? (
            <Outcome now={x} then={preview.data} rivals={text.stance !== "ignore"} />
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
      <Wish currency={x.currency} />
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="4">
        <Button look="main" type="submit" disabled={keep.busy || !!preview.error}>
          Keep this rule
        </Button>
        <Button onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
        {x.own_rule && (
          <Button disabled={keep.busy} onClick={() => keep.send({ ...keep.form.getValues(), none: true })}>
            Let the rules for all hold again
          </Button>
        )}
      </chakra.div>
      <Quiet>
        If it is on sale, it gets a plan: you send it, or it goes by itself where its site follows on its own.
      </Quiet>
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
        {x.tied && `; ${x.tied}`}
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
