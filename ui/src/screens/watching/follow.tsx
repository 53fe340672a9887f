import { chakra } from "@chakra-ui/react";
import { useDeferredValue, useMemo } from "react";
import { useFormContext, useWatch } from "react-hook-form";
import { ifMatch, type Schemas } from "../../api/client";
import { updatePolicy, updateRulePolicy } from "../../api/operations";
import { useSites } from "../../api/queries";
import { useAddress } from "../../parts/address";
import { Beside, Would } from "../../parts/beside";
import { Button, Empty, Head, Input, Key, Quiet, Word } from "../../parts/controls";
import { Choose, Figure, Line, Tick, useKeep, Whole, WholeInput } from "../../parts/form";
import { time } from "../../parts/when";
import { keepAnd } from "../prices/preview";
import { useFollowing, useTrial } from "./queries";

type View = Schemas["FollowingView"];
type SiteForm = Schemas["SiteFollowing"];
type RuleForm = Schemas["RuleFollowing"];
type Figures = Schemas["Figures"];

/** Following is how a site follows suppliers and rivals: its figures, those that
 * a price rule sets otherwise, and whether what may go waits for a person. */
export function Following({ site }: { site?: number }) {
  const a = useAddress();
  const { data: sites } = useSites();
  const at = sites?.find((s) => s.id === site) ?? sites?.find((s) => s.lists);
  const { data: view } = useFollowing(at?.id ?? 0);
  if (!at) return sites ? <Empty title="No marketplace yet">Add one under Places first.</Empty> : null;
  if (!view) return null;
  const rule = view.rules.find((r) => String(r.id) === a.get("rule"));
  return rule ? (
    <RuleEditor key={rule.id} site={at.id} view={view} rule={rule} onClose={() => a.put({ rule: null })} />
  ) : (
    <SiteEditor key={at.id} site={at} view={view} onRule={(id) => a.put({ rule: String(id) })} />
  );
}

/** figuresOf are a form's figures as the server takes them: what is empty is left out. */
const figuresOf = (f: Figures | undefined): Figures =>
  Object.fromEntries(Object.entries(f ?? {}).filter(([, v]) => v !== "" && v !== undefined && v !== null)) as Figures;

type SiteProps = { site: Schemas["SiteView"]; view: View; onRule: (id: number) => void };

function SiteEditor({ site, view, onRule }: SiteProps) {
  const keep = useKeep<SiteForm, unknown>({
    values: { ...view.site, quiet_from: view.site.quiet_from ?? "", quiet_to: view.site.quiet_to ?? "" },
    version: view.version,
    written: (now) => (now as View).site,
    keep: (v, version) =>
      updatePolicy({
        path: { id: site.id },
        header: ifMatch(version),
        body: { ...v, figures: figuresOf(v.figures), acts_from: undefined },
      }),
  });
  const { figures, runs, at_once } = useWatch({ control: keep.form.control }) as SiteForm;
  const alone = aloneOf({ runs, at_once }, view.site);
  const goes = useGoing(site.id, 0, figures, alone);
  return (
    <Beside
      form={keep.form}
      label={`How it follows on ${site.name}`}
      error={keep.error}
      onKeep={keep.submit}
      onClose={() => keep.form.reset()}
      would={<Trial site={site.id} ask={figures} alone={alone} />}
    >
      <Runs from={view.site.acts_from} site />
      <chakra.div display="grid" gridTemplateColumns="repeat(2, minmax(0, 1fr))" columnGap="8">
        <StockFigures />
        <MoveFigures />
      </chakra.div>
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="3">
        <Button look="main" type="submit" disabled={keep.busy}>
          {keepAnd("Keep this", goes)}
        </Button>
        {keep.kept && <Quiet role="status">Kept; the plan is worked out anew.</Quiet>}
      </chakra.div>
      <Rules view={view} onRule={onRule} />
    </Beside>
  );
}

