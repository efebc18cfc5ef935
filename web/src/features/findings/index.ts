export { ChangesStrip } from "./ChangesStrip";
export { FindingsList } from "./FindingsList";
