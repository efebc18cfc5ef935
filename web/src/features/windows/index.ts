export { WindowsView } from "./WindowsView";
