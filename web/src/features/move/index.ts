export { MoveBox } from "./MoveBox";
