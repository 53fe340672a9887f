export { HandIn } from "./bookmark";
export { Feed } from "./feed";
export { Sources } from "./sources";
