export { CardView } from "./CardView";
