export { Keeping } from "./keeping";
export { Today } from "./today";
