import { Quiet } from "./controls";

/** Behind says what stayed behind of what was to be sent, and why. */
export function Behind({ n }: { n: number }) {
  if (n === 0) return null;
  return (
    <Quiet role="status" display="block" py="2">
      {n === 1 ? "One listing stayed" : `${n} listings stayed`} behind: something changed for {n === 1 ? "it" : "them"}{" "}
      a moment ago, and {n === 1 ? "it is" : "they are"} worked out again first. Send {n === 1 ? "it" : "them"} after.
    </Quiet>
  );
}
