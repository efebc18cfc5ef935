export { BenchView } from "./BenchView";
