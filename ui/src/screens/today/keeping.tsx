import { chakra } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { ifMatch, type Schemas } from "../../api/client";
import { updateRetention, useGetRetention } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Button, Key, Quiet, Title, Trouble } from "../../parts/controls";
import { Form, Line, useKeep, WholeInput } from "../../parts/form";
import { useKeys } from "../../parts/keys";
import { time } from "../../parts/when";

/** Keeping says what is kept for how long, and lets that be set. */
export function Keeping() {
  const go = useNavigate();
  const { data, error, refetch } = useGetRetention();
  useKeys({ Escape: () => go("/") }, true, [["Esc", "back to Today"]]);
  return (
    <>
      <Title title="What is kept" more="What has served its time is dropped once a day, and stays that long at least.">
        <Button onClick={() => go("/")}>
          Today <Key>Esc</Key>
        </Button>
      </Title>
      <Trouble error={error} retry={refetch} />
      {data && <Days key={data.version} of={data} />}
    </>
  );
}

type Days = { days: Record<string, number> };

const daysOf = (k: Schemas["Keeping"]): Days => ({ days: Object.fromEntries(k.kinds.map((x) => [x.kind, x.days])) });

function Days({ of: k }: { of: Schemas["Keeping"] }) {
  const { data: clock } = useClock();
  const keep = useKeep<Days, unknown>({
    values: daysOf(k),
    version: k.version,
    written: (now) => daysOf(now as Schemas["Keeping"]),
    keep: (body, version) => updateRetention({ header: ifMatch(version), body }),
  });
  return (
    <Form
      form={keep.form}
      onSubmit={keep.submit}
      error={keep.error}
      label="What is kept"
      focus
      maxW="640px"
      overflowY="auto"
      borderTopWidth="1px"
      borderColor="hair"
      pt="2"
    >
      {k.kinds.map((x) => (
        <Line
          key={x.kind}
          label={
            <>
              {x.words} <Quiet fontSize="12px">at least {x.least}</Quiet>
            </>
          }
          unit="days"
          faults={[`days.${x.kind}`]}
        >
          <WholeInput name={`days.${x.kind}`} w="84px" />
        </Line>
      ))}
      {keep.clash}
      <chakra.div display="flex" gap="3" alignItems="center" py="3">
        <Button look="main" type="submit" disabled={keep.busy || !keep.form.formState.isDirty}>
          Keep these
        </Button>
        <Quiet>{k.tidied ? `Tidied ${time(k.tidied, clock?.now)}: ${k.note}.` : "Nothing was tidied away yet."}</Quiet>
      </chakra.div>
    </Form>
  );
}
