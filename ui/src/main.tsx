import { ChakraProvider } from "@chakra-ui/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { newClient } from "./api/queries";
import { router } from "./router";
import { system } from "./theme";
import { applyMode } from "./theme/mode";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/wght.css";

applyMode();
matchMedia("(prefers-color-scheme: dark)").addEventListener("change", applyMode);

// What changes is told by events; a second is long enough not to ask twice.
const client = newClient({ queries: { staleTime: 1000, refetchOnWindowFocus: false, retry: 1 } });

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <ChakraProvider value={system}>
        <QueryClientProvider client={client}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ChakraProvider>
    </StrictMode>,
  );
