import { createBrowserRouter, type LazyRouteFunction, type RouteObject } from "react-router";
import { Frame } from "./parts/frame";
import { Broken, Lost } from "./parts/lost";

/** stop is a stop's package, loaded when it is first opened. */
const stop =
  <K extends string>(
    load: () => Promise<Record<NoInfer<K>, React.ComponentType>>,
    name: K,
  ): LazyRouteFunction<RouteObject> =>
  async () => ({ Component: (await load())[name] });

const today = () => import("./screens/today");
const sources = () => import("./screens/sources");
const watching = () => import("./screens/watching");
const preparing = () => import("./screens/preparing");
const sending = () => import("./screens/sending");

export const router = createBrowserRouter([
  {
    element: <Frame />,
    hydrateFallbackElement: <div />,
    errorElement: <Broken />,
    children: [
      {
        errorElement: <Broken />,
        children: [
          { index: true, lazy: stop(today, "Today") },
          { path: "keeping", lazy: stop(today, "Keeping") },
          { path: "sources", lazy: stop(sources, "Sources") },
          { path: "sources/feeds/:id", lazy: stop(sources, "Feed") },
          { path: "hand-in", lazy: stop(sources, "HandIn") },
          { path: "match", lazy: stop(() => import("./screens/matching"), "Match") },
          { path: "weigh", lazy: stop(() => import("./screens/weighing"), "Weigh") },
          { path: "price", lazy: stop(() => import("./screens/prices"), "Price") },
          { path: "prepare", lazy: stop(preparing, "Prepare") },
          { path: "prepare/new", lazy: stop(preparing, "Make") },
          { path: "prepare/sheet", lazy: stop(() => import("./screens/preparing/sheet"), "Sheet") },
          { path: "prepare/:id", lazy: stop(preparing, "Editor") },
          { path: "send", lazy: stop(sending, "Send") },
          { path: "send/:id", lazy: stop(sending, "SendOut") },
          { path: "orders", lazy: stop(() => import("./screens/orders"), "Orders") },
          { path: "orders/:id", lazy: stop(() => import("./screens/orders"), "Order") },
          { path: "watch", lazy: stop(watching, "Watch") },
          { path: "watch/listings/:id", lazy: stop(watching, "ThroughTime") },
          { path: "people", lazy: stop(() => import("./screens/people"), "People") },
          { path: "places", lazy: stop(() => import("./screens/places"), "Places") },
          { path: "products", lazy: stop(() => import("./screens/products"), "Products") },
          { path: "products/:id", lazy: stop(() => import("./screens/products"), "DocketPage") },
          { path: "*", element: <Lost /> },
        ],
      },
    ],
  },
]);
