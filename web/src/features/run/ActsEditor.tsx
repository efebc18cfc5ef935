/** A scenario's acts as a timetable to change: dragged along the time line, or typed with their units. */
import { Button, Select } from "antd";
import { useRef, useState, type PointerEvent } from "react";
import type { Edit } from "@/shared/api/types";
import { CHOICES } from "@/shared/api/constants";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import { si } from "@/shared/ui/format";
import { typedAmps } from "./amps";
import { Beginning } from "./Beginning";
import { Typed } from "./Typed";
import type { Act, ActKind, ScenarioSeen } from "./useRun";

const KINDS: { value: ActKind; label: string }[] = [
  { value: "plug", label: "pack in" },
  { value: "unplug", label: "pack out" },
  { value: "connect", label: "USB or supply in" },
  { value: "disconnect", label: "USB or supply out" },
  { value: "throttle", label: "throttle" },
  { value: "brake", label: "brake" },
  { value: "state", label: "a device's state" },
  { value: "draw", label: "a step of current" },
  { value: "strap", label: "a strap" },
  { value: "fail", label: "a part fails" },
];
/** Fields of an act that are typed with a unit; one with a hint may be left empty. */
const TYPED: Partial<Record<ActKind, { field: string; label: string; hint?: string }[]>> = {
  plug: [
    { field: "anti_spark_ohm", label: "through", hint: "its own plug" },
    { field: "anti_spark_s", label: "for" },
  ],
  throttle: [{ field: "over_s", label: "over" }],
  brake: [{ field: "for_s", label: "for" }],
  draw: [{ field: "over_s", label: "over" }],
};
/** A plug that is pushed in by hand closes more than once. */
const BOUNCES = [0, 1, 3, 6].map((one) => ({ value: one, label: one === 0 ? "at once" : one === 1 ? "bounces once" : `bounces ${one} times` }));
const UNIT: Record<string, string> = { _s: "s", _ohm: "Ω" };
const unitOf = (field: string) => UNIT[`_${field.split("_").at(-1)}`] ?? "";

