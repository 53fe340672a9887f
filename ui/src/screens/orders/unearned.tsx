import { chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { useParts } from "../../api/operation";
import { listUnsoldListings, useListLosses } from "../../api/operations";
import { Button, Code, Empty, Quiet, Trouble } from "../../parts/controls";
import { Money } from "../../parts/money";
import { at, day } from "../../parts/when";

const cells = {
  "& td, & th": { padding: "4px 14px 4px 0", textAlign: "left" },
  "& td.figure, & th.figure": { textAlign: "right" },
};

/** Losses are the lines that lost money, the worst first, each with why. */
export function Losses({ from, to }: { from: string; to: string }) {
  const { data, error } = useListLosses({ query: { from, to, by: "day" } });
  if (data?.length === 0) return <Empty title="Nothing was sold at a loss then" />;
  return (
    <>
      <Trouble error={error} />
      {data && (
        <chakra.table aria-label="Sold at a loss" w="100%" css={cells}>
          <thead>
            <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
              <th>day</th>
              <th>what</th>
              <th>site</th>
              <th className="figure">left</th>
              <th className="figure">expected</th>
              <th>why</th>
            </chakra.tr>
          </thead>
          <tbody>
            {data.map((x) => (
              <chakra.tr key={x.line} borderBottomWidth="1px" borderColor="hair">
                <td>
                  <Code>{at(x.placed, { day: "numeric", month: "short" })}</Code>
                </td>
                <td>
                  <Link to={`/orders/${x.order}`}>
                    <chakra.span textDecoration="underline">{x.title}</chakra.span>
                  </Link>
                </td>
                <td>{x.site}</td>
                <td className="figure">
                  <Money minor={x.left} currency={x.currency} unit sign fontWeight="700" />
                </td>
                <td className="figure">
                  <Money minor={x.expected} currency={x.currency} color="quiet" />
                </td>
                <td>{x.why}</td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      )}
    </>
  );
}

/** Idle are listings that are on sale and weren't sold, the most money in stock first. */
export function Idle({ from }: { from: string }) {
  const list = useParts(listUnsoldListings, { query: { from } });
  if (!list.loading && list.total === 0) return <Empty title="Everything that is on sale was sold" />;
  return (
    <>
      <Trouble error={list.error} retry={list.retry} />
      <Quiet display="block" pb="1.5">
        {`${list.total}${list.uncounted ? "+" : ""} on sale and not sold since ${day(from)}. Led: how often what it cost`}{" "}
        then was no more than the leading offer, of the times that one was seen while it was on sale.
      </Quiet>
      <chakra.table aria-label="Not sold" w="100%" css={cells}>
        <thead>
          <chakra.tr color="quiet" fontSize="12.5px" borderBottomWidth="1px" borderColor="hair">
            <th>what</th>
            <th>site</th>
            <th className="figure">price</th>
            <th className="figure">there</th>
            <th className="figure">led</th>
          </chakra.tr>
        </thead>
        <tbody>
          {list.rows.map((x) => (
            <chakra.tr key={x.listing} borderBottomWidth="1px" borderColor="hair">
              <td>
                <Link to={`/products/${x.product}?listing=${x.listing}`}>
                  <chakra.span textDecoration="underline">{x.title}</chakra.span>
                </Link>
              </td>
              <td>{x.site}</td>
              <td className="figure">{x.price != null && <Money minor={x.price} currency={x.currency} unit />}</td>
              <td className="figure">
                <Code color="ink">{x.quantity}</Code>
              </td>
              <td className="figure">
                {x.looked === 0 ? (
                  <Quiet>–</Quiet>
                ) : (
                  <Code color={x.led === 0 ? "loss" : "ink"}>
                    {x.led === 0 ? "never" : x.led} of {x.looked}
                  </Code>
                )}
              </td>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
      {list.rows.length < list.total && (
        <chakra.div py="2">
          <Button size="small" onClick={list.more}>
            More
          </Button>
        </chakra.div>
      )}
    </>
  );
}
