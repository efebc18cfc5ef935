/** The log: a line of time with steps, bench, flights, measurements, changes, symptoms and notes; each opened below. */
import { Alert, Button, Dropdown, Empty, Input, Segmented, Spin } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { usePlanState } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import { EntryForm, HEADS } from "./EntryForm";
import { FlightPanel } from "./FlightPanel";
import { FlightReader } from "./FlightReader";
import { useLog, useLogActions, type EntryKind, type LogLine } from "./useLog";
import "./log.css";

const WRITTEN: readonly EntryKind[] = ["symptom", "measurement", "change", "note", "evidence"];
const SHAPES: Record<LogLine["kind"], string> = { step: "❘", bench: "■", flight: "▶", measurement: "◆", symptom: "●", change: "▲", note: "○", evidence: "◇" };
const STORIES: Record<Exclude<LogLine["story"], "">, string> = { open: "being looked into", settled: "settled", left: "left for now" };
const FILTERS = ["all", "flights", "written", "steps"] as const;
type Filter = (typeof FILTERS)[number];
const SHOWN = 400;

const keyOf = (line: LogLine) => `${line.kind}-${line.of}`;

function kept(line: LogLine, filter: Filter): boolean {
  if (filter === "flights") return line.kind === "flight";
  if (filter === "steps") return line.kind === "step" || line.kind === "bench";
  if (filter === "written") return line.id > 0 && line.kind !== "flight";
  return true;
}

export function LogView() {
  const { view } = usePlanState();
  const log = useLog();
  const { back } = useLogActions();
  const [writing, setWriting] = useState<EntryKind | null>(null);
  const [correcting, setCorrecting] = useState<LogLine | null>(null);
  const [reading, setReading] = useState<File | null>(null);
  const [text, setText] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const [opened, setOpened] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const flightFile = useRef<HTMLInputElement>(null);
  const logFile = useRef<HTMLInputElement>(null);
  const lines = useMemo(() => log.data?.lines ?? [], [log.data]);
  const wanted = text.trim().toLowerCase();
  const found = lines.filter(
    (line) => kept(line, filter) && (!wanted || `${line.title} ${line.text} ${line.place} ${line.kind}`.toLowerCase().includes(wanted)),
  );
  const shown = found.slice(-SHOWN).reverse();
  const open = lines.find((line) => keyOf(line) === opened) ?? null;
  const flights = lines.filter((line) => line.kind === "flight");
  const done = (made?: number) => {
    setWriting(null);
    setCorrecting(null);
    setReading(null);
    if (made !== undefined) setOpened((now) => (correcting ? now : `${reading ? "flight" : (writing ?? "note")}-${made}`));
  };
  const readBack = async (file: File | undefined) => {
    if (!file) return;
    try {
      const made = await back(await file.text());
      setSaid(made === 0 ? "Nothing in it that is not here already." : `${made} ${made === 1 ? "entry" : "entries"} joined to the log.`);
    } catch (caught) {
      setSaid(caught instanceof Error ? caught.message : String(caught));
    }
  };
  if (log.error) return <Alert type="error" title={log.error.message} />;
  if (!log.data) return <Spin size="small" />;
  return (
    <div className="log">
      <div className="log-tools">
        <Link to={`/plans/${view.id}/wrong`}>
          <Button type="primary" tabIndex={-1}>
            Something is wrong…
          </Button>
        </Link>
        <Button onClick={() => flightFile.current?.click()}>Read a flight…</Button>
        {WRITTEN.map((kind) => (
          <Button key={kind} onClick={() => setWriting(kind)}>
            {HEADS[kind]}
          </Button>
        ))}
        <span className="log-space" />
        <Input.Search
          allowClear
          aria-label="Find in the log"
          placeholder="find in the log"
          value={text}
          onChange={(event) => setText(event.target.value)}
          style={{ width: 150 }}
        />
        <Dropdown
          trigger={["click"]}
          menu={{
            items: [
              { key: "json", label: <a href={`/api/plans/${view.id}/log.json`}>JSON</a> },
              { key: "csv", label: <a href={`/api/plans/${view.id}/log.csv`}>CSV</a> },
              { key: "back", label: "Read back…", onClick: () => logFile.current?.click() },
              { key: "print", label: "Print", onClick: () => window.print() },
            ],
          }}
        >
          <Button>Take out ▾</Button>
        </Dropdown>
        <input
          ref={flightFile}
          type="file"
          accept=".csv,.txt,text/csv"
          hidden
          aria-label="A recorded flight"
          onChange={(event) => setReading(event.target.files?.[0] ?? null)}
        />
        <input
          ref={logFile}
          type="file"
          accept=".json,.csv"
          hidden
          aria-label="A log to read back"
          onChange={(event) => void readBack(event.target.files?.[0])}
        />
      </div>
      {said && <Alert type="info" title={said} closable={{ onClose: () => setSaid(null) }} />}
      <TimeLine lines={found} opened={opened} open={setOpened} />
      {open && open.id > 0 && <Opened line={open} lines={lines} flights={flights} correct={() => setCorrecting(open)} />}
      <div className="log-filter">
        <Segmented<Filter> size="small" options={[...FILTERS]} value={filter} onChange={setFilter} aria-label="What is shown" />
        <span className="muted">
          {found.length} of {lines.length}
          {found.length > SHOWN ? `, the last ${SHOWN} shown` : ""}
        </span>
      </div>
      {shown.length === 0 ? (
        <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Nothing here yet. Read a flight, or write down what was measured and seen." />
      ) : (
        <ol className="log-list">
          {shown.map((line) => (
            <li key={keyOf(line)} className={opened === keyOf(line) ? "is-chosen" : ""}>
              <button type="button" className="log-row" onClick={() => setOpened(keyOf(line))} aria-pressed={opened === keyOf(line)}>
                <span className={`log-shape log-${line.kind}`} aria-hidden>
                  {SHAPES[line.kind]}
                </span>
                <span className="log-when">{when(line.at)}</span>
                <span className="log-kind">{line.kind}</span>
                <span className="log-title">
                  {line.title}
                  {line.value !== null && <strong> {si(line.value, line.unit)}</strong>}
                  {line.pictures.length > 0 && <span className="muted"> · {line.pictures.length} ▣</span>}
                  {line.corrected && <span className="muted"> · corrected</span>}
                  {line.story && <span className="muted"> · {STORIES[line.story]}</span>}
                </span>
                <span className="muted">
                  {line.plan_name}, step {line.step}
                </span>
              </button>
            </li>
          ))}
        </ol>
      )}
      {writing && <EntryForm kind={writing} close={done} />}
      {correcting && correcting.kind !== "step" && correcting.kind !== "bench" && <EntryForm kind={correcting.kind} of={correcting} close={done} />}
      {reading && <FlightReader file={reading} close={done} />}
    </div>
  );
}

