import { chakra } from "@chakra-ui/react";
import { type ReactNode, useId, useState } from "react";
import ReactCrop, { type PercentCrop } from "react-image-crop";
import { Button, Input, Key, Quiet, Select } from "../../../parts/controls";
import { type Choosing, lookAt, type Recipe } from "./choice";
import "react-image-crop/dist/ReactCrop.css";

type Props = {
  c: Choosing;
  title: string;
  noMarks: boolean;
  side: number;
  cropping: boolean;
  onCrop: (on: boolean) => void;
  onTurn: () => void;
};

/** Retouch is one picture, large, with what is done to it. */
export function Retouch({ c, title, noMarks, side, cropping, onCrop, onTurn }: Props) {
  const x = c.list[c.at];
  const r = x.recipe;
  const made = c.asKept(c.at);
  const put = (by: Partial<Recipe>) => c.redo(c.at, by);
  return (
    <chakra.div display="grid" gridTemplateColumns="minmax(240px, 380px) minmax(240px, 1fr)" gap="5">
      <div>
        {cropping ? (
          <Cropping original={x.original} r={r} onPart={(crop) => put({ crop })} />
        ) : (
          <chakra.img
            src={lookAt(x.original, r)}
            alt={x.text || `${title}, picture ${c.at + 1}`}
            maxW="100%"
            maxH="380px"
            borderWidth="1px"
            borderColor="hair"
            bg="panel"
          />
        )}
        <chakra.div fontSize="12.5px" color={made?.words ? "loss" : "quiet"} aria-live="polite">
          {made
            ? [
                `${made.width} × ${made.height} ${made.kind}, ${Math.ceil(made.bytes / 1000)} kB`,
                made.small && "smaller than wanted: it isn't enlarged unless you say so",
                made.words,
              ]
                .filter(Boolean)
                .join(" · ")
            : "Not kept yet; its size is told then."}
        </chakra.div>
      </div>
      <chakra.div display="flex" flexDirection="column" gap="2.5">
        <chakra.div display="flex" gap="2" flexWrap="wrap">
          <Button size="small" onClick={onTurn}>
            Turn <Key>t</Key>
          </Button>
          <Button
            size="small"
            aria-pressed={r.mirror ?? false}
            onClick={() => put({ mirror: !r.mirror, crop: undefined })}
          >
            Mirror <Key>m</Key>
          </Button>
          <Button size="small" aria-pressed={cropping} onClick={() => onCrop(!cropping)}>
            Choose the part <Key>c</Key>
          </Button>
          {r.crop && (
            <Button size="small" onClick={() => put({ crop: undefined })}>
              All of it
            </Button>
          )}
          <Button size="small" aria-pressed={r.white ?? false} onClick={() => put({ white: !r.white })}>
            White background <Key>w</Key>
          </Button>
          <Button size="small" onClick={() => c.drop(c.at)}>
            Leave out <Key>Delete</Key>
          </Button>
        </chakra.div>
        <Row label="Shape">
          {(id) => (
            <chakra.span display="flex" gap="2">
              <Select
                id={id}
                value={r.shape ?? ""}
                onChange={(e) => put({ shape: e.currentTarget.value as Recipe["shape"] })}
              >
                <option value="">as it is</option>
                <option value="square">square</option>
                <option value="4:3">4 : 3, lying</option>
                <option value="3:4">3 : 4, standing</option>
              </Select>
              {r.shape && (
                <Select
                  aria-label="How it gets its shape"
                  value={r.pad ? "pad" : ""}
                  onChange={(e) => put({ pad: e.currentTarget.value === "pad" })}
                >
                  <option value="">cut off at the sides</option>
                  <option value="pad">white at the sides</option>
                </Select>
              )}
            </chakra.span>
          )}
        </Row>
        <Row label="Longer side">
          {(id) => (
            <chakra.span display="flex" gap="2" alignItems="center">
              <Input
                id={id}
                figures
                w="84px"
                h="30px"
                inputMode="numeric"
                placeholder="as it is"
                value={r.side || ""}
                onChange={(e) => put({ side: Math.min(3000, Number(e.target.value.replace(/\D/g, ""))) })}
              />
              pixels
              {(r.side ?? 0) > 0 && (
                <chakra.label display="flex" gap="1.5" alignItems="center">
                  <input
                    type="checkbox"
                    checked={r.enlarge ?? false}
                    onChange={(e) => put({ enlarge: e.target.checked })}
                  />
                  enlarge a smaller one
                </chakra.label>
              )}
              {side > 0 && r.side !== side && (
                <Button size="small" look="plain" onClick={() => put({ side })}>
                  as the place wants: {side}
                </Button>
              )}
            </chakra.span>
          )}
        </Row>
        <Row label="Brightness">
          {(id) => (
            <chakra.span display="flex" gap="2" alignItems="center">
              <input
                id={id}
                type="range"
                min={-60}
                max={60}
                step={5}
                value={r.brightness ?? 0}
                onChange={(e) => put({ brightness: Number(e.target.value) })}
              />
              <chakra.span fontFamily="mono" w="44px" textAlign="right">
                {(r.brightness ?? 0) > 0 ? `+${r.brightness}` : String(r.brightness ?? 0).replace("-", "−")}
              </chakra.span>
            </chakra.span>
          )}
        </Row>
        <Row label="Caption">
          {(id) =>
            noMarks && !r.caption ? (
              <Quiet id={id}>The place forbids captions and marks.</Quiet>
            ) : (
              <chakra.span display="flex" gap="2">
                <Input
                  id={id}
                  h="30px"
                  flex="1"
                  maxLength={80}
                  value={r.caption ?? ""}
                  onChange={(e) => put({ caption: e.target.value })}
                />
                {r.caption && (
                  <Select
                    aria-label="Where the caption stands"
                    w="110px"
                    value={r.at ?? ""}
                    onChange={(e) => put({ at: e.currentTarget.value as Recipe["at"] })}
                  >
                    <option value="">at the bottom</option>
                    <option value="top">at the top</option>
                  </Select>
                )}
              </chakra.span>
            )
          }
        </Row>
        <Row label="To be seen">
          {(id) => (
            <Input
              id={id}
              h="30px"
              w="100%"
              maxLength={300}
              value={x.text ?? ""}
              placeholder={made?.seen || (c.at === 0 ? title : `${title}, view ${c.at + 1}`)}
              title="Said to those who can't see it"
              onChange={(e) => c.change(c.at, { text: e.target.value })}
            />
          )}
        </Row>
        <Row label="Written as">
          {(id) => (
            <Select
              id={id}
              w="180px"
              value={r.kind ?? ""}
              onChange={(e) => put({ kind: e.currentTarget.value as Recipe["kind"] })}
            >
              <option value="">what the original is</option>
              <option value="jpeg">jpeg</option>
              <option value="png">png</option>
            </Select>
          )}
        </Row>
      </chakra.div>
    </chakra.div>
  );
}

