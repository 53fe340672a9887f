export { Send } from "./send";
export { SendOut } from "./sendout";
