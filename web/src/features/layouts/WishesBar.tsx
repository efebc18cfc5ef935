/** What stays, what may be bought, which school is followed. */
import { InputNumber, Select } from "antd";
import { usePlanState } from "@/shared/plan/usePlan";
import { useSchools, type Wishes } from "./useLayouts";

const BUYS = [
  { value: "bec", label: "regulators" },
  { value: "capacitor", label: "capacitors" },
  { value: "filter", label: "filters" },
  { value: "cell", label: "cells of their own" },
] as const;

export function WishesBar({ wishes, wish }: { wishes: Wishes; wish: (wishes: Wishes) => void }) {
  const { view } = usePlanState();
  const schools = useSchools();
  const usual = (key: string) => (key === "fill" ? "0.9" : "open");
  const kept = (schools.data?.schools ?? []).filter((one) => (wishes.school?.[one.key] ?? usual(one.key)) !== usual(one.key)).map((one) => one.name);
  const devices = (view.plan.devices ?? []).filter((one) => one.kind !== "motor" && one.kind !== "logic");
  return (
    <div className="wishes">
      <label>
        Stays where it is
        <Select<string[]>
          mode="multiple"
          allowClear
          showSearch={{ optionFilterProp: "label" }}
          placeholder="nothing"
          value={wishes.held ?? []}
          onChange={(held) => wish({ ...wishes, held })}
          options={devices.map((one) => ({ value: one.id, label: one.name }))}
          maxTagCount="responsive"
        />
      </label>
      <label>
        May be bought
        <Select<NonNullable<Wishes["buy"]>>
          mode="multiple"
          placeholder="nothing"
          value={wishes.buy ?? []}
          onChange={(buy) => wish({ ...wishes, buy })}
          options={BUYS.map((one) => ({ ...one }))}
          maxTagCount="responsive"
        />
      </label>
      <label>
        At most, grams
        <InputNumber<number> min={0} value={wishes.max_g ?? null} placeholder="any" onChange={(max_g) => wish({ ...wishes, max_g })} />
      </label>
      <details className="wishes-schools">
        <summary>{kept.length > 0 ? `Schools kept to: ${kept.join(", ").toLowerCase()}` : "Schools: none is kept to"}</summary>
        <div className="wishes">
          {schools.data?.schools.map((school) => (
            <label key={school.key} title={school.why}>
              {school.name}
              <Select<string>
                value={wishes.school?.[school.key] ?? usual(school.key)}
                onChange={(value) => wish({ ...wishes, school: { ...wishes.school, [school.key]: value } })}
                options={school.choices.map((choice) => ({ value: choice.value, label: choice.words }))}
              />
            </label>
          ))}
        </div>
      </details>
    </div>
  );
}
