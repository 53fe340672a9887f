import { chakra } from "@chakra-ui/react";

/** Heading is over one part of the terms. */
export const Heading = chakra("h2", { base: { fontWeight: "700", fontSize: "14.5px", mb: "1" } });
