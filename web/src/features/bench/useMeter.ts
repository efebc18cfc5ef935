/** The instrument at hand: what is connected, and what it shows at the step on the screen, asked again and again while it is on. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";
import type { Rack } from "./useBench";

export type Sample = components["schemas"]["SampleView"];
const EVERY_MS = 250;
/** While a supply is on, whether it still is: it may have been switched off by itself. */
const SUPPLY_MS = 1000;

export function useRack() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const found = useQuery({
    queryKey: ["rack"],
    queryFn: () => call(client.GET("/api/meter")),
    refetchInterval: (query) => (query.state.data?.supply_on ? SUPPLY_MS : false),
  });
  const put = async (work: Promise<Rack>) => {
    try {
      queries.setQueryData(["rack"], await work);
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
      // A supply that was refused is off: what is shown of it has to say so.
      void queries.invalidateQueries({ queryKey: ["rack"] });
    }
    void queries.invalidateQueries({ queryKey: ["bench", view.id] });
  };
  const path = { params: { path: { plan_id: view.id } } };
  /** Ours measures what lies on its bench: of another build it says nothing here. */
  const here = (training: number | null) => !found.data?.meter?.stands_in || (found.data.laid_plan === view.id && found.data.training === training);
  return {
    rack: found.data,
    here,
    problem,
    refresh: () => queries.invalidateQueries({ queryKey: ["rack"] }),
    connect: (role: "meter" | "supply", address: string) => put(call(client.POST("/api/meter/connect", { body: { role, address } }))),
    disconnect: (role: "meter" | "supply") => put(call(client.POST("/api/meter/disconnect", { body: { role } }))),
    standIn: (training: number | null) => put(call(client.POST("/api/plans/{plan_id}/bench/standin", { ...path, body: { training } }))),
    allow: (host: string) => put(call(client.POST("/api/meter/allow", { body: { host } }))),
    supply: (on: boolean, volts: number, limit_a: number, who: string, training: number | null) =>
      put(call(client.POST("/api/plans/{plan_id}/bench/supply", { ...path, body: { on, volts, limit_a, who, training } }))),
  };
}

/** What the instrument shows now, or why it shows nothing; null while there is none. */
export function useSample(step: string | null, trial: string, training: number | null, on: boolean) {
  const { view } = usePlanState();
  const [held, setHeld] = useState<{ at: string; sample: Sample } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const alive = useRef(0);
  const at = `${view.id} ${view.revision} ${step} ${trial} ${training}`;
  useEffect(() => {
    if (!on || step === null) return undefined;
    const mine = ++alive.current;
    let timer = 0;
    const ask = async () => {
      try {
        const sample = await call(
          client.POST("/api/plans/{plan_id}/bench/sample", { params: { path: { plan_id: view.id } }, body: { step, trial, training } }),
        );
        if (mine !== alive.current) return;
        setHeld({ at, sample });
        setProblem(null);
      } catch (caught) {
        if (mine !== alive.current) return;
        setHeld(null);
        setProblem(caught instanceof ApiError ? caught.message : String(caught));
      }
      if (mine === alive.current) timer = window.setTimeout(() => void ask(), EVERY_MS);
    };
    void ask();
    return () => {
      alive.current += 1;
      window.clearTimeout(timer);
    };
  }, [at, on, step, trial, training, view.id]);
  // What was shown at another place is nobody's reading here.
  return { sample: on && held?.at === at ? held.sample : null, problem: on ? problem : null };
}
