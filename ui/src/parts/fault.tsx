import { chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** Fault is what is wrong with a field, right below it. */
export function Fault({ children }: { children?: ReactNode }) {
  return children ? (
    <chakra.div role="alert" color="loss" fontSize="12.5px" mt="1">
      {children}
    </chakra.div>
  ) : null;
}