/** Rules are the site's price rules, with what each sets otherwise. */
function Rules({ view, onRule }: { view: View; onRule: (id: number) => void }) {
  return (
    <chakra.section aria-label="What price rules set otherwise" pb="6">
      <chakra.h2 fontWeight="700" mb="1">
        What price rules set otherwise
      </chakra.h2>
      {view.rules.map((r) => {
        const own = Object.keys(figuresOf(r.figures)).length;
        return (
          <chakra.button
            key={r.id}
            type="button"
            onClick={() => onRule(r.id)}
            display="flex"
            w="100%"
            gap="3"
            alignItems="center"
            minH="34px"
            px="2"
            textAlign="left"
            cursor="pointer"
            borderTopWidth="1px"
            borderColor="hair"
            _hover={{ bg: "band" }}
          >
            <chakra.span flex="1" truncate>
              {r.name}
            </chakra.span>
            <Quiet>{r.listings} listings</Quiet>
            <Quiet>{own ? `${own} of its own` : "as the site"}</Quiet>
            <Word>{r.runs === "alone" ? "on its own" : r.runs || "as the site"}</Word>
          </chakra.button>
        );
      })}
    </chakra.section>
  );
}

type RuleProps = { site: number; view: View; rule: RuleForm; onClose: () => void };

function RuleEditor({ site, view, rule, onClose }: RuleProps) {
  const keep = useKeep<RuleForm, unknown>({
    values: rule,
    version: rule.version,
    written: (now) => now,
    keep: (v, version) =>
      updateRulePolicy({
        path: { id: rule.id },
        header: ifMatch(version),
        body: { figures: figuresOf(v.figures), runs: v.runs, at_once: v.at_once } as RuleForm,
      }),
    done: onClose,
  });
  const { figures, runs, at_once } = useWatch({ control: keep.form.control }) as RuleForm;
  const alone = runs ? aloneOf({ runs, at_once }, rule) : aloneOf(view.site, view.site);
  const goes = useGoing(site, rule.id, figures, alone);
  return (
    <Beside
      form={keep.form}
      label={`How ${rule.name} follows`}
      error={keep.error}
      onKeep={keep.submit}
      onClose={onClose}
      would={<Trial site={site} rule={rule.id} ask={figures} alone={alone} />}
    >
      <chakra.h2 fontWeight="700" fontSize="15px">
        {rule.name} <Quiet>what stays empty is as its site has it</Quiet>
      </chakra.h2>
      <Runs from={rule.acts_from} />
      <chakra.div display="grid" gridTemplateColumns="repeat(2, minmax(0, 1fr))" columnGap="8">
        <StockFigures over={view.site.figures} />
        <MoveFigures over={view.site.figures} />
      </chakra.div>
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="3">
        <Button look="main" type="submit" disabled={keep.busy}>
          {keepAnd("Keep this", goes)}
        </Button>
        <Button onClick={onClose}>
          Leave it <Key>Esc</Key>
        </Button>
      </chakra.div>
    </Beside>
  );
}

/** Runs says whether what may go waits for a person, and what holds it back. */
function Runs({ from, site }: { from?: string | null; site?: boolean }) {
  const { control } = useFormContext<SiteForm>();
  const runs = useWatch({ control, name: "runs" });
  const alone = runs === "alone";
  return (
    <chakra.fieldset borderBottomWidth="1px" borderColor="hair" pb="3" mb="3">
      <chakra.div maxW="560px">
        <Choose
          name="runs"
          label="What may go"
          w="300px"
          options={[
            ...(site ? [] : ([["", "as its site"]] as [string, string][])),
            ["by hand", "waits until I send it"],
            ["alone", "goes on its own; what is held waits for me"],
          ]}
        />
        {alone && (
          <Tick name="at_once" label="It acts from now on, without a week in which it only says what it would do" />
        )}
        {alone && from && <Quiet>It only says what it would do until {time(from)}.</Quiet>}
        {alone && site && (
          <>
            <Line label="Prices wait, by this machine's clock," faults={["quiet_from", "quiet_to"]}>
              <chakra.span display="flex" gap="2" alignItems="center">
                from <Hour name="quiet_from" /> to <Hour name="quiet_to" />
              </chakra.span>
            </Line>
            <Whole name="most_at_once" label="More at once wait for me" unit="0: any" />
            <Whole name="most_a_day" label="At most in 24 hours" unit="0: any" />
          </>
        )}
        {alone && <Quiet>Stock to nothing always goes at once: none of this holds it back.</Quiet>}
        {site && <Whole name="batch_hours" label="Tell me of a send-out not finished after" unit="hours" />}
      </chakra.div>
    </chakra.fieldset>
  );
}

