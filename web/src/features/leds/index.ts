export { LedsView } from "./LedsView";
