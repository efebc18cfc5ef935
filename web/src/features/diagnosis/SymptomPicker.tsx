/** What is wrong: typed in one's own words or chosen; where, since which change, and what else is known of it. */
import { Alert, Button, Input, Segmented, Select } from "antd";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { usePlanState } from "@/shared/plan/usePlan";
import type { Complaint, Symptom } from "./useDiagnosis";

type Known = "yes" | "no" | "?";

interface Props {
  symptoms: readonly Symptom[];
  /** What the last step of the plan touched. */
  changed: readonly string[];
  asked: Complaint | null;
  ask: (complaint: Complaint | null) => void;
  begin: (complaint: Complaint) => Promise<void>;
}

/** Words of what is typed that stand in the title or in other words for it; every word has to. */
function fits(one: Symptom, typed: string): boolean {
  const text = `${one.title} ${one.also}`.toLowerCase();
  return typed
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word.length > 2)
    .every((word) => text.includes(word.replace(/(s|ing|ed)$/, "")));
}

export function SymptomPicker({ symptoms, changed, asked, ask, begin }: Props) {
  const { view } = usePlanState();
  const [params] = useSearchParams();
  const [text, setText] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const one = symptoms.find((symptom) => symptom.id === asked?.symptom) ?? null;
  const groups = useMemo(() => [...new Set(symptoms.map((symptom) => symptom.group_words))], [symptoms]);
  const choose = (id: string) => {
    const symptom = symptoms.find((found) => found.id === id);
    const wanted = params.get("where");
    const where = symptom?.places.find((place) => place.id === wanted)?.id ?? symptom?.places[0]?.id ?? null;
    setProblem(null);
    ask({ symptom: id, where, since: asked?.since ?? [], evidence: [], text: "", who: "" });
  };
  const known = (tried: string): Known => {
    const found = asked?.evidence?.find((answer) => answer.tried === tried);
    return found === undefined ? "?" : found.yes ? "yes" : "no";
  };
  const say = (tried: string, said: Known) => {
    if (!asked) return;
    const others = (asked.evidence ?? []).filter((answer) => answer.tried !== tried);
    ask({ ...asked, evidence: said === "?" ? others : [...others, { tried, yes: said === "yes", text: "" }] });
  };
  const go = async () => {
    if (!asked) return;
    setBusy(true);
    try {
      await begin({ ...asked, text });
    } catch (caught) {
      setProblem(caught instanceof Error ? caught.message : String(caught));
    } finally {
      setBusy(false);
    }
  };
  const elements = [...(view.plan.devices ?? []), ...(view.plan.supplies ?? []), ...(view.plan.filters ?? [])];
  return (
    <section className="symptom" aria-label="What is wrong">
      <label className="symptom-what">
        What does it do?
        <Select<string>
          showSearch
          autoFocus
          value={one?.id ?? null}
          placeholder="reboots on the bench after a minute, lines with throttle, no telemetry …"
          onChange={choose}
          filterOption={(typed, option) => {
            const found = symptoms.find((symptom) => symptom.id === option?.value);
            return found !== undefined && fits(found, typed);
          }}
          notFoundContent="None of those known. Try fewer words, or choose the nearest."
          options={groups.map((group) => ({
            label: group,
            options: symptoms.filter((symptom) => symptom.group_words === group).map((symptom) => ({ value: symptom.id, label: symptom.title })),
          }))}
          style={{ width: "100%" }}
        />
      </label>
      {one && one.places.length === 0 && (
        <Alert type="info" title={`This build has nothing that could show this.${one.near.length > 0 ? ` Nearest: ${one.near.join(", ")}.` : ""}`} />
      )}
      {one && one.places.length > 0 && asked && (
        <>
          {one.places.length > 1 && (
            <label>
              Where?
              <Select<string>
                showSearch={{ optionFilterProp: "label" }}
                value={asked.where ?? one.places[0]?.id ?? null}
                onChange={(where) => ask({ ...asked, where, evidence: [] })}
                options={one.places.map((place) => ({ value: place.id, label: place.name }))}
                style={{ width: "100%" }}
              />
            </label>
          )}
          <label>
            Changed last before it
            <Select<string[]>
              mode="multiple"
              allowClear
              showSearch={{ optionFilterProp: "label" }}
              value={asked.since ?? []}
              placeholder="nothing"
              onChange={(since) => ask({ ...asked, since })}
              options={elements.map((element) => ({ value: element.id, label: element.name }))}
              style={{ width: "100%" }}
            />
            {changed.length > 0 && (asked.since ?? []).length === 0 && (
              <Button size="small" type="link" onClick={() => ask({ ...asked, since: [...changed] })}>
                As in the last step: {changed.map((id) => elements.find((element) => element.id === id)?.name ?? id).join(", ")}
              </Button>
            )}
          </label>
          {one.elsewhere.length > 0 && (
            <fieldset className="symptom-elsewhere">
              <legend>Does it do it elsewhere, as far as you know?</legend>
              {one.elsewhere.map((place) => (
                <div key={place.id}>
                  <span>{place.name}</span>
                  <Segmented<Known>
                    size="small"
                    aria-label={place.name}
                    value={known(place.id)}
                    onChange={(said) => say(place.id, said)}
                    options={[
                      { value: "?", label: "not known" },
                      { value: "yes", label: "does" },
                      { value: "no", label: "fine" },
                    ]}
                  />
                </div>
              ))}
            </fieldset>
          )}
          <label>
            In your words, for the log
            <Input.TextArea value={text} maxLength={8000} autoSize={{ minRows: 1, maxRows: 4 }} onChange={(event) => setText(event.target.value)} />
          </label>
          <Button type="primary" loading={busy} onClick={() => void go()}>
            Look into it
          </Button>
        </>
      )}
      {problem && (
        <p role="alert" className="quantity-problem">
          {problem}
        </p>
      )}
    </section>
  );
}
