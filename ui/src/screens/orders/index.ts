export { Order } from "./one";
export { Orders } from "./orders";