function Hour({ name }: { name: "quiet_from" | "quiet_to" }) {
  const { register } = useFormContext<SiteForm>();
  return (
    <Input
      figures
      h="28px"
      w="76px"
      placeholder={name === "quiet_from" ? "22:00" : "07:00"}
      aria-label={name === "quiet_from" ? "Quiet from" : "Quiet to"}
      {...register(name)}
    />
  );
}

type Over = { over?: Figures };

/** StockFigures are how much of what suppliers have is offered, and whose. */
function StockFigures({ over }: Over) {
  return (
    <div>
      <Heading>Stock</Heading>
      <Count name="buffer" label="Kept back" unit="units" over={over} />
      <Count name="least" label="Less than so many is offered as none" unit="units" over={over} />
      <Count name="cap" label="Never more than" unit="units" over={over} />
      <Count name="patience" label="Sold out comes back after" unit="feeds" over={over} />
      <Count name="unknown" label="Unknown stock counts as" unit="units" over={over} />
      <Share name="saving" label="Another supplier must save more than" over={over} />
    </div>
  );
}

/** MoveFigures are what moves by itself and what is held. */
function MoveFigures({ over }: Over) {
  return (
    <div>
      <Heading>Moves</Heading>
      <Share name="small" label="A price stays where it would move by less than" over={over} />
      <Share name="cost_moved" label="Held where the cost moved by over" over={over} />
      <Share name="price_moved" label="or the price would move by over" over={over} />
      <Count name="moves_per_day" label="or it moved so often in 24 hours" unit="times" over={over} />
      <Count name="rival_moves" label="After rivals it waits after" unit="times" over={over} />
      {over ? (
        <>
          <Flag name="loss" label="A price may move to a loss" over={over} />
          <Flag name="rest" label="Off sale while a loss waits" over={over} />
        </>
      ) : (
        <>
          <Tick name="figures.loss" label="A price may move to a loss without me" />
          <Tick name="figures.rest" label="What loses on every sale goes off sale while its price waits" />
        </>
      )}
    </div>
  );
}

function Heading({ children }: { children: string }) {
  return (
    <chakra.h2 fontWeight="700" mb="0.5">
      {children}
    </chakra.h2>
  );
}

type CountProps = { name: keyof Figures; label: string; unit: string } & Over;

/** Count is a whole number; in a rule what is left empty is as its site has it. */
function Count({ name, label, unit, over }: CountProps) {
  return (
    <Line label={label} unit={unit} faults={[`figures.${name}`]}>
      <WholeInput name={`figures.${name}`} w="76px" empty={!!over} placeholder={over && String(over[name] ?? "")} />
    </Line>
  );
}

type ShareProps = { name: "saving" | "small" | "cost_moved" | "price_moved"; label: string } & Over;

/** Share is a percentage; in a rule what is left empty is as its site has it. */
function Share({ name, label, over }: ShareProps) {
  return <Figure name={`figures.${name}`} label={label} hint={over?.[name]} faults={[name]} unit="" w="76px" />;
}

/** Flag is yes, no, or as its site has it. */
function Flag({ name, label, over }: { name: "loss" | "rest"; label: string } & Over) {
  const { setValue, control } = useFormContext<RuleForm>();
  const v = useWatch({ control, name: `figures.${name}` });
  return (
    <Line label={label}>
      <chakra.select
        aria-label={label}
        h="28px"
        rounded="5px"
        borderWidth="1px"
        borderColor="hair"
        bg="panel"
        px="1"
        value={v === undefined ? "" : String(v)}
        onChange={(e) =>
          setValue(`figures.${name}`, e.target.value === "" ? undefined : e.target.value === "true", {
            shouldDirty: true,
          })
        }
      >
        <option value="">as its site ({over?.[name] ? "yes" : "no"})</option>
        <option value="true">yes</option>
        <option value="false">no</option>
      </chakra.select>
    </Line>
  );
}

type TrialProps = { site: number; rule?: number; ask?: Figures; alone: Alone };

/** Alone is whether what may go is sent by itself once it is kept: all of it, only what takes stock away (in
 * a first week), or nothing. */
