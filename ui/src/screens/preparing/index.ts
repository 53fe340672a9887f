export { Editor } from "./editor";
export { Make } from "./make";
export { Prepare } from "./prepare";
