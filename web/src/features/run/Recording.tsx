/** A flight that was recorded becomes a scenario: its throttle or its amps drive the motors. */
import { Button } from "antd";
import { useRef, useState } from "react";
import { call, client } from "@/shared/api/client";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";

export function Recording({ show }: { show: (scenario: string) => void }) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const read = async (picked: File | undefined) => {
    if (!picked) return;
    setBusy(true);
    setProblem(null);
    try {
      const body = { name: picked.name.replace(/\.[^.]*$/, "").slice(0, 80), text: await picked.text() };
      const scenario = await call(client.POST("/api/plans/{plan_id}/scenarios/recording", { params: { path: { plan_id: view.id } }, body }));
      await edit([{ op: "add", kind: "scenario", value: scenario as unknown as Record<string, never> }]);
      show(scenario.id);
    } catch (caught) {
      setProblem(`${picked.name}: ${caught instanceof Error ? caught.message : String(caught)}`);
    } finally {
      setBusy(false);
      if (file.current) file.current.value = "";
    }
  };
  return (
    <>
      <Button size="small" loading={busy} onClick={() => file.current?.click()} title="CSV with a column of time and one of throttle or amps">
        Read a flight…
      </Button>
      <input ref={file} type="file" accept=".csv,.txt,text/csv" hidden aria-label="Recorded flight" onChange={(event) => void read(event.target.files?.[0])} />
      {problem && (
        <p className="acts-problem" role="alert">
          {problem}
        </p>
      )}
    </>
  );
}
