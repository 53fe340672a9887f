import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import { type FieldValues, type UseFormReturn, useForm } from "react-hook-form";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach } from "vitest";
import { system } from "../theme";
import { Form } from "./form";

afterEach(cleanup);

/** show draws something as it stands on a screen: with the theme, the router and a store of answers of its own. */
export function show(ui: React.ReactNode, at = "/") {
  const router = createMemoryRouter([{ path: "*", element: ui }], { initialEntries: [at] });
  return render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>,
  );
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
