export { NewBuildView } from "./NewBuildView";
