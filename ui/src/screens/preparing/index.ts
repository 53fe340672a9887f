export { Editor } from "./editor";
export { Prepare } from "./prepare";
export { Sheet } from "./sheet";
