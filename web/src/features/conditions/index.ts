export { ConditionLine } from "./ConditionLine";
