import { ChakraProvider } from "@chakra-ui/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import { type FieldValues, type UseFormReturn, useForm } from "react-hook-form";
import { createMemoryRouter, RouterProvider } from "react-router";
import { vi } from "vitest";
import { Problem } from "../api/client";
import { newClient } from "../api/queries";
import { system } from "../theme";
import { Form } from "./form";

/** show draws something as it stands on a screen: with the theme, the router and a store of answers of its own. */
export function show(ui: React.ReactNode, at = "/", path = "*") {
  const router = createMemoryRouter(
    path === "*"
      ? [{ path, element: ui }]
      : [
          { path, element: ui },
          { path: "*", element: <p>another screen</p> },
        ],
    { initialEntries: [at] },
  );
  return render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={newClient({ queries: { retry: false } })}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>,
  );
}

/** server stands in for the API: what each question is answered with, by method
 * and path. What was asked of it is kept. A status and words are an error. */
export function server(answers: Record<string, unknown>) {
  const asked: { what: string; query?: string; body?: unknown }[] = [];
  vi.stubGlobal("fetch", async (to: Request | string, init?: RequestInit) => {
    const request = typeof to === "string" ? new Request(new URL(to, location.href), init) : to;
    const { pathname, search } = new URL(request.url);
    const what = `${request.method} ${pathname}`;
    const text = await request.text();
    const json = request.headers.get("Content-Type")?.includes("json");
    asked.push({ what, ...(search && { query: search }), ...(text && { body: json ? JSON.parse(text) : text }) });
    const said = answers[what] ?? (request.method === "GET" ? { rows: [], total: 0, next: "" } : {});
    const failed = said instanceof Problem;
    return new Response(JSON.stringify(failed ? { detail: said.message } : said), {
      status: failed ? said.status : 200,
      headers: { "Content-Type": "application/json" },
    });
  });
  return { writes: () => asked.filter((x) => !x.what.startsWith("GET ")), asked };
}

/** showInForm draws fields in a form that holds values; what it gives back is the form. */
export function showInForm<V extends FieldValues>(values: V, fields: React.ReactNode, error?: unknown) {
  const held: { form?: UseFormReturn<V> } = {};
  function Around() {
    held.form = useForm<V>({ defaultValues: values as never });
    return (
      <Form form={held.form} onSubmit={(e) => e?.preventDefault()} error={error}>
        {fields}
      </Form>
    );
  }
  show(<Around />);
  return { now: () => held.form?.getValues() as V };
}
