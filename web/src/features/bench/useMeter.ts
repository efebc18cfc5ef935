/** The instrument at hand: what is connected, and what it shows at the step on the screen, asked again and again while it is on. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";
import type { Rack } from "./useBench";

export type Sample = components["schemas"]["SampleView"];
const EVERY_MS = 250;

export function useRack() {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(null);
  const found = useQuery({ queryKey: ["rack"], queryFn: () => call(client.GET("/api/meter")) });
  const put = async (work: Promise<Rack>) => {
    try {
      queries.setQueryData(["rack"], await work);
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
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
    supply: (on: boolean, volts: number, limit_a: number) => put(call(client.POST("/api/plans/{plan_id}/bench/supply", { ...path, body: { on, volts, limit_a } }))),
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
        const sample = await call(client.POST("/api/plans/{plan_id}/bench/sample", { params: { path: { plan_id: view.id } }, body: { step, trial, training } }));
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
