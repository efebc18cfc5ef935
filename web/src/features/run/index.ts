export { RunView } from "./RunView";
