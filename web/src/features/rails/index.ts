export { RailsView } from "./RailsView";
