export { ThroughTime } from "./listing";
export { Watch } from "./watch";
