export { People } from "./people";
