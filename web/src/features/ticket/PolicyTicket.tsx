/** What the builder decides where builders differ, and the margins findings are judged by. */
import { usePlanState } from "@/shared/plan/usePlan";
import { Choice } from "./Choice";
import { NumberField } from "./NumberField";

export function PolicyTicket() {
  const { view } = usePlanState();
  const policy = view.plan.policy;
  if (!policy) return null;
  const percent = (label: string, field: keyof typeof policy) => (
    <NumberField key={field} label={label} element="policy" field={field} value={Number(policy[field])} factor={100} unit="%" />
  );
  return (
    <>
      <h2>Policy of this plan</h2>
      <p className="muted">Defaults are common practice, not law. Every finding that depends on one of these choices says so.</p>
      <div className="fields">
        {percent("on-board rating counts", "board_derate_frac")}
        {percent("stand-alone rating", "alone_derate_frac")}
        {percent("thin margin under", "thin_margin_frac")}
        <NumberField label="headroom wanted" element="policy" field="thin_headroom_v" value={policy.thin_headroom_v} unit="V" />
        <NumberField label="still air" element="policy" field="still_air_c" value={policy.still_air_c} unit="°C" />
        <NumberField label="moving air" element="policy" field="moving_air_c" value={policy.moving_air_c} unit="°C" />
        <NumberField label="heat margin" element="policy" field="hot_margin_k" value={policy.hot_margin_k} unit="K" />
        <NumberField label="wire rise" element="policy" field="wire_rise_k" value={policy.wire_rise_k} unit="K" />
        <NumberField label="punch held" element="policy" field="punch_s" value={policy.punch_s} unit="s" />
        {percent("wire drop over", "wire_drop_frac")}
        <Choice
          label="regulators on one rail"
          value={policy.paralleling}
          options={[
            { value: "never", label: "never tie them" },
            { value: "linear", label: "linear may share" },
            { value: "any", label: "tie them" },
          ]}
          edits={(value) => [{ op: "set", element: "policy", field: "paralleling", value }]}
        />
        <Choice
          label="regulator before a regulator"
          value={policy.cascade}
          options={[
            { value: "allowed", label: "allowed when it holds" },
            { value: "never", label: "a no-no" },
          ]}
          edits={(value) => [{ op: "set", element: "policy", field: "cascade", value }]}
        />
        {percent("measured draws ±", "tol_measured_frac")}
        {percent("maker's sheet ±", "tol_sheet_frac")}
        {percent("reported ±", "tol_reported_frac")}
        {percent("guesses ±", "tol_guess_frac")}
      </div>
    </>
  );
}
