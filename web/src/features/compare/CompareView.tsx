/** Plans of a build side by side. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Select, Spin } from "antd";
import { Fragment, useState } from "react";
import { call, client } from "@/shared/api/client";
import { usePlanState } from "@/shared/plan/usePlan";
import { Mark } from "@/shared/ui/marks";
import "./compare.css";

export function CompareView() {
  const { view } = usePlanState();
  const own = view.build.plans.map((p) => p.id);
  const [chosen, setChosen] = useState<number[]>([view.id, ...own.filter((id) => id !== view.id)].slice(0, 4));
  const ids = chosen.filter((id) => own.includes(id));
  const found = useQuery({
    queryKey: ["compare", ids, view.build.plans.map((p) => p.revision), view.revision],
    enabled: ids.length >= 2,
    queryFn: () => call(client.GET("/api/plans/compare", { params: { query: { ids } } })),
  });
  const table = found.data;
  return (
    <div className="compare">
      <label>
        Plans{" "}
        <Select
          mode="multiple"
          aria-label="Plans to compare"
          value={ids}
          onChange={setChosen}
          maxCount={6}
          options={view.build.plans.map((p) => ({ value: p.id, label: p.name }))}
          style={{ minWidth: "min(340px, 100%)" }}
        />
      </label>
      {ids.length < 2 && <p>Choose two plans. A copy of this one is made under the plan&apos;s name in the header.</p>}
      {found.isFetching && !table && <Spin />}
      {found.error && <Alert type="error" title={found.error.message} />}
      {table && ids.length >= 2 && (
        <>
          <table>
            <thead>
              <tr>
                <th scope="col">
                  <span className="sr-only">what</span>
                </th>
                {table.names.map((name, k) => (
                  <th key={k} scope="col">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row, k) => (
                <Fragment key={row.group + row.label}>
                  {table.rows[k - 1]?.group !== row.group && (
                    <tr className="compare-group">
                      <th colSpan={table.names.length + 1} scope="rowgroup">
                        {row.group}
                      </th>
                    </tr>
                  )}
                  <tr>
                    <th scope="row">{row.label}</th>
                    {row.cells.map((cell, c) => (
                      <td key={c} className={cell.bad ? "is-bad" : cell.best ? "is-best" : ""}>
                        {cell.bad ? "◆ " : cell.best ? "✓ " : ""}
                        {cell.text}
                      </td>
                    ))}
                  </tr>
                </Fragment>
              ))}
              <tr className="compare-group">
                <th colSpan={table.names.length + 1} scope="rowgroup">
                  findings
                </th>
              </tr>
              {table.findings.map((finding) => (
                <tr key={finding.title}>
                  <th scope="row">{finding.title}</th>
                  {finding.severities.map((severity, c) => (
                    <td key={c} className={severity === null ? "is-best" : `mark-${severity}`} title={finding.titles[c] ?? undefined}>
                      {severity === null ? "free of it" : <Mark kind={severity} />} {severity}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {table.differences.map((words, k) => (
            <section key={k}>
              <h2>
                “{table.names[k + 1]}” against “{table.names[0]}”
              </h2>
              {words.length === 0 ? (
                <p>Wired alike.</p>
              ) : (
                <ul>
                  {words.map((line) => (
                    <li key={line}>{line}</li>
                  ))}
                </ul>
              )}
            </section>
          ))}
        </>
      )}
    </div>
  );
}
