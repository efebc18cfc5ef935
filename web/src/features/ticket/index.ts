export { Ticket } from "./Ticket";
