/** Findings of the chosen condition, worst first, with numbers and fixes that can be tried. */
import { Button, Empty, Segmented } from "antd";
import { CHOICES } from "@/shared/api/constants";
import { useDeferredValue, useState } from "react";
import { Link, useLocation } from "react-router";
import type { Finding, Fix, PreviewView, Severity } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { besideLink, regulatedRails } from "@/shared/plan/beside";
import { elementName } from "@/shared/plan/elements";
import { findingsOfView } from "@/shared/plan/families";
import { findingsIn, holdsIn, severityIn } from "@/shared/plan/marks";
import { TriedChanges } from "@/shared/plan/TriedChanges";
import { useFindings, useFixes, useNoise, useRunFindings } from "@/shared/plan/useNoise";
import { WORST, usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { focusSoon } from "@/shared/ui/focus";
import { Mark } from "@/shared/ui/marks";
import "./findings.css";

const QUIET = "note";
type Scope = "all" | "view" | "element";
const RANK: readonly Severity[] = CHOICES["Finding.severity"];

export function FindingsList() {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { selected } = useSelection();
  const { pathname } = useLocation();
  const [notes, setNotes] = useState(false);
  const [scope, setScope] = useState<Scope>("all");
  const problem = useNoise(view).error;
  const running = useRunFindings(view).data?.waiting ?? 0;
  const { fixes, checking } = useFixes(view);
  // The yard is drawn first; the list, which is long, follows at once.
  const all = useDeferredValue<Finding[] | null>(useFindings(view), null);
  if (!all) return <section className="findings" aria-label="Findings" aria-busy />;
  const found = findingsIn(all, condition).sort((a, b) => RANK.indexOf(severityIn(a, condition)) - RANK.indexOf(severityIn(b, condition)));
  const here = new Set(found.map((f) => f.key));
  const under = new Map<string, Finding[]>();
  for (const one of found) if (one.under && here.has(one.under)) under.set(one.under, [...(under.get(one.under) ?? []), one]);
  const every = found.filter((f) => !f.under || !here.has(f.under));
  const ofView = findingsOfView(every, pathname.split("/").at(-1) ?? "");
  const scopes: Record<Scope, Finding[]> = { all: every, view: ofView ?? [], element: every.filter((f) => selected !== null && f.elements.includes(selected)) };
  const asked: Scope = (scope === "element" && !selected) || (scope === "view" && !ofView) ? "all" : scope;
  const heads = scopes[asked];
  const loud = alike(heads.filter((f) => f.severity !== QUIET));
  const quiet = alike(heads.filter((f) => f.severity === QUIET));
  const card = ([finding, ...more]: Finding[]) =>
    finding && (
      <FindingCard
        key={finding.key}
        finding={finding}
        more={more}
        under={under.get(finding.key) ?? []}
        fixes={fixes.get(finding.key)}
        tried={fixes}
        checking={checking}
      />
    );
  const name = condition === WORST ? "all conditions" : elementName(view, condition);
  return (
    <section className="findings" aria-label="Findings">
      <h2>
        {loud.length} {loud.length === 1 ? "finding" : "findings"} in “{name}”
      </h2>
      <Scopes scopes={scopes} asked={asked} choose={setScope} element={selected ? elementName(view, selected) : null} viewed={ofView !== null} />
      {problem && <p role="alert">The findings of noise are missing: {problem.message}</p>}
      {/* Its line is always there: what is below must not move under a hand when it comes and goes. */}
      <p className="muted running" role="status">
        {running > 0 && `Running it through: ${running} ${running === 1 ? "scenario" : "scenarios"} to come.`}
      </p>
      {loud.length === 0 && asked !== "all" && <p className="muted">None of them here.</p>}
      {loud.length === 0 && asked === "all" && !problem && (
        <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Every device gets its volts and every rail has amps to spare here." />
      )}
      {loud.map(card)}
      {quiet.length > 0 && (
        <Button size="small" onClick={() => setNotes(!notes)} aria-expanded={notes}>
          {notes ? "Hide notes" : `${quiet.length} ${quiet.length === 1 ? "note" : "notes"}`}
        </Button>
      )}
      {notes && quiet.map(card)}
    </section>
  );
}

const loudest = (findings: Finding[]) => findings.filter((f) => f.severity !== QUIET).length;

interface ScopesProps {
  scopes: Record<Scope, Finding[]>;
  asked: Scope;
  choose: (scope: Scope) => void;
  element: string | null;
  viewed: boolean;
}

/** Which findings are listed: all, those this view is about, those of what is selected; each with its count. */
function Scopes({ scopes, asked, choose, element, viewed }: ScopesProps) {
  const options = [
    { value: "all" as const, label: `all ${loudest(scopes.all)}` },
    ...(viewed ? [{ value: "view" as const, label: `this view ${loudest(scopes.view)}` }] : []),
    ...(element ? [{ value: "element" as const, label: `${element.length > 16 ? `${element.slice(0, 15)}…` : element} ${loudest(scopes.element)}` }] : []),
  ];
  if (options.length < 2) return null;
  return <Segmented<Scope> size="small" className="finding-scopes" aria-label="Which findings" options={options} value={asked} onChange={choose} />;
}

const MANY = 3;

/** Findings of one rule that say the same and are to be cured the same way, from three on, are one card. */
function alike(findings: Finding[]): Finding[][] {
  const groups = new Map<string, Finding[]>();
  for (const one of findings) {
    const key = `${one.code} ${one.severity} ${one.remedy}`;
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  return [...groups.values()].flatMap((group) => (group.length < MANY ? group.map((one) => [one]) : [group]));
}

interface CardProps {
  finding: Finding;
  /** Others that say the same of other elements. */
  more: Finding[];
  /** What follows from it and goes with it. */
  under: Finding[];
  /** Those that were tried and cure it. */
  fixes: Fix[] | undefined;
  /** Those of every finding. */
  tried: ReadonlyMap<string, Fix[]>;
  /** Whether they are still being tried. */
  checking: boolean;
}

function FindingCard({ finding, more, under, fixes, tried, checking }: CardProps) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { select, choose } = usePlanActions();
  const { search } = useLocation();
  const severity = severityIn(finding, condition);
  const [open, setOpen] = useState(severity === "danger");
  const [following, setFollowing] = useState(false);
  const relieved = regulatedRails(view.plan).find((rail) => finding.elements.includes(rail.id))?.id;
  const show = () => {
    select(finding.elements[0] ?? null);
    if (finding.worst && condition !== WORST && condition !== finding.worst && !holdsIn(finding, condition)) choose(finding.worst);
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
      {finding.worst && finding.worst !== condition && Object.keys(finding.by_condition).length !== 1 && (
        <p className="muted finding-where">numbers of {elementName(view, finding.worst)}, the worst</p>
      )}
      <Others label={`and ${more.length} alike`} findings={more} />
      {open ? (
        <>
          <p>{finding.cause}</p>
          <p>
            <strong>{finding.remedy}</strong>
          </p>
          {severity !== "note" && (
            <p>
              <Link to={`/plans/${view.id}/layouts`}>What layout would cure this?</Link>
              {relieved && (
                <>
                  {" · "}
                  <Link to={besideLink(view.id, relieved, search)}>A second regulator beside it</Link>
                </>
              )}
            </p>
          )}
        </>
      ) : null}
      <div className="finding-actions">
        <Button size="small" onClick={() => setOpen(!open)} aria-expanded={open}>
          {open ? "Less" : "Why"}
        </Button>
        {fixes?.map((fix) => (
          <FixButton key={fix.title} fix={fix} />
        ))}
        {under.length > 0 && (
          <Button size="small" onClick={() => setFollowing(!following)} aria-expanded={following}>
            {following ? "Hide what follows" : `${under.length} ${under.length === 1 ? "finding follows" : "findings follow"} from it`}
          </Button>
        )}
        {!fixes && finding.proposed > 0 && <span className="muted finding-checking">{checking ? "Checking what would cure it…" : ""}</span>}
      </div>
      {following &&
        under.map((one) => <FindingCard key={one.key} finding={one} more={[]} under={[]} fixes={tried.get(one.key)} tried={tried} checking={checking} />)}
    </article>
  );
}

/** Findings told in a line each, under another. */
function Others({ label, findings }: { label: string; findings: Finding[] }) {
  const { select } = usePlanActions();
  const { condition } = useSelection();
  if (findings.length === 0) return null;
  return (
    <details className="finding-others">
      <summary>{label}</summary>
      <ul>
        {findings.map((one) => (
          <li key={one.key}>
            <button type="button" className="plain finding-other" onClick={() => select(one.elements[0] ?? null)}>
              <Mark kind={severityIn(one, condition)} /> {one.title}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function FixButton({ fix }: { fix: Fix }) {
  const { preview, edit } = usePlanActions();
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
