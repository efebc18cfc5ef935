/** Lines of LEDs: the resistor of each string sized as it is typed, drawn, and put onto a rail of the plan. */
import { useQuery } from "@tanstack/react-query";
import { Alert, Button, Input, InputNumber, Select } from "antd";
import { useDeferredValue, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { RailAnswer } from "@/shared/api/types";
import { elementName } from "@/shared/plan/elements";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import { amps, railTitle, si, volts } from "@/shared/ui/format";
import { Mark } from "@/shared/ui/marks";
import { LedPicture } from "./LedPicture";
import "./leds.css";

type Triple = [number, number, number];
/** Forward volts at 20 mA, least, typical and most; from memory, a part's own sheet is better. */
const COLOURS: { value: string; label: string; forward: Triple }[] = [
  { value: "white", label: "white, blue, true green", forward: [2.9, 3.1, 3.4] },
  { value: "red", label: "red, orange, yellow", forward: [1.8, 2.0, 2.3] },
  { value: "infrared", label: "infrared", forward: [1.2, 1.4, 1.6] },
];

interface Form {
  rail: string;
  name: string;
  supply: Triple | null;
  forward: Triple;
  series: number | null;
  strings: number | null;
  wanted: number | null;
  stands: number | null;
}

const WORDS = ["least", "typical", "most"] as const;

export function LedsView() {
  const { view } = usePlanState();
  const { selected } = useSelection();
  const { edit, select } = usePlanActions();
  const live = view.analysis.budget.rails;
  // Of several 5 V rails the one that gives most.
  const five = live.filter((r) => view.plan.rails.find((one) => one.id === r.id)?.nominal_v === 5).sort((a, b) => most(b) - most(a));
  const first = live.find((r) => r.id === selected) ?? five[0] ?? live[0];
  const [form, setForm] = useState<Form>({
    rail: first?.id ?? "",
    name: "Tail light",
    supply: null,
    forward: [2.9, 3.1, 3.4],
    series: 1,
    strings: 4,
    wanted: 20,
    stands: 30,
  });
  const [problem, setProblem] = useState<string | null>(null);
  const asked = useDeferredValue(form);
  const wrong = missing(form);
  const sized = useQuery({
    queryKey: ["led", view.id, view.revision, asked],
    enabled: missing(asked) === null,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () =>
      call(
        client.POST("/api/plans/{plan_id}/led", {
          params: { path: { plan_id: view.id } },
          body: {
            rail: asked.rail,
            name: asked.name.trim() || "LEDs",
            supply_v: asked.supply,
            forward_v: asked.forward,
            series: asked.series ?? 1,
            strings: asked.strings ?? 1,
            wanted_a: (asked.wanted ?? 0) / 1000,
            max_a: (asked.stands ?? 0) / 1000,
          },
        }),
      ),
  });
  const put = (fields: Partial<Form>) => setForm({ ...form, ...fields });
  const found = wrong || sized.error ? undefined : sized.data;
  const supply = (form.supply ?? found?.supply_v ?? null) as Triple | null;
  const number = (label: string, value: number | null, set: (value: number | null) => void, step = 1) => (
    <label>
      {label} <InputNumber size="small" aria-label={label} controls={false} step={step} value={value} onChange={set} />
    </label>
  );
  const triple = (title: string, values: Triple | null, set: (values: Triple) => void) => (
    <fieldset className="led-triple" aria-label={title}>
      <legend>{title}</legend>
      {WORDS.map((word, k) => (
        <InputNumber
          key={word}
          size="small"
          controls={false}
          precision={2}
          aria-label={`${title}, ${word}`}
          placeholder={word}
          value={values?.[k] ?? null}
          onChange={(value) => values && value !== null && set(values.map((one, at) => (at === k ? value : one)) as Triple)}
        />
      ))}
      <span className="muted">V</span>
    </fieldset>
  );
  const fit = async () => {
    if (!found) return;
    try {
      const after = await edit([found.edit]);
      setProblem(null);
      select(after.added[0] ?? null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  // What is on screen is of what was typed a moment ago: it is not yet to be fitted.
  const stale = asked !== form || sized.isPlaceholderData;
  const told = wrong ?? problem ?? sized.error?.message;
  return (
    <section className="leds" aria-label="LED line">
      <p className="noise-lead">
        Each string has a resistor of its own. The supply is taken high and the LED low, and the value is rounded up, so that no LED ever gets more than you
        say.
      </p>
      <div className="leds-form">
        <label>
          on{" "}
          <Select
            size="small"
            aria-label="rail that feeds the LEDs"
            value={form.rail}
            popupMatchSelectWidth={false}
            options={live.map((rail) => ({ value: rail.id, label: railTitle(elementName(view, rail.id)) }))}
            onChange={(rail: string) => put({ rail, supply: null })}
          />
        </label>
        <label>
          name <Input size="small" aria-label="name of the line" maxLength={60} value={form.name} onChange={(event) => put({ name: event.target.value })} />
        </label>
        <label>
          colour{" "}
          <Select
            size="small"
            aria-label="colour"
            value={COLOURS.find((one) => String(one.forward) === String(form.forward))?.value ?? "own"}
            options={[...COLOURS.map(({ value, label }) => ({ value, label })), { value: "own", label: "volts as typed", disabled: true }]}
            onChange={(value: string) => put({ forward: COLOURS.find((one) => one.value === value)?.forward ?? form.forward })}
            popupMatchSelectWidth={false}
          />
        </label>
        {number("in a row", form.series, (series) => put({ series }))}
        {number("strings", form.strings, (strings) => put({ strings }))}
        {number("never above, mA", form.wanted, (wanted) => put({ wanted }))}
        {number("a LED stands, mA", form.stands, (stands) => put({ stands }))}
        {triple("supply", supply, (values) => put({ supply: values }))}
        {triple("one LED", form.forward, (values) => put({ forward: values }))}
      </div>
      {told && <Alert type="error" title={told} />}
      <LedPicture
        rail={railTitle(elementName(view, form.rail))}
        series={form.series ?? 1}
        strings={form.strings ?? 1}
        ohm={found?.resistor.ohm ?? null}
        amps_a={found?.resistor.typical_a ?? null}
        over={found?.over ?? false}
      />
      {found && (
        <>
          {found.over && (
            <p role="status">
              <Mark kind="fault" /> Up to {amps(found.resistor.most_a)} through every LED, they stand {si((form.stands ?? 0) / 1000, "A")}. Ask for less.
            </p>
          )}
          <dl className="led-result">
            <dt>resistor of each string</dt>
            <dd>
              <strong>{si(found.resistor.ohm, "Ω")}</strong> (exactly {si(found.resistor.exact_ohm, "Ω")}, next in {found.resistor.series})
            </dd>
            <dt>size</dt>
            <dd>
              {found.resistor.part ? found.resistor.part_name : "larger than any resistor of the shelf: use more strings, fewer amps, or a current source"} (
              {si(found.resistor.watts, "W")} at most, run at six tenths)
            </dd>
            <dt>current of a string</dt>
            <dd>
              {amps(found.resistor.typical_a)}, {amps(found.resistor.least_a)} to {amps(found.resistor.most_a)}
              {found.resistor.least_a === 0 && ": at its least volts it stays dark"}
            </dd>
            <dt>all {found.resistor.strings} strings</dt>
            <dd>
              {amps(found.resistor.total_a)} at {volts(found.supply_v[1])}
            </dd>
          </dl>
          <Button type="primary" size="small" disabled={stale} onClick={() => void fit()}>
            Put it on {railTitle(elementName(view, form.rail))}
          </Button>
        </>
      )}
    </section>
  );
}

const MOST_SERIES = 20;
const MOST_STRINGS = 200;

const most = (rail: RailAnswer) => Math.max(...Object.values(rail.states).map((state) => state.usable_a));

/** What is still to be typed before anything can be sized. */
function missing(form: Form): string | null {
  if (!form.series || !form.strings) return "Say how many LEDs are in a row, and how many strings there are.";
  if (!form.wanted || !form.stands) return "Say the milliamperes no LED may exceed, and what one stands.";
  if (form.series > MOST_SERIES || form.series < 1) return `In a row: ${form.series} is not 1 to ${MOST_SERIES} LEDs.`;
  if (form.strings > MOST_STRINGS || form.strings < 1) return `Strings: ${form.strings} is not 1 to ${MOST_STRINGS}.`;
  if (form.wanted < 0.01 || form.stands < 0.01) return "Milliamperes: a LED is lit by 0.01 mA and more.";
  return null;
}
