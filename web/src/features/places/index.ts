export { PlacesBox } from "./PlacesBox";