function Row({ label, children }: { label: string; children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <chakra.div display="grid" gridTemplateColumns="96px 1fr" gap="2" alignItems="center">
      <chakra.label htmlFor={id} color="quiet">
        {label}
      </chakra.label>
      <div>{children(id)}</div>
    </chakra.div>
  );
}

const whole = 10_000; // a box is in ten-thousandths

/** Cropping is the picture, turned, with the part that is kept: dragged, or
 * moved and sized by the arrow keys at its handles. */
function Cropping({ original, r, onPart }: { original: string; r: Recipe; onPart: (box: Recipe["crop"]) => void }) {
  const now = r.crop ?? { x: 0, y: 0, w: whole, h: whole };
  const [part, setPart] = useState<PercentCrop>({
    unit: "%",
    x: now.x / 100,
    y: now.y / 100,
    width: now.w / 100,
    height: now.h / 100,
  });
  const keep = (p: PercentCrop) => {
    const x = Math.round(p.x * 100);
    const y = Math.round(p.y * 100);
    const w = Math.min(Math.round(p.width * 100), whole - x);
    const h = Math.min(Math.round(p.height * 100), whole - y);
    if (w > 0 && h > 0) onPart({ x, y, w, h });
  };
  return (
    <ReactCrop
      crop={part}
      onChange={(_, p) => setPart(p)}
      onComplete={(_, p) => keep(p)}
      keepSelection
      ruleOfThirds
      ariaLabels={{
        cropArea: "The part that is kept: arrow keys move it",
        nwDragHandle: "Its top left corner",
        nDragHandle: "Its top edge",
        neDragHandle: "Its top right corner",
        eDragHandle: "Its right edge",
        seDragHandle: "Its bottom right corner",
        sDragHandle: "Its bottom edge",
        swDragHandle: "Its bottom left corner",
        wDragHandle: "Its left edge",
      }}
    >
      <img src={lookAt(original, { turn: r.turn, mirror: r.mirror })} alt="" style={{ maxHeight: 380 }} />
    </ReactCrop>
  );
}
