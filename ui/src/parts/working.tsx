import { Quiet } from "./controls";

/** Working says that an answer is on its way, once that takes long enough to wonder about. */
export function Working({ on }: { on: boolean }) {
  return on ? (
    <Quiet role="status" animation="appear 1ms 400ms both">
      working it out…
    </Quiet>
  ) : null;
}
