export { WorkingPanel } from "./WorkingPanel";