function when(at: string): string {
  return new Date(at).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

/** Things in their order, evenly: hours and months between two of them say little, and would hide what was done in one evening. */
function TimeLine({ lines, opened, open }: { lines: LogLine[]; opened: string | null; open: (key: string) => void }) {
  const last = lines.slice(-14);
  const newest = useRef<HTMLDivElement>(null);
  useEffect(() => {
    void newest.current?.scrollTo({ left: newest.current.scrollWidth });
  }, [last.length]);
  if (last.length === 0) return null;
  return (
    <div ref={newest} className="log-time" role="group" aria-label="The last things, in their order">
      {last.map((line) => (
        <button
          key={keyOf(line)}
          type="button"
          aria-pressed={opened === keyOf(line)}
          title={`${when(line.at)}: ${line.title}`}
          onClick={() => open(keyOf(line))}
        >
          <span className={`log-shape log-${line.kind}`} aria-hidden>
            {SHAPES[line.kind]}
          </span>
          <span className="log-time-title">{line.kind === "step" ? `step ${line.step}` : line.title}</span>
        </button>
      ))}
    </div>
  );
}

/** What was read before at the same place, in the same unit: one reading each, so that nobody knows its error. */
function Earlier({ line, lines }: { line: LogLine; lines: LogLine[] }) {
  const like = (one: LogLine) => one.kind === "measurement" && one.unit === line.unit && one.value !== null && one.id !== line.id;
  const earlier = lines.filter((one) => like(one) && one.at <= line.at && (line.place !== "" ? one.place === line.place : one.title === line.title)).at(-1);
  if (line.value === null || earlier?.value === null || earlier === undefined) return null;
  const by = line.value - earlier.value;
  return (
    <p>
      Before: <strong>{si(earlier.value, line.unit)}</strong> ({earlier.title}, {when(earlier.at)}), now{" "}
      <strong>
        {by > 0 ? "+" : ""}
        {si(by, line.unit)}
      </strong>
      . <span className="muted">One reading each: what is less than the instrument and the moment make is no difference.</span>
    </p>
  );
}

function Opened({ line, lines, flights, correct }: { line: LogLine; lines: LogLine[]; flights: LogLine[]; correct: () => void }) {
  const { view } = usePlanState();
  const facts = [
    ["where", line.place],
    ["condition", line.condition],
    ["instrument", line.instrument],
    ["who", line.who],
  ].filter(([, value]) => value);
  return (
    <section className="log-opened" aria-label="Opened entry">
      <h2>
        {line.title}
        {line.value !== null && ` · ${si(line.value, line.unit)}`} <span className="muted">{when(line.at)}</span>{" "}
        <Button size="small" onClick={correct}>
          Correct…
        </Button>
      </h2>
      {line.text && <p className="log-text">{line.text}</p>}
      {facts.length > 0 && (
        <dl>
          {facts.map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      )}
      {line.pictures.length > 0 && (
        <div className="log-pictures">
          {line.pictures.map((picture, index) => (
            <img key={picture} src={`/api/plans/${view.id}/log/picture/${picture}`} alt={`Picture ${index + 1} of ${line.title}`} />
          ))}
        </div>
      )}
      {line.story && (
        <p>
          <Link to={`/plans/${line.plan}/wrong?story=${line.id}`}>{line.story === "settled" ? "The whole story" : "Go on looking into it"}</Link>
        </p>
      )}
      {line.kind === "measurement" && <Earlier line={line} lines={lines} />}
      {line.kind === "flight" && (
        <p>
          <Link to={`/plans/${view.id}/wrong`}>Something was wrong in it…</Link>
        </p>
      )}
      {line.kind === "flight" && <FlightPanel entry={line} others={flights.filter((one) => one.id !== line.id)} />}
    </section>
  );
}