export function ActsEditor({ seen }: { seen: ScenarioSeen }) {
  const { view, busy } = usePlanState();
  const { edit, undo } = usePlanActions();
  const [problem, setProblem] = useState<string | null>(null);
  const { scenario } = seen;
  const acts = scenario.acts ?? [];
  const own = view.plan.scenarios?.some((one) => one.id === scenario.id) ?? false;
  /** A shipped scenario becomes the plan's own with the first change. */
  const send = async (edits: Edit[]) => {
    const first: Edit[] = own ? [] : [{ op: "add", kind: "scenario", value: scenario as unknown as Record<string, never> }];
    try {
      await edit([...first, ...edits]);
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    }
  };
  const set = (field: string, value: unknown) => send([{ op: "set", element: scenario.id, field, value: value as never }]);
  const type = (field: string, text: string) => send([{ op: "set_quantity", element: scenario.id, field, text }]);
  const add = (kind: ActKind) => {
    const made = fresh(kind, view.plan, scenario.duration_s / 2);
    if (made === null) setProblem("This plan has nothing for such an act.");
    else void set("acts", [...acts, made]);
  };
  return (
    <section className="acts" aria-label="Acts of the scenario">
      <TimeLine acts={acts} words={seen.acts} duration={scenario.duration_s} move={(index, at) => void set(`acts.${index}.at_s`, at)} />
      <Beginning scenario={scenario} set={set} />
      <table className="acts-table">
        <thead>
          <tr>
            <th>at</th>
            <th>act</th>
            <th />
            <th />
          </tr>
        </thead>
        <tbody>
          {acts.map((act, index) => (
            <tr key={`${index}-${act.act}`}>
              <td>
                <Typed label={`time of act ${index + 1}`} value={si(act.at_s, "s")} send={(text) => void type(`acts.${index}.at_s`, text)} />
              </td>
              <td>{seen.acts[index]}</td>
              <td className="acts-fields">
                <Fields act={act} index={index} set={set} type={type} />
              </td>
              <td>
                <Button
                  size="small"
                  disabled={busy}
                  aria-label={`take act ${index + 1} out`}
                  onClick={() =>
                    void set(
                      "acts",
                      acts.filter((_, k) => k !== index),
                    )
                  }
                >
                  ✕
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="acts-foot">
        <Select<ActKind> size="small" aria-label="add an act" placeholder="+ act" options={KINDS} value={null} onChange={add} popupMatchSelectWidth={false} />
        <span>
          ends at <Typed label="duration" value={si(scenario.duration_s, "s")} send={(text) => void type("duration_s", text)} />
        </span>
        <Button size="small" onClick={() => void send([{ op: "duplicate", element: scenario.id }])}>
          A copy of this scenario
        </Button>
        {own && (
          <Button size="small" onClick={() => void send([{ op: "remove", element: scenario.id }])}>
            {seen.shipped ? "As it was shipped" : "Take this scenario out"}
          </Button>
        )}
        <Button size="small" disabled={busy || !view.undo} onClick={undo}>
          Undo
        </Button>
      </div>
      {problem && (
        <p className="acts-problem" role="alert">
          {problem}
        </p>
      )}
    </section>
  );
}

function Fields({
  act,
  index,
  set,
  type,
}: {
  act: Act;
  index: number;
  set: (field: string, value: unknown) => Promise<void>;
  type: (field: string, text: string) => Promise<void>;
}) {
  const { view } = usePlanState();
  const at = `acts.${index}`;
  const devices = (view.plan.devices ?? []).map((one) => ({ value: one.id, label: one.name }));
  const values = act as unknown as Record<string, number>;
  return (
    <>
      {act.act === "throttle" && (
        <Select
          size="small"
          aria-label="throttle"
          value={Math.round(act.to_frac * 100)}
          options={[0, 10, 20, 35, 50, 70, 85, 100].map((one) => ({ value: one, label: `${one} %` }))}
          onChange={(one: number) => void set(`${at}.to_frac`, one / 100)}
        />
      )}
      {(act.act === "state" || act.act === "draw") && (
        <Select
          size="small"
          showSearch
          optionFilterProp="label"
          aria-label="device"
          value={act.device}
          options={devices}
          onChange={(one: string) => void set(`${at}.device`, one)}
          popupMatchSelectWidth={false}
        />
      )}
      {act.act === "state" && (
        <Select
          size="small"
          aria-label="state"
          value={act.state}
          options={CHOICES["TurnDevice.state"].map((one) => ({ value: one, label: one }))}
          onChange={(one: string) => void set(`${at}.state`, one)}
        />
      )}
      {act.act === "draw" && <Typed label="amps" value={String(act.value)} send={(text) => void set(`${at}.value`, typedAmps(text) ?? text)} />}
      {act.act === "plug" && (
        <Select
          size="small"
          aria-label="how the plug goes in"
          value={act.bounces ?? 0}
          options={BOUNCES}
          onChange={(one: number) => void set(`${at}.bounces`, one)}
          popupMatchSelectWidth={false}
        />
      )}
      {(act.act === "connect" || act.act === "disconnect") && (
        <Select
          size="small"
          aria-label="source"
          value={act.inlet}
          options={(view.plan.inlets ?? []).filter((one) => one.kind !== "cell").map((one) => ({ value: one.id, label: one.name }))}
          onChange={(one: string) => void set(`${at}.inlet`, one)}
          popupMatchSelectWidth={false}
        />
      )}
      {act.act === "fail" && (
        <>
          <Select
            size="small"
            showSearch
            optionFilterProp="label"
            aria-label="part"
            value={act.element}
            options={[...devices, ...(view.plan.supplies ?? []).map((one) => ({ value: one.id, label: one.name }))]}
            onChange={(one: string) => void set(`${at}.element`, one)}
            popupMatchSelectWidth={false}
          />
          <Select
            size="small"
            aria-label="how"
            value={act.how ?? "open"}
            options={["open", "short"].map((one) => ({ value: one, label: one }))}
            onChange={(one: string) => void set(`${at}.how`, one)}
          />
        </>
      )}
      {act.act === "strap" && (
        <Select
          size="small"
          mode="multiple"
          aria-label="bridged to"
          value={act.selected}
          options={strapChoices(view.plan, act.supply)}
          onChange={(one: string[]) => void set(`${at}.selected`, one)}
          popupMatchSelectWidth={false}
        />
      )}
      {(TYPED[act.act] ?? []).map((one) => (
        <span key={one.field}>
          {one.label}{" "}
          <Typed
            label={`${one.label}, act ${index + 1}`}
            value={values[one.field] == null ? "" : si(values[one.field], unitOf(one.field))}
            hint={one.hint}
            send={(text) => void (one.hint && text.trim() === "" ? set(`${at}.${one.field}`, null) : type(`${at}.${one.field}`, text))}
          />
        </span>
      ))}
    </>
  );
}

type PlanDocument = ReturnType<typeof usePlanState>["view"]["plan"];

function strapChoices(plan: PlanDocument, supply: string) {
  const strap = plan.supplies?.find((one) => one.id === supply);
  const choices = strap?.kind === "strap" ? strap.choices : [];
  return choices.map((one) => ({ value: one, label: plan.rails.find((rail) => rail.id === one)?.name ?? one }));
}

/** A new act with the first element it can be about; null where the plan has none. */
function fresh(kind: ActKind, plan: PlanDocument, at_s: number): Record<string, unknown> | null {
  const device = plan.devices?.find((one) => one.kind !== "motor") ?? plan.devices?.[0];
  const inlet = plan.inlets?.find((one) => one.kind !== "cell");
  const strap = plan.supplies?.find((one) => one.kind === "strap");
  const base = { act: kind, at_s };
  switch (kind) {
    case "plug":
    case "unplug":
    case "brake":
      return base;
    case "throttle":
      return { ...base, to_frac: 1, over_s: 0.05 };
    case "connect":
    case "disconnect":
      return inlet ? { ...base, inlet: inlet.id } : null;
    case "state":
      return device ? { ...base, device: device.id, state: "peak" } : null;
    case "draw":
      return device ? { ...base, device: device.id, value: 0.5, over_s: 0 } : null;
    case "strap":
      return strap?.kind === "strap" ? { ...base, supply: strap.id, selected: strap.selected } : null;
    case "fail":
      return device ? { ...base, element: device.id, how: "open" } : null;
  }
}

/** The acts on one line of time; each can be dragged. */
function TimeLine({ acts, words, duration, move }: { acts: Act[]; words: string[]; duration: number; move: (index: number, at: number) => void }) {
  const line = useRef<HTMLDivElement>(null);
  const [held, hold] = useState<{ index: number; at: number } | null>(null);
  const timeAt = (event: PointerEvent) => {
    const box = line.current?.getBoundingClientRect();
    if (!box) return 0;
    return Number((Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1) * duration).toPrecision(3));
  };
  return (
    <div className="acts-line" ref={line}>
      {acts.map((act, index) => {
        const at = held?.index === index ? held.at : act.at_s;
        return (
          <button
            type="button"
            key={`${index}-${act.act}`}
            className="acts-flag"
            style={{ left: `${(at / duration) * 100}%` }}
            title={`${words[index]} at ${si(at, "s")}`}
            aria-label={`${words[index]}, at ${si(at, "s")}`}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              hold({ index, at: act.at_s });
            }}
            onPointerMove={(event) => held?.index === index && hold({ index, at: timeAt(event) })}
            onPointerUp={() => {
              if (held && held.at !== act.at_s) move(held.index, held.at);
              hold(null);
            }}
          >
            {index + 1}
          </button>
        );
      })}
    </div>
  );
}
