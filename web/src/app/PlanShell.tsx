/** The frame around every view of a plan: header, condition line, navigation, the view, and the panel beside it. */
import { Button, Result, Spin } from "antd";
import { Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { Outlet, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import { ConditionLine } from "@/features/conditions";
import { MoveBox } from "@/features/move";
import { PlacesBox } from "@/features/places";
import { SeekBox, type Doing } from "@/features/seek";
import { WorkingPanel } from "@/features/working";
import { INSTANT, useInstant, withInstant } from "@/shared/plan/instant";
import {
  PlanActionsContext,
  PlanStateContext,
  SelectionContext,
  WORST,
  type PlanActions,
  type PlanState,
  type Selection,
  type WorkingAsk,
} from "@/shared/plan/usePlan";
import { Header } from "./Header";
import { KeysHelp } from "./KeysHelp";
import { Nav, VIEWS } from "./Nav";
import { SidePanel } from "./SidePanel";
import { SkipLinks } from "./SkipLinks";
import "./shell.css";
import { focusSoon } from "@/shared/ui/focus";
import { useKeys, useLetterKeys, type KeyMap } from "@/shared/ui/useKeys";
import { usePlanStore } from "./usePlanStore";

export function PlanShell() {
  const planId = Number(useParams().planId);
  const letters = useLetterKeys();
  const store = usePlanStore(planId);
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const [search, setSearch] = useSearchParams();
  const [asked, setAsked] = useState<WorkingAsk | null>(null);
  const [help, setHelp] = useState(false);
  const [seeking, setSeeking] = useState(false);
  const [moving, setMoving] = useState<string | null>(null);
  const [placing, setPlacing] = useState<string | null>(null);
  const now = useInstant(store.view, search.get("r"), search.get("t"));
  const view = useMemo(() => (store.view && now ? withInstant(store.view, now) : store.view), [now, store.view]);

  const conditions = useMemo(() => view?.analysis.budget.conditions ?? [], [view]);
  const wanted = search.get("c");
  const condition = wanted === WORST || conditions.some((c) => c.id === wanted) ? (wanted as string) : (hardest(view) ?? WORST);
  const standing = condition === INSTANT ? (now?.like ?? WORST) : condition;
  const selected = search.get("s");

  const put = useCallback(
    (name: string, value: string | null) => {
      // From the address itself: two changes in a row must not start from the same old one.
      const next = new URLSearchParams(window.location.search);
      if (value === null) next.delete(name);
      else next.set(name, value);
      setSearch(next, { replace: true });
    },
    [setSearch],
  );
  const choose = useCallback((id: string) => put("c", id), [put]);
  const select = useCallback((id: string | null) => put("s", id), [put]);
  const { step, edit } = store;
  // The keyboard goes back to where the ticket was opened.
  const leave = useCallback(() => {
    if (selected && document.activeElement?.closest(".shell-side")) focusSoon(`.shell-view [data-element="${selected}"]`);
    select(null);
  }, [select, selected]);
  const device = view?.plan.devices?.some((d) => d.id === selected) ? selected : null;
  const removable = device !== null || view?.plan.supplies?.some((s) => s.id === selected);

  const keys = useMemo<KeyMap>(() => {
    const map: KeyMap = {
      "0": () => choose(WORST),
      "ctrl+z": () => void step("undo"),
      "ctrl+shift+z": () => void step("redo"),
      "ctrl+y": () => void step("redo"),
      "?": () => setHelp(true),
      "/": () => setSeeking(true),
      a: () => void navigate({ pathname: `/plans/${planId}/shelf`, search: window.location.search }),
      m: () => device && setMoving(device),
      w: () => device && setPlacing(device),
      f: () => device && void navigate(`/plans/${planId}/noise?sheet=Feeds&s=${device}`),
      Delete: () =>
        selected &&
        removable &&
        void edit([{ op: "remove", element: selected }]).then(
          () => select(null),
          () => undefined,
        ),
      e: () => focusSoon([".ticket .quantity input", ".ticket h2"]),
      Escape: leave,
    };
    conditions.slice(0, 9).forEach((one, index) => (map[String(index + 1)] = () => choose(one.id)));
    for (const one of VIEWS) map[`g ${one.key}`] = () => void navigate({ pathname: `/plans/${planId}/${one.path}`, search: window.location.search });
    return map;
  }, [choose, conditions, device, edit, leave, navigate, planId, removable, select, selected, step]);
  useKeys(keys, letters.on);

  useEffect(() => {
    document.title = view ? `${view.build.name} · ${view.plan.name} – Yard Meter` : "Yard Meter";
  }, [view]);

  const { place, preview, clearError, reload } = store;
  const actions = useMemo<PlanActions>(
    () => ({
      choose,
      select,
      edit,
      place,
      preview,
      clearError,
      reload,
      undo: () => void step("undo"),
      redo: () => void step("redo"),
      showWorking: setAsked,
      move: setMoving,
      findPlace: setPlacing,
    }),
    [choose, clearError, edit, place, preview, reload, select, step],
  );
  const { busy, error } = store;
  const state = useMemo<PlanState | null>(() => (view ? { view, busy, error } : null), [busy, error, view]);
  const selection = useMemo<Selection>(() => ({ condition, standing, selected }), [condition, standing, selected]);

  if (!view || !state) {
    if (!store.loadError) return <Spin className="page-wait" description="Loading the plan" />;
    return (
      <Result
        status="warning"
        title={store.loadError.body.what}
        subTitle={store.loadError.body.remedy}
        extra={[
          <Button key="again" type="primary" onClick={store.reload}>
            Try again
          </Button>,
          <Button key="list" onClick={() => void navigate("/")}>
            All builds
          </Button>,
        ]}
      />
    );
  }

  const shown = VIEWS.find((one) => pathname.endsWith(`/${one.path}`));
  const alone = (shown?.path === "bench" || shown?.path === "run") && selected === null && !store.elsewhere;
  const go = (path: string) => void navigate({ pathname: `/plans/${planId}/${path}`, search: window.location.search });
  const doings: Doing[] = [
    ...VIEWS.map((one) => ({ name: one.name, group: "view", run: () => go(one.path) })),
    { name: "Undo", group: "command", run: () => void step("undo") },
    { name: "Redo", group: "command", run: () => void step("redo") },
    { name: "Add a part from the shelf", group: "command", run: () => go("shelf") },
    { name: "Policy of this plan", group: "command", run: () => select("policy") },
    { name: "Worst over all conditions", group: "command", run: () => choose(WORST) },
    { name: "Print the build card", group: "command", run: () => go("card") },
    { name: "All builds", group: "command", run: () => void navigate("/") },
    { name: "New build", group: "command", run: () => void navigate("/new") },
    { name: "Keys", group: "command", run: () => setHelp(true) },
    ...(device
      ? [
          { name: "Move the selected device", group: "command", run: () => setMoving(device) },
          { name: "Where could the selected device live?", group: "command", run: () => setPlacing(device) },
        ]
      : []),
  ];
  return (
    <PlanStateContext value={state}>
      <SelectionContext value={selection}>
        <PlanActionsContext value={actions}>
          <div className="shell">
            <SkipLinks />
            <Header returnTo={store.returnTo} openHelp={() => setHelp(true)} openSeek={() => setSeeking(true)} />
            <ConditionLine />
            <div className={alone ? "shell-body is-alone" : "shell-body"}>
              <Nav planId={planId} />
              <main className="shell-view" tabIndex={-1}>
                {shown && shown.path !== "card" && (
                  <h1 className="sr-only">
                    {shown.name}, {view.build.name}, {view.plan.name}
                  </h1>
                )}
                <Suspense fallback={<Spin className="page-wait" description="Loading the view" />}>
                  <Outlet />
                </Suspense>
              </main>
              {/* At the bench the room is the step's and the drawing's; a ticket that is asked for still opens. */}
              {!alone && <SidePanel elsewhere={store.elsewhere} />}
            </div>
            <SeekBox open={seeking} close={() => setSeeking(false)} doings={doings} />
            <MoveBox device={moving} close={() => setMoving(null)} />
            <PlacesBox device={placing} close={() => setPlacing(null)} />
            <WorkingPanel asked={asked} ask={setAsked} />
            <KeysHelp open={help} close={() => setHelp(false)} conditions={conditions} letters={letters} />
          </div>
        </PlanActionsContext>
      </SelectionContext>
    </PlanStateContext>
  );
}

/** Where to start: the condition of the worst finding. */
function hardest(view: PlanState["view"] | undefined): string | null {
  return view?.analysis.findings.find((f) => f.worst && f.severity !== "note")?.worst ?? view?.analysis.budget.conditions[0]?.id ?? null;
}
