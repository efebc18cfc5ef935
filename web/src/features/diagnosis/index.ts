export { DiagnosisView } from "./DiagnosisView";
