export { LoginGate } from "./LoginGate";
