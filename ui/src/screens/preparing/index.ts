export { Editor } from "./editor";
export { Prepare } from "./prepare";
