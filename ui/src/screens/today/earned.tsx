import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { useGetEarnings } from "../../api/operations";
import { useClock } from "../../api/queries";
import { Quiet } from "../../parts/controls";
import { Money, money } from "../../parts/money";
import { shifted } from "../../parts/when";

const days = 28;

/** EarnedToday is what is left of what was sold today, beside the usual of the four weeks before. */
export function EarnedToday() {
  const { data: clock } = useClock();
  const today = clock?.now?.slice(0, 10) ?? "";
  const { data } = useGetEarnings(
    { query: { by: "day", from: shifted(today, -days), to: today } },
    { enabled: today !== "" },
  );
  if (!data?.totals?.length) return null;
  return (
    <chakra.section aria-label="Earned today" pb="4">
      <chakra.h2 fontWeight="700" color="quiet" fontSize="12.5px" mb="1">
        <Link to="/orders?part=earned">Earned today</Link>
      </chakra.h2>
      {data.totals.map((t) => {
        const rows = data.rows.filter((r) => r.currency === t.currency);
        const now = rows.find((r) => r.key === today)?.left ?? 0;
        const since = rows[0]?.key ?? today; // a shop that is younger than four weeks
        const before = Math.round((Date.parse(today) - Date.parse(since)) / 86_400_000);
        return (
          <chakra.div key={t.currency} display="flex" gap="3" alignItems="baseline">
            <Money minor={now} currency={t.currency} unit sign fontWeight="700" fontSize="15.5px" />
            {before > 0 && (
              <Quiet fontSize="12.5px">a usual day {money(Math.round((t.left - now) / before), t.currency)}</Quiet>
            )}
          </chakra.div>
        );
      })}
    </chakra.section>
  );
}
