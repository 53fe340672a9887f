import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";

type ThumbProps = { digest: string; size?: number; alt?: string };

/** Thumb is a product's picture, small, read only when it comes into sight. An
 * empty frame stands where none is kept. Beside its title it says nothing by itself. */
export function Thumb({ digest, size = 26, alt = "" }: ThumbProps) {
  const frame = {
    w: `${size}px`,
    h: `${size}px`,
    flexShrink: 0,
    rounded: size > 60 ? "4px" : "3px",
    borderWidth: "1px",
    borderColor: "hair",
    bg: "panel",
  } as const;
  return digest ? (
    <chakra.img
      {...frame}
      src={`/api/v1/pictures/${digest}${size > 160 ? "" : "?size=small"}`}
      alt={alt}
      loading="lazy"
      decoding="async"
      objectFit="contain"
    />
  ) : (
    <chakra.span {...frame} display="inline-block" aria-hidden="true" />
  );
}

/** Pictured is a title in a list behind its picture. */
export function Pictured({ digest, children }: { digest: string; children: ReactNode }) {
  return (
    <chakra.span display="flex" alignItems="center" gap="2" minW="0">
      <Thumb digest={digest} />
      <chakra.span truncate>{children}</chakra.span>
    </chakra.span>
  );
}
