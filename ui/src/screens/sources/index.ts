export { Feed } from "./feed";
export { Sources } from "./sources";
