export { SeekBox, type Doing } from "./SeekBox";
