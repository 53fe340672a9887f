import { createBrowserRouter } from "react-router";
import { Frame } from "./parts/frame";
import { Match } from "./screens/match";
import { Price } from "./screens/price";
import { Products } from "./screens/products";
import { Send } from "./screens/send";
import { SendOut } from "./screens/send/sendout";
import { Sources } from "./screens/sources";
import { Feed } from "./screens/sources/feed";
import { Today } from "./screens/today";
import { Watch } from "./screens/watch";

export const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { index: true, element: <Today /> },
      { path: "sources", element: <Sources /> },
      { path: "sources/feeds/:id", element: <Feed /> },
      { path: "match", element: <Match /> },
      { path: "price", element: <Price /> },
      { path: "send", element: <Send /> },
      { path: "send/:id", element: <SendOut /> },
      { path: "watch", element: <Watch /> },
      { path: "products", element: <Products /> },
      { path: "*", element: <Today /> },
    ],
  },
]);
