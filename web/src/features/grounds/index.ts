export { GroundsView } from "./GroundsView";
