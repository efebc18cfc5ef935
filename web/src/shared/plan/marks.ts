/** Findings as marks: on elements, on conditions, on signals. */
import type { Finding, RailAnswer, Severity, SupplyAnswer } from "@/shared/api/types";
import { worst, type MarkKind } from "@/shared/ui/marks";
import { WORST } from "./usePlan";

/** Whether a finding is true in a condition; one without conditions is true in each. */
export function holdsIn(finding: Finding, condition: string): boolean {
  const conditions = Object.keys(finding.by_condition);
  return conditions.length === 0 || conditions.includes(condition);
}

export function findingsIn(findings: Finding[], condition: string): Finding[] {
  return condition === WORST ? findings : findings.filter((f) => holdsIn(f, condition));
}

/** How a finding weighs in a condition: it may be worse in one than in another. */
export function severityIn(finding: Finding, condition: string): Severity {
  return finding.by_condition[condition] ?? finding.severity;
}

/** The worst of a condition's own findings; of all findings, those of no condition too, in the worst. */
export function conditionMark(findings: Finding[], condition: string): MarkKind {
  const marks = findings.filter((f) => condition === WORST || condition in f.by_condition).map((f) => severityIn(f, condition));
  return worst(marks.filter((mark) => mark !== "note"));
}

/** Marks by element over the findings of a condition. */
export function elementMarks(findings: Finding[], condition: string): Map<string, MarkKind> {
  const marks = new Map<string, MarkKind>();
  for (const finding of findingsIn(findings, condition)) {
    const severity = severityIn(finding, condition);
    if (severity === "note") continue;
    for (const element of finding.elements) marks.set(element, worst([marks.get(element) ?? "ok", severity]));
  }
  return marks;
}

/** How the shift of a signal's reference is judged in a condition. */
export function shiftMark(findings: Finding[], signal: string, condition: string): MarkKind {
  const found = findings.find((f) => f.code === "ground.shift" && f.elements[0] === signal);
  return found?.by_condition[condition] ?? "ok";
}

/** The condition something is shown in: the chosen one, or its own worst. */
export function shownIn(answer: RailAnswer | SupplyAnswer | { worst: string }, condition: string): string {
  return condition === WORST ? answer.worst : condition;
}
