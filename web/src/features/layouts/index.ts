export { LayoutsView } from "./LayoutsView";
