import { chakra } from "@chakra-ui/react";
import { useState } from "react";
import { useRetouchPictures } from "../../../api/operations";
import { Button, Input, Quiet, Select, Trouble } from "../../../parts/controls";
import { plain, type Recipe } from "./choice";

type Props = { ids: number[]; onDone: () => void };

/** PicturesOfAll does the same to all pictures of many listings; what is done to
 * one of them besides stays. */
export function PicturesOfAll({ ids, onDone }: Props) {
  const [r, setR] = useState<Recipe>({ shape: "square", pad: true });
  const put = (by: Partial<Recipe>) => setR({ ...r, ...by });
  const start = useRetouchPictures(() => ({ body: { ids, recipe: plain(r) } }));
  return (
    <chakra.form
      display="flex"
      flexDirection="column"
      gap="3"
      onSubmit={(e) => {
        e.preventDefault();
        start.mutate(undefined, { onSuccess: onDone });
      }}
    >
      <chakra.h2 fontWeight="700" fontSize="15px">
        The pictures of {ids.length} {ids.length === 1 ? "listing" : "listings"}
      </chakra.h2>
      <label>
        Shape
        <Select value={r.shape ?? ""} onChange={(e) => put({ shape: e.currentTarget.value as Recipe["shape"] })}>
          <option value="">as they are</option>
          <option value="square">square</option>
          <option value="4:3">4 : 3, lying</option>
          <option value="3:4">3 : 4, standing</option>
        </Select>
      </label>
      {r.shape && (
        <label>
          They get it by
          <Select value={r.pad ? "pad" : ""} onChange={(e) => put({ pad: e.currentTarget.value === "pad" })}>
            <option value="pad">white at the sides</option>
            <option value="">cutting off at the sides</option>
          </Select>
        </label>
      )}
      <label>
        Longer side, pixels
        <Input
          figures
          w="100%"
          inputMode="numeric"
          placeholder="as it is"
          value={r.side || ""}
          onChange={(e) => put({ side: Math.min(3000, Number(e.target.value.replace(/\D/g, ""))) })}
        />
      </label>
      <chakra.label display="flex" gap="2" alignItems="center">
        <input type="checkbox" checked={r.white ?? false} onChange={(e) => put({ white: e.target.checked })} />
        White background
      </chakra.label>
      <chakra.label display="flex" gap="2" alignItems="center">
        <input type="checkbox" checked={r.enlarge ?? false} onChange={(e) => put({ enlarge: e.target.checked })} />
        Enlarge smaller ones
      </chakra.label>
      <Quiet fontSize="12.5px">
        Originals stay. It is done in the background; what else is done to a picture stays done.
      </Quiet>
      <Trouble error={start.error} />
      <Button type="submit" look="main" disabled={start.isPending || Object.keys(plain(r)).length === 0}>
        Do it to all of {ids.length}
      </Button>
    </chakra.form>
  );
}