type Alone = "all" | "stock" | "nothing";

type Runs = { runs?: string; at_once?: boolean; acts_from?: string | null };

const aloneOf = (v: Runs, was: Runs): Alone => {
  if (v.runs !== "alone") return "nothing";
  return v.at_once || (was.runs === "alone" && !was.acts_from) ? "all" : "stock";
};

/** going counts what is sent within seconds of keeping it. */
const going = (t: Schemas["TrialView"], alone: Alone) =>
  alone === "nothing"
    ? 0
    : t.kinds
        .filter((k) => k.verdict === "go" && (alone === "all" || k.kind === "zero"))
        .reduce((n, k) => n + k.after, 0);

/** useAsked is what figures that are being typed would make of a site's plan. */
function useAsked(site: number, rule: number, ask?: Figures) {
  const asked = useDeferredValue(useMemo(() => ({ rule_id: rule, figures: figuresOf(ask) }), [rule, ask]));
  return useTrial(site, asked);
}

/** useGoing is how many changes keeping it sends at once. */
function useGoing(site: number, rule: number, ask: Figures | undefined, alone: Alone) {
  const { data } = useAsked(site, rule, ask);
  return data ? going(data, alone) : 0;
}

/** Goes says what keeping it sends at once. */
function Goes({ now, alone }: { now: number; alone: Alone }) {
  if (now === 0)
    return (
      <chakra.p mt="3" color="quiet">
        {alone === "nothing"
          ? "Nothing goes by keeping it: what should move waits in the plan until you send it."
          : "Nothing would go at once. What should move later goes by itself."}
      </chakra.p>
    );
  return (
    <chakra.p role="status" mt="3" bg="warn" px="3" py="2">
      {now === 1 ? "One change goes" : `${now} changes go`} to the marketplace within seconds of keeping it
      {alone === "stock" && ": what takes stock away. Prices wait for the first week to pass"}.
    </chakra.p>
  );
}

/** Trial is what the figures typed would make of the plan, beside what it is now. */
function Trial({ site, rule = 0, ask, alone }: TrialProps) {
  const { data: t, error, isFetching } = useAsked(site, rule, ask);
  const moved = t && [
    { name: "Units offered", pair: t.offered },
    { name: "Listings that offer none", pair: t.none },
    { name: "Listings with another supplier", pair: t.switch },
  ];
  return (
    <Would busy={isFetching} wrong={!!error}>
      {t ? (
        <>
          <chakra.p mb="2" color="quiet">
            {t.listings < t.of
              ? `From ${t.listings} of ${t.of} listings on sale there.`
              : `Over all ${t.of} listings on sale there, as things are now.`}
          </chakra.p>
          <chakra.table w="100%">
            <thead>
              <tr>
                <Head left>The plan</Head>
                <Head>now</Head>
                <Head>then</Head>
              </tr>
            </thead>
            <tbody>
              {t.kinds.map((k) => (
                <Pair
                  key={k.kind + k.verdict}
                  name={k.verdict === "go" ? k.name : `${k.name}, ${k.verdict}`}
                  pair={[k.now, k.after]}
                />
              ))}
              {t.kinds.length === 0 && (
                <tr>
                  <td colSpan={3}>
                    <Quiet>Nothing would have to change.</Quiet>
                  </td>
                </tr>
              )}
              {moved?.map((m) => (
                <Pair key={m.name} name={m.name} pair={m.pair} />
              ))}
            </tbody>
          </chakra.table>
          <Goes now={going(t, alone)} alone={alone} />
        </>
      ) : (
        <Quiet>{error ? "Something can't be read yet." : "Working it out…"}</Quiet>
      )}
    </Would>
  );
}

function Pair({ name, pair }: { name: string; pair: number[] }) {
  const other = pair[0] !== pair[1];
  return (
    <chakra.tr borderTopWidth="1px" borderColor="hair">
      <chakra.td py="1">{name}</chakra.td>
      <chakra.td textAlign="right" fontFamily="mono" color="quiet">
        {pair[0]}
      </chakra.td>
      <chakra.td textAlign="right" fontFamily="mono" fontWeight={other ? "700" : "400"}>
        {pair[1]}
      </chakra.td>
    </chakra.tr>
  );
}
