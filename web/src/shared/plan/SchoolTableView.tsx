/** Ways to do one thing side by side, each with its numbers on this build, to try and apply. */
import { Button } from "antd";
import { useState } from "react";
import { ApiError } from "@/shared/api/client";
import type { Change, Edit, SchoolTable } from "@/shared/api/types";
import { TriedChanges } from "./TriedChanges";
import { usePlanActions } from "./usePlan";
import "./schools.css";

export function SchoolTableView({ table }: { table: SchoolTable }) {
  const { edit, preview } = usePlanActions();
  const [tried, setTried] = useState<{ key: string; edits: Edit[]; changes: Change[] } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const labels = [...new Set(table.schools.flatMap((s) => s.cells.map((c) => c.label)))];
  const attempt = (work: Promise<unknown>) =>
    void work.then(
      () => setProblem(null),
      (caught: unknown) => setProblem(caught instanceof ApiError ? caught.message : String(caught)),
    );
  return (
    <section aria-label={table.question}>
      <h2>{table.question}</h2>
      <div className="wide">
        <table className="school">
          <thead>
            <tr>
              <th scope="col">
                <span className="sr-only">what</span>
              </th>
              {table.schools.map((s) => (
                <th key={s.key} scope="col" className={s.default ? "is-default" : ""}>
                  {s.title}
                  {s.default ? <span className="school-default"> default</span> : null}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {labels.map((label) => (
              <tr key={label}>
                <th scope="row">{label}</th>
                {table.schools.map((s) => {
                  const cell = s.cells.find((c) => c.label === label);
                  return (
                    <td key={s.key} className={cell?.bad ? "is-bad" : ""}>
                      {cell ? `${cell.bad ? "▲ " : ""}${cell.text.replace("-", "−")}` : "–"}
                    </td>
                  );
                })}
              </tr>
            ))}
            <tr>
              <th scope="row">
                <span className="sr-only">try or apply</span>
              </th>
              {table.schools.map((s) => (
                <td key={s.key}>
                  {s.refused ? (
                    <div className="school-against">■ {s.refused}</div>
                  ) : s.edits.length > 0 ? (
                    <>
                      <Button
                        size="small"
                        aria-label={`${tried?.key === s.key ? "Close" : "Try"}: ${s.title}`}
                        onClick={() =>
                          tried?.key === s.key
                            ? setTried(null)
                            : attempt(preview(s.edits).then((after) => setTried({ key: s.key, edits: s.edits, changes: after.changes })))
                        }
                      >
                        {tried?.key === s.key ? "Close" : "Try"}
                      </Button>{" "}
                      <Button
                        size="small"
                        aria-label={`Apply: ${s.title}`}
                        type={tried?.key === s.key ? "primary" : "default"}
                        onClick={() => attempt(edit(s.edits).then(() => setTried(null)))}
                      >
                        Apply
                      </Button>
                    </>
                  ) : (
                    <span className="muted">as it is</span>
                  )}
                  {s.against && <div className="school-against">▲ {s.against}</div>}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
      {tried && <TriedChanges edits={tried.edits} changes={tried.changes} />}
      <p className="muted">{table.why}</p>
    </section>
  );
}
