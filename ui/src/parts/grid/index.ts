export { Grid } from "./grid";
export type { Column, Rows, Sorting } from "./state";
