export { HookupView } from "./HookupView";
