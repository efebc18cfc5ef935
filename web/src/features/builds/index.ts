export { BuildsView } from "./BuildsView";
