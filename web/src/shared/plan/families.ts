/** Which findings belong to which view, by the first part of their code. */
import type { Finding } from "@/shared/api/types";

const FAMILIES: Record<string, readonly string[]> = {
  rails: ["load", "source", "wire", "failure", "heat", "data"],
  windows: ["window", "headroom", "protect"],
  grounds: ["ground", "signal", "compass"],
  noise: ["noise"],
};

/** Findings of a view; nothing where no finding is its own. */
export function findingsOfView(findings: Finding[], path: string): Finding[] | null {
  const family = FAMILIES[path];
  return family ? findings.filter((one) => family.includes(one.code.split(".")[0] ?? "")) : null;
}

/** The view a finding is looked at in. */
export function viewOf(finding: Finding): string {
  const family = finding.code.split(".")[0] ?? "";
  return Object.keys(FAMILIES).find((path) => FAMILIES[path]?.includes(family)) ?? "rails";
}
