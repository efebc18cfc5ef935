export { CompareView } from "./CompareView";
