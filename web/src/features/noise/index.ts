export { NoiseView } from "./NoiseView";
