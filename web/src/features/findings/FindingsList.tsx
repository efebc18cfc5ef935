/** Findings of the chosen condition, worst first, with numbers and fixes that can be tried. */
import { Button, Empty } from "antd";
import { useDeferredValue, useState } from "react";
import type { Finding, Fix, PreviewView } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { elementName, findingsIn, severityIn } from "@/shared/plan/look";
import { TriedChanges } from "@/shared/plan/TriedChanges";
import { useFindings, useNoise } from "@/shared/plan/useNoise";
import { usePlan, WORST } from "@/shared/plan/usePlan";
import { focusSoon } from "@/shared/ui/focus";
import { Mark } from "@/shared/ui/marks";
import "./findings.css";

const QUIET = "note";
const RANK = ["danger", "fault", "caution", "note"];

export function FindingsList() {
  const { view, condition } = usePlan();
  const [notes, setNotes] = useState(false);
  const problem = useNoise(view).error;
  // The yard is drawn first; the list, which is long, follows at once.
  const all = useDeferredValue<Finding[] | null>(useFindings(view), null);
  if (!all) return <section className="findings" aria-label="Findings" aria-busy />;
  const found = findingsIn(all, condition).sort((a, b) => RANK.indexOf(severityIn(a, condition)) - RANK.indexOf(severityIn(b, condition)));
  const loud = found.filter((f) => f.severity !== QUIET);
  const quiet = found.filter((f) => f.severity === QUIET);
  const name = condition === WORST ? "all conditions" : elementName(view, condition);
  return (
    <section className="findings" aria-label="Findings">
      <h2>
        {loud.length} {loud.length === 1 ? "finding" : "findings"} in “{name}”
      </h2>
      {problem && <p role="alert">The findings of noise are missing: {problem.message}</p>}
      {loud.length === 0 && !problem && <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Every device gets its volts and every rail has amps to spare here." />}
      {loud.map((finding) => (
        <FindingCard key={finding.code + finding.elements.join()} finding={finding} />
      ))}
      {quiet.length > 0 && (
        <Button size="small" onClick={() => setNotes(!notes)} aria-expanded={notes}>
          {notes ? "Hide notes" : `${quiet.length} ${quiet.length === 1 ? "note" : "notes"}`}
        </Button>
      )}
      {notes && quiet.map((finding) => <FindingCard key={finding.code + finding.elements.join()} finding={finding} />)}
    </section>
  );
}

function FindingCard({ finding }: { finding: Finding }) {
  const { view, select, choose, condition } = usePlan();
  const severity = severityIn(finding, condition);
  const [open, setOpen] = useState(severity === "danger");
  const show = () => {
    select(finding.elements[0] ?? null);
    if (finding.worst && condition !== WORST && condition !== finding.worst && !finding.conditions.includes(condition)) choose(finding.worst);
  };
  return (
    <article className={`finding finding-${severity}`}>
      <button type="button" className="plain finding-title" onClick={show}>
        <Mark kind={severity} /> {finding.title}
      </button>
      <dl className="finding-numbers">
        {finding.numbers.map((n) => (
          <div key={n.label}>
            <dt>{n.label}</dt>
            <dd>{n.text}</dd>
          </div>
        ))}
      </dl>
      {finding.worst && finding.worst !== condition && finding.conditions.length > 1 && (
        <p className="muted finding-where">numbers of {elementName(view, finding.worst)}, the worst</p>
      )}
      {open ? (
        <>
          <p>{finding.cause}</p>
          <p>
            <strong>{finding.remedy}</strong>
          </p>
        </>
      ) : null}
      <div className="finding-actions">
        <Button size="small" onClick={() => setOpen(!open)} aria-expanded={open}>
          {open ? "Less" : "Why"}
        </Button>
        {finding.fixes.map((fix) => (
          <FixButton key={fix.title} fix={fix} />
        ))}
      </div>
    </article>
  );
}

function FixButton({ fix }: { fix: Fix }) {
  const { preview, edit } = usePlan();
  const [tried, setTried] = useState<PreviewView | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const look = async () => {
    try {
      setTried(await preview(fix.edits));
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  const apply = async () => {
    try {
      await edit(fix.edits);
      focusSoon(".changes header strong"); // the finding and its button are gone
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  return (
    <div className="fix">
      <Button size="small" onClick={() => (tried ? setTried(null) : void look())} aria-expanded={tried !== null}>
        {tried ? "Close" : "Try"}: {fix.title}
      </Button>
      {problem && (
        <p role="alert" className="fix-problem">
          {problem}
        </p>
      )}
      {tried && (
        // Apply stands above what is still coming in, so that it does not move away under the pointer.
        <div className="fix-preview">
          <Button size="small" type="primary" onClick={() => void apply()}>
            Apply
          </Button>
          <TriedChanges edits={fix.edits} changes={tried.changes} />
        </div>
      )}
    </div>
  );
}
